/* A whole site over a port of its own: a bed that dries, a pump that wets it.
 * The plan is one_site.ini as `cuplatch bake` wrote it. */
#include <stdio.h>

#include "../ports/common/table.h"
#include "cuplatch/say.h"
#include "one_site_plan.h"

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
    cup_say_event(why, sizeof(why), baked.plan, event);
    printf("%6u s  %-5s %-6s %s\n", (unsigned)(event->t_ms / 1000),
           cup_thing_name(baked.plan, event->of), cup_kind_code(event->kind),
           why);
}

int main(void)
{
    static const struct cup_port_table table = {
        .now_ms = now_ms, .sample = sample, .drive = drive, .tell = tell};
    struct bed bed = {0, 2200, false};
    struct cup_port port = {&table, &bed};
    for (; bed.now_ms < 7200000; bed.now_ms += 1000) {
        if (cup_port_pass(&port, &baked) == CUP_ERROR_LAYOUT)
            return 1;
        if (bed.now_ms % 10000 == 0)
            bed.raw += bed.watered ? -10 : 1;
    }
    return 0;
}
