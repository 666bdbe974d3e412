/* Looks at a plan before it is trusted: everything that points from one thing
 * to another, and every number without which a thing would do nothing. */
#include "inside.h"

/* A check under way: the plan, and the thing that is looked at. */
struct plan_look {
    CUP_FLASH struct cup_plan *plan;
    cup_index thing;
};

/* What is wrong when a part of it is, else goes on. */
#define CHECK_FIRST(part)                                                      \
    do {                                                                       \
        CUP_FLASH char *wrong = (part);                                        \
        if (wrong)                                                             \
            return wrong;                                                      \
    } while (0)
#define CHECK_HOLDS(holds, wrong)                                              \
    do {                                                                       \
        if (!(holds))                                                          \
            return CUP_TEXT(wrong);                                            \
    } while (0)

/* A number of something, or none. */
static bool is_below(cup_index number, cup_index count)
{
    return number == CUP_NONE || number < count;
}

/* A sensor or a tank. */
static bool is_read(const struct plan_look *look, cup_index thing)
{
    return thing < cup_pump_thing(look->plan, 0);
}

static bool is_tank(const struct plan_look *look, cup_index thing)
{
    return thing >= look->plan->sensor_count && is_read(look, thing);
}

static bool has_curve(CUP_FLASH struct cup_curve *curve)
{
    return curve && curve->knots && curve->count >= 1;
}

/* Two marks leave a band between them. */
static bool has_band(CUP_FLASH struct cup_latch *latch)
{
    return CUP_COUNTS(latch->start) != CUP_COUNTS(latch->stop);
}

/* Sensors and tanks */

