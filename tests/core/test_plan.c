/* Plans as somebody may write them by hand: each index past its table and each
 * number that must not be 0 is found, and told in words. */
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "../harness/harness.h"

/* A site file's plan, with tables of its own that may be damaged. */
struct copy {
    struct cup_file *file;
    struct cup_plan plan;
    struct cup_sensor sensors[40];
    struct cup_tank tanks[20];
    struct cup_pump pumps[20];
    struct cup_guard guards[4];
    struct cup_duty duties[20];
    struct cup_turn turn;
    struct cup_dose dose;
    struct cup_also also;
    struct cup_proof proof;
    struct cup_alert alerts[20];
};

#define COPY(table, count)                                                     \
    memcpy(copy->table, copy->plan.table,                                      \
           copy->plan.count * sizeof(*copy->table));                           \
    copy->plan.table = copy->table

static void begin(struct copy *copy)
{
    copy->file = cup_file_read(KEEPER);
    copy->plan = *cup_file_plan(copy->file);
    COPY(sensors, sensor_count);
    COPY(tanks, tank_count);
    COPY(pumps, pump_count);
    COPY(duties, duty_count);
    COPY(alerts, alert_count);
}

/* The first of them that has a part, with a part of its own. */
#define OWN(of, count, part)                                                   \
    static cup_index own_##part(struct copy *copy)                             \
    {                                                                          \
        cup_index i = 0;                                                       \
        while (i < copy->plan.count && !copy->of[i].part)                      \
            i++;                                                               \
        if (i == copy->plan.count)                                             \
            abort();                                                           \
        copy->part = *copy->of[i].part;                                        \
        copy->of[i].part = &copy->part;                                        \
        return i;                                                              \
    }
OWN(duties, duty_count, turn)
OWN(duties, duty_count, dose)
OWN(duties, duty_count, also)
OWN(pumps, pump_count, proof)

static cup_index own_guards(struct copy *copy)
{
    cup_index i = 0;
    while (copy->pumps[i].guard_count == 0)
        i++;
    memcpy(copy->guards, copy->pumps[i].guards,
           copy->pumps[i].guard_count * sizeof(copy->guards[0]));
    copy->pumps[i].guards = copy->guards;
    return i;
}

/* Damages the plan; returns what is to be told of. */
typedef cup_index damage(struct copy *copy);

static cup_index no_late(struct copy *copy)
{
    copy->plan.late_ms = 0;
    return CUP_NONE;
}
static cup_index other_layout(struct copy *copy)
{
    copy->plan.layout++;
    return CUP_NONE;
}
static cup_index no_table(struct copy *copy)
{
    copy->plan.pumps = NULL;
    return CUP_NONE;
}
static cup_index no_every(struct copy *copy)
{
    copy->sensors[1].every_ms = 0;
    return 1;
}
static cup_index wide_window(struct copy *copy)
{
    copy->sensors[0].cells = copy->plan.cells;
    return 0;
}
static cup_index even_window(struct copy *copy)
{
    copy->sensors[0].window.size = 0;
    return 0;
}
static cup_index foreign_stream(struct copy *copy)
{
    copy->sensors[2].stream_own = copy->plan.streams;
    return 2;
}
static cup_index no_curve(struct copy *copy)
{
    copy->sensors[0].curve = NULL;
    return 0;
}
static cup_index tank_of_nothing(struct copy *copy)
{
    copy->tanks[0].sensor = copy->plan.sensor_count;
    return cup_tank_thing(&copy->plan, 0);
}
static cup_index guard_of_a_sensor(struct copy *copy)
{
    cup_index i = own_guards(copy);
    copy->guards[0].about = 0;
    return cup_pump_thing(&copy->plan, i);
}
static cup_index guard_of_no_kind(struct copy *copy)
{
    cup_index i = own_guards(copy);
    copy->guards[0].kind = CUP_GUARD_COUNT;
    return cup_pump_thing(&copy->plan, i);
}
static cup_index proof_without_time(struct copy *copy)
{
    cup_index i = own_proof(copy);
    copy->proof.within_ms = 0;
    return cup_pump_thing(&copy->plan, i);
}
static cup_index duty_of_no_pump(struct copy *copy)
{
    copy->duties[0].pump = copy->plan.pump_count;
    return cup_duty_thing(&copy->plan, 0);
}
static cup_index turn_that_never_comes(struct copy *copy)
{
    cup_index i = own_turn(copy);
    copy->turn.every_ms = copy->turn.apart_ms = 0;
    copy->turn.dawn = false;
    copy->turn.at_count = 0;
    return cup_duty_thing(&copy->plan, i);
}
static cup_index turn_of_no_length(struct copy *copy)
{
    cup_index i = own_turn(copy);
    copy->turn.run_ms = 0;
    return cup_duty_thing(&copy->plan, i);
}
static cup_index dose_of_nothing(struct copy *copy)
{
    cup_index i = own_dose(copy);
    copy->dose.dose_ms = 0;
    return cup_duty_thing(&copy->plan, i);
}
static cup_index also_of_nothing(struct copy *copy)
{
    cup_index i = own_also(copy);
    copy->also.about = cup_pump_thing(&copy->plan, 0);
    return cup_duty_thing(&copy->plan, i);
}
static cup_index alert_of_one_mark(struct copy *copy)
{
    copy->alerts[0].latch.stop = copy->alerts[0].latch.start;
    return cup_alert_thing(&copy->plan, 0);
}

