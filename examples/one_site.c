/* A whole site over a port of its own: a bed that dries, a pump that wets it.
 * The plan is written by hand here; a site file or `bake` makes the same. */
#include <stdio.h>

#include "../ports/common/table.h"
#include "cuplatch/say.h"

static struct cup_knot knots[2];
static const struct cup_curve curve = {knots, 2, true};
static const struct cup_sensor soil = {.curve = &curve,
                                       .every_ms = 30000,
                                       .lost_after_ms = 300000,
                                       .lowest = 300,
                                       .highest = 3800,
                                       .window = {1, 0},
                                       .unit = CUP_UNIT_PERCENT,
                                       CUP_SENSOR_ALONE};
static const struct cup_pump pump = {.rest_ms = 90000, .longest_ms = 900000};
static const struct cup_duty duty = {{3400, 6600, 0}, .keep = 0, .pump = 0};
static const char *const names[] = {"soil", "pump", "bed"};
static const struct cup_plan plan = {.layout = CUP_LAYOUT,
                                     .scan_ms = 1000,
                                     .late_ms = 10000,
                                     .cells = CUP_WINDOW_CELLS(1),
                                     .sensors = &soil,
                                     .sensor_count = 1,
                                     .pumps = &pump,
                                     .pump_count = 1,
                                     .duties = &duty,
                                     .duty_count = 1,
                                     .names = names};

/* The world: raw counts rise as the bed dries. */
struct bed {
    uint32_t now_ms;
    int32_t raw;
    bool watered;
};

static uint32_t now_ms(void *self)
{
    return ((struct bed *)self)->now_ms;
}

static struct cup_sample sample(void *self, cup_index sensor)
{
    (void)sensor;
    return (struct cup_sample){.raw = ((struct bed *)self)->raw};
}

static enum cup_error drive(void *self, cup_index which, bool high)
{
    (void)which;
    ((struct bed *)self)->watered = high;
    return CUP_OK;
}

static void tell(void *self, const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    (void)self;
    cup_say_cause(why, sizeof(why), &plan, event->of, &event->cause, false);
    printf("%6u s  %-5s %-6s %s\n", (unsigned)(event->t_ms / 1000),
           cup_thing_name(&plan, event->of), cup_kind_code(event->kind), why);
}

int main(void)
{
    static const struct cup_port_table table = {
        .now_ms = now_ms, .sample = sample, .drive = drive, .tell = tell};
    static const struct cup_point points[] = {{2910, 0}, {1180, 10000}};
    struct bed bed = {0, 2200, false};
    struct cup_port port = {&table, &bed};
    struct cup_site site;
    uint32_t state[64];
    if (cup_curve_make(knots, points, 2, true) ||
        cup_site_bind(&site, &plan, state, sizeof(state)))
        return 1;
    for (; bed.now_ms < 7200000; bed.now_ms += 1000) {
        if (cup_port_pass(&port, &site))
            return 1;
        if (bed.now_ms % 10000 == 0)
            bed.raw += bed.watered ? -10 : 1;
    }
    return 0;
}