static CUP_FLASH char *plan_of_belongings(const struct plan_look *look,
                                          CUP_FLASH struct cup_sensor *sensor)
{
    CUP_FLASH struct cup_plan *plan = look->plan;
    (void)plan, (void)sensor;
    CHECK_HOLDS(!CUP_IF(CHECKS, sensor->checks) ||
                    CUP_IF(CHECKS, sensor->checks_own < plan->checks),
                "checks_own is past the plan's checks");
    CHECK_HOLDS(
        CUP_IF_ELSE(FRAMES, is_below(sensor->stream_own, plan->streams), true),
        "stream_own is past the plan's streams; CUP_NONE for none");
    CHECK_HOLDS(CUP_IF_ELSE(SUPPLIES,
                            is_below(sensor->supply, plan->supplies) &&
                                is_below(sensor->channel, plan->channels),
                            true),
                "supply or channel is past the plan's; CUP_NONE for none");
    CHECK_HOLDS(
        CUP_IF_ELSE(AIR, is_below(sensor->air, plan->sensor_count), true),
        "air is no sensor; CUP_NONE for none");
    CHECK_HOLDS(CUP_IF_ELSE(SOURCES,
                            is_below(sensor->source, plan->source_count) &&
                                is_below(sensor->sibling, plan->sensor_count),
                            true),
                "source or sibling is past the plan's; CUP_NONE for none");
    CUP_WHERE(SEVERAL, {
        CUP_FLASH struct cup_several *several = sensor->several;
        CHECK_HOLDS(is_below(sensor->part_of, plan->sensor_count),
                    "what it is a part of is no sensor; CUP_NONE for none");
        CHECK_HOLDS(!several ||
                        (several->own < plan->severals && several->count > 0 &&
                         several->count <= CUP_SEVERAL_MOST),
                    "it is made of none, or of more than 8, or its own is past "
                    "the plan's severals");
        for (uint8_t i = 0; several && i < several->count; i++)
            CHECK_HOLDS(several->of[i] < plan->sensor_count,
                        "what it is made of is no sensor");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_sensor(const struct plan_look *look,
                                      CUP_FLASH struct cup_sensor *sensor)
{
    struct cup_window window = sensor->window;
    CHECK_HOLDS(has_curve(sensor->curve), "has no curve");
    CHECK_HOLDS(sensor->form < CUP_FORM_COUNT, "its form is none");
    CHECK_HOLDS(sensor->unit < CUP_UNIT_COUNT, "its unit is none");
    CHECK_HOLDS(sensor->every_ms > 0 && sensor->every_ms <= CUP_TIME_MAX_MS,
                "every_ms is 0 or more than 24 days: it is never asked");
    CHECK_HOLDS(
        sensor->lost_after_ms > sensor->every_ms,
        "lost_after_ms is not above every_ms: it is lost between two samples");
    CHECK_HOLDS(sensor->lowest <= sensor->highest,
                "lowest is above highest: every sample is rejected");
    CHECK_HOLDS(window.size >= 1 && window.size <= CUP_WINDOW_MAX,
                "its window has no sample, or more than there can be");
    CHECK_HOLDS(2 * window.trim < window.size,
                "its window trims all that it has");
    CHECK_HOLDS((uint32_t)sensor->cells + window.size <= look->plan->cells,
                "its window is past the plan's cells");
    return plan_of_belongings(look, sensor);
}

static CUP_FLASH char *plan_of_tank(const struct plan_look *look,
                                    CUP_FLASH struct cup_tank *tank)
{
    CHECK_HOLDS(tank->sensor < look->plan->sensor_count, "its sensor is none");
    if (CUP_IF(FLOATS, tank->form == CUP_TANK_FLOATS)) {
        CHECK_HOLDS(CUP_IF_ELSE(FLOATS,
                                is_below(tank->high, look->plan->sensor_count),
                                true),
                    "its upper float is no sensor; CUP_NONE for none");
        return NULL;
    }
    CHECK_HOLDS(has_curve(tank->fill), "has no curve of its fill");
    CHECK_HOLDS(tank->step_mm10 >= 1, "step_mm10 is 0");
    CUP_WHERE(SPANS, {
        CHECK_HOLDS(!tank->span || tank->span_own < look->plan->spans,
                    "span_own is past the plan's spans");
        CHECK_HOLDS(!tank->span ||
                        (tank->span->leap > 0 && tank->span->believe_ms > 0),
                    "its span has no leap or no time to believe another level");
    })
    return NULL;
}

/* Pumps */

static CUP_FLASH char *plan_of_guard(const struct plan_look *look,
                                     CUP_FLASH struct cup_guard *guard)
{
    CHECK_HOLDS(guard->kind < CUP_GUARD_COUNT, "a guard's kind is none");
    CHECK_HOLDS(guard->kind < CUP_GUARD_TANKS ? is_tank(look, guard->about)
                                              : is_read(look, guard->about),
                "a guard is about no tank or sensor");
    CHECK_HOLDS(
        CUP_COUNTS(guard->mark) != CUP_COUNTS(guard->clear),
        "a guard's mark and clear are the same: the pump would chatter");
    return NULL;
}

static CUP_FLASH char *plan_of_proof(const struct plan_look *look,
                                     CUP_FLASH struct cup_pump *pump)
{
    (void)look, (void)pump;
    CUP_WHERE(PROOFS, {
        CUP_FLASH struct cup_proof *proof = pump->proof;
        if (!proof)
            return NULL;
        CHECK_HOLDS(pump->proof_own < look->plan->proofs,
                    "proof_own is past the plan's proofs");
        CHECK_HOLDS(CUP_IF_ELSE(FLOWS, is_read(look, proof->about),
                                is_tank(look, proof->about)),
                    "its proof is about no tank or sensor");
        CHECK_HOLDS(proof->within_ms > 0,
                    "its proof has no time: within_ms is 0");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_pump(const struct plan_look *look,
                                    CUP_FLASH struct cup_pump *pump)
{
    CUP_FLASH struct cup_plan *plan = look->plan;
    (void)plan;
    CHECK_HOLDS(pump->guard_count == 0 || pump->guards,
                "has no table of guards");
    for (uint8_t i = 0; i < pump->guard_count; i++)
        CHECK_FIRST(plan_of_guard(look, &pump->guards[i]));
    CHECK_HOLDS(!CUP_IF(PER_DAYS, pump->per_day) ||
                    CUP_IF(PER_DAYS, pump->per_day_own < plan->per_days),
                "per_day_own is past the plan's limits of a day");
    CHECK_HOLDS(!CUP_IF(TRAVELS, pump->travel) ||
                    CUP_IF(TRAVELS, pump->travel_own < plan->travels),
                "travel_own is past the plan's travels");
    CHECK_HOLDS(
        CUP_IF_ELSE(AT_ONCE, is_below(pump->group, plan->group_count), true),
        "its group is past the plan's; CUP_NONE for none");
    return plan_of_proof(look, pump);
}

/* Duties */

static CUP_FLASH char *plan_of_dose(const struct plan_look *look,
                                    CUP_FLASH struct cup_duty *duty)
{
    (void)look, (void)duty;
    CUP_WHERE(DOSES, {
        if (!duty->dose)
            return NULL;
        CHECK_HOLDS(duty->dose_own < look->plan->doses,
                    "dose_own is past the plan's doses");
        CHECK_HOLDS(duty->dose->dose_ms > 0,
                    "dose_ms is 0: it never gives water");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_also(const struct plan_look *look,
                                    CUP_FLASH struct cup_duty *duty)
{
    (void)look, (void)duty;
    CUP_WHERE(ALSOS, {
        if (!duty->also)
            return NULL;
        CHECK_HOLDS(duty->also_own < look->plan->alsos,
                    "also_own is past the plan's second conditions");
        CHECK_HOLDS(is_read(look, duty->also->about),
                    "its second condition is about no sensor or tank");
        CHECK_HOLDS(
            has_band(&duty->also->latch),
            "its second condition has one mark: start and stop are the same");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_turn(const struct plan_look *look,
                                    CUP_FLASH struct cup_duty *duty)
{
    (void)look, (void)duty;
    CUP_WHERE(TURNS, {
        CUP_FLASH struct cup_turn *turn = duty->turn;
        CHECK_HOLDS(duty->turn_own < look->plan->turns,
                    "turn_own is past the plan's turns");
        CHECK_HOLDS(turn->run_ms > 0, "run_ms is 0: it never gives water");
        CHECK_HOLDS(
            turn->every_ms > 0 || turn->apart_ms > 0 || turn->dawn ||
                CUP_IF(CLOCK, turn->at_count > 0),
            "every_ms, apart_ms and dawn are 0, and it has no times: it "
            "never comes");
        CHECK_HOLDS(turn->until == CUP_NONE || is_read(look, turn->until),
                    "until is no sensor or tank; CUP_NONE for none");
        CHECK_HOLDS(
            CUP_IF_ELSE(DAYS, is_below(turn->day, look->plan->day_count), true),
            "day is past the plan's days; CUP_NONE for always");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_route(const struct plan_look *look,
                                     CUP_FLASH struct cup_duty *duty)
{
    (void)look, (void)duty;
    CUP_WHERE(ROUTES, {
        for (uint8_t v = 0; v < duty->through_count; v++)
            CHECK_HOLDS(
                duty->through && duty->through[v] < look->plan->pump_count,
                "a valve that it goes through is none of the plan's pumps");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_speed(CUP_FLASH struct cup_duty *duty)
{
    (void)duty;
    CUP_WHERE(SPEEDS, {
        CUP_FLASH struct cup_speed *speed = duty->speed;
        CHECK_HOLDS(!speed || speed->count >= 2, "its speed has no two points");
        for (uint8_t i = 1; speed && i < speed->count; i++)
            CHECK_HOLDS(speed->points[i].at != speed->points[i - 1].at,
                        "two points of its speed are the same");
    })
    return NULL;
}

static CUP_FLASH char *plan_of_duty(const struct plan_look *look,
                                    CUP_FLASH struct cup_duty *duty)
{
    CHECK_HOLDS(duty->pump < look->plan->pump_count, "its pump is none");
    CHECK_HOLDS(duty->keep == CUP_NONE || is_read(look, duty->keep),
                "keep is no sensor or tank");
    if (CUP_IF(TURNS, duty->turn)) {
        CHECK_FIRST(plan_of_turn(look, duty));
        return plan_of_route(look, duty);
    }
    CHECK_HOLDS(duty->keep != CUP_NONE, "keeps nothing, and has no turn");
    CHECK_HOLDS(has_band(&duty->latch),
                "start and stop are the same: the pump would chatter");
    CHECK_FIRST(plan_of_speed(duty));
    CHECK_FIRST(plan_of_dose(look, duty));
    CHECK_FIRST(plan_of_also(look, duty));
    return plan_of_route(look, duty);
}

/* What only looks */

static CUP_FLASH char *plan_of_day(const struct plan_look *look,
                                   CUP_FLASH struct cup_day *day)
{
    CHECK_HOLDS(is_below(day->light, look->plan->sensor_count),
                "light is no sensor; CUP_NONE for none");
    CHECK_HOLDS(day->light == CUP_NONE || has_band(&day->latch),
                "its marks of light are the same");
    CHECK_HOLDS(day->light != CUP_NONE || CUP_IF(CLOCK, day->from != day->to),
                "has neither light nor hours: it is never day");
    return NULL;
}

static CUP_FLASH char *plan_of_alert(const struct plan_look *look,
                                     CUP_FLASH struct cup_alert *alert)
{
    CHECK_HOLDS(is_read(look, alert->about), "is about no sensor or tank");
    CHECK_HOLDS(has_band(&alert->latch),
                "its mark and where it clears are the same");
    return NULL;
}

static CUP_FLASH char *plan_of_source(const struct plan_look *look,
                                      CUP_FLASH struct cup_source *source)
{
    CHECK_HOLDS(source->sensor < look->plan->sensor_count,
                "its sensor is none");
    CHECK_HOLDS(source->count >= 1 && source->count <= CUP_MODBUS_REGISTERS,
                "reads no register, or more than a block has");
    CHECK_HOLDS(source->every_ms > 0, "every_ms is 0: it is never asked");
    return NULL;
}

static CUP_FLASH char *plan_of_watches(struct plan_look *look)
{
    CUP_FLASH struct cup_plan *plan = look->plan;
    for (cup_index i = 0; i < plan->watch_count; i++) {
        look->thing = plan->watches[i].about;
        CHECK_HOLDS(is_read(look, plan->watches[i].about),
                    "a watch is about no sensor or tank");
        CHECK_HOLDS(is_below(plan->watches[i].pump, plan->pump_count),
                    "a watch is of no pump; CUP_NONE for none");
    }
    for (cup_index i = 0; i < plan->bar_count; i++)
        CHECK_HOLDS(is_read(look, plan->bars[i].about) && plan->bars[i].marks,
                    "a bar is about no sensor or tank, or has no marks");
    for (cup_index i = 0; i < plan->setting_count; i++)
        CHECK_HOLDS(plan->settings[i].duty < plan->duty_count &&
                        plan->settings[i].field < CUP_FIELD_COUNT,
                    "a setting is of no duty, or of none of its numbers");
    return NULL;
}

/* The plan */

#define CHECK_EACH(check, table, count, first)                                 \
    for (cup_index i = 0; i < look->plan->count; i++) {                        \
        look->thing = first(look->plan, i);                                    \
        CHECK_FIRST(check(look, &look->plan->table[i]));                       \
    }

static cup_index sensor_thing(CUP_FLASH struct cup_plan *plan, cup_index i)
{
    (void)plan;
    return i;
}

static bool has_tables(CUP_FLASH struct cup_plan *plan)
{
    const struct {
        CUP_FLASH void *table;
        cup_index count;
    } all[] = {{plan->sensors, plan->sensor_count},
               {plan->tanks, plan->tank_count},
               {plan->pumps, plan->pump_count},
               {plan->duties, plan->duty_count},
               {plan->sources, plan->source_count},
               {plan->days, plan->day_count},
               {plan->alerts, plan->alert_count},
               {plan->watches, plan->watch_count},
               {plan->settings, plan->setting_count},
               {plan->groups, plan->group_count},
               {plan->bars, plan->bar_count},
               {plan->signals, plan->signal_count}};
    for (size_t i = 0; i < sizeof(all) / sizeof(all[0]); i++)
        if (!all[i].table && all[i].count > 0)
            return false;
    return true;
}

static CUP_FLASH char *plan_as_whole(struct plan_look *look)
{
    CUP_FLASH struct cup_plan *plan = look->plan;
    CHECK_HOLDS(
        plan->layout == CUP_LAYOUT,
        "layout is not CUP_LAYOUT: it was made for other blocks or sizes");
    CHECK_HOLDS(plan->scan_ms > 0, "scan_ms is 0");
    CHECK_HOLDS(plan->late_ms > plan->scan_ms,
                "late_ms is not above scan_ms: every pass would be late");
    CHECK_HOLDS(has_tables(plan), "a table that it counts is missing");
    CHECK_EACH(plan_of_sensor, sensors, sensor_count, sensor_thing)
    CHECK_EACH(plan_of_tank, tanks, tank_count, cup_tank_thing)
    CHECK_EACH(plan_of_pump, pumps, pump_count, cup_pump_thing)
    CHECK_EACH(plan_of_duty, duties, duty_count, cup_duty_thing)
    CHECK_EACH(plan_of_day, days, day_count, cup_day_thing)
    CHECK_EACH(plan_of_alert, alerts, alert_count, cup_alert_thing)
    CHECK_EACH(plan_of_source, sources, source_count, cup_source_thing)
    look->thing = CUP_NONE;
    return plan_of_watches(look);
}

CUP_FLASH char *cup_plan_check(CUP_FLASH struct cup_plan *plan,
                               cup_index *thing)
{
    struct plan_look look = {plan, CUP_NONE};
    CUP_FLASH char *wrong = plan_as_whole(&look);
    if (thing)
        *thing = wrong ? look.thing : CUP_NONE;
    return wrong;
}