CASE(each_mistake_in_a_plan_is_found_and_told_where_it_is)
{
    static damage *const mistakes[] = {no_late,           other_layout,
                                       no_table,          no_every,
                                       wide_window,       even_window,
                                       foreign_stream,    no_curve,
                                       tank_of_nothing,   guard_of_a_sensor,
                                       guard_of_no_kind,  proof_without_time,
                                       duty_of_no_pump,   turn_that_never_comes,
                                       turn_of_no_length, dose_of_nothing,
                                       also_of_nothing,   alert_of_one_mark};
    for (size_t i = 0; i < sizeof(mistakes) / sizeof(mistakes[0]); i++) {
        static struct copy copy;
        cup_index thing = 0;
        begin(&copy);
        CHECK(cup_plan_check(&copy.plan, &thing) == NULL);
        CHECK_INT(thing, CUP_NONE);
        cup_index where = mistakes[i](&copy);
        const char *wrong = cup_plan_check(&copy.plan, &thing);
        harness_at("mistake %zu: %s", i, wrong ? wrong : "nothing");
        CHECK(wrong != NULL);
        CHECK_INT(thing, where);
        cup_file_free(copy.file);
    }
    harness_at(NULL);
}

/* As somebody would write it: one bed, one pump. */
CASE(a_small_plan_by_hand_holds_and_a_forgotten_field_is_told)
{
    static struct cup_knot knots[] = {{0, 10000, 0, 0}, {1000, 0, 0, 0}};
    static const struct cup_curve curve = {knots, 2, true};
    struct cup_sensor soil = {.curve = &curve,
                              .every_ms = 1000,
                              .lost_after_ms = 20000,
                              .highest = 1000,
                              .window = {1, 0},
                              .unit = CUP_UNIT_PERCENT,
                              CUP_SENSOR_ALONE};
    struct cup_pump pump = {.longest_ms = 60000, .group = CUP_NONE};
    struct cup_duty bed = {.latch = {.start = 3000, .stop = 6000},
                           .settings = CUP_NONE};
    struct cup_plan plan = {.layout = CUP_LAYOUT,
                            .scan_ms = 1000,
                            .late_ms = 10000,
                            .cells = 1,
                            .sensor_count = 1,
                            .pump_count = 1,
                            .duty_count = 1,
                            .sensors = &soil,
                            .pumps = &pump,
                            .duties = &bed};
    CHECK(cup_plan_check(&plan, NULL) == NULL);
    plan.late_ms = 0;
    CHECK_TEXT(cup_plan_check(&plan, NULL),
               "late_ms is not above scan_ms: every pass would be late");
    plan.late_ms = 10000;
    bed.keep = CUP_NONE;
    CHECK_TEXT(cup_plan_check(&plan, NULL), "keeps nothing, and has no turn");
}
