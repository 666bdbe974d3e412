/* What the site notices of its tanks and pumps by itself: made of what the
 * grower wrote anyhow, and of a tank's leak. */
#include <stdio.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"

static struct cup_watch *add_watch(struct cup_file *file,
                                   struct cup_watch watch)
{
    struct cup_watch *to = &file->tables.watches[file->plan.watch_count++];
    *to = watch;
    return to;
}

/* "12mm in 40m" */
static void make_leak(struct cup_file *file, const struct thing *thing)
{
    const struct value *value = good_value(thing, "leak");
    struct scanned change;
    struct scanned time;
    int32_t mm10 = 0;
    int32_t ms = 0;
    if (!value)
        return;
    bool right = scan(value->text, "* in *", &change, &time) &&
                 !quantity_read(change.text, CUP_UNIT_MM, &mm10) &&
                 !quantity_read(time.text, CUP_UNIT_SECOND, &ms) && mm10 > 0 &&
                 ms > 0;
    if (!right)
        problem_error(&file->problems, value->place,
                      "expected LENGTH in TIME, such as 12mm in 40m");
    else if (value_of(thing, "floats")->given)
        problem_error(&file->problems, value->place,
                      "floats cannot tell a leak: it needs a sensor");
    else
        add_watch(file, (struct cup_watch){
                            .change = mm10,
                            .within_ms = (uint32_t)ms,
                            .about = cup_tank_thing(&file->plan, thing->index),
                            .pump = CUP_NONE,
                            .kind = CUP_WATCH_LEAK,
                            .way = CUP_WATCH_FALLS});
}

/* A line keeps its pressure when the pump is off, a thermometer and a probe
 * move by themselves; all else that proves a flow must be gone. */
static void make_still(struct cup_file *file, cup_index i)
{
    const struct cup_pump *pump = &file->plan.pumps[i];
    static const uint8_t ways[] = {[CUP_PROOF_RISES] = CUP_WATCH_RISES,
                                   [CUP_PROOF_FALLS] = CUP_WATCH_FALLS,
                                   [CUP_PROOF_ABOVE] = CUP_WATCH_ABOVE};
    if (!pump->proof ||
        (pump->proof->about < file->plan.sensor_count &&
         pump->proof->kind != CUP_PROOF_ABOVE) ||
        cup_thing_unit(&file->plan, pump->proof->about) == CUP_UNIT_PASCAL)
        return;
    add_watch(file, (struct cup_watch){.change = pump->proof->change,
                                       .within_ms = pump->proof->within_ms,
                                       .about = pump->proof->about,
                                       .pump = i,
                                       .kind = CUP_WATCH_STILL,
                                       .way = ways[pump->proof->kind]});
}

/* Whether a pump always gives its flow: no duty drives it in part. */
static bool has_one_flow(const struct cup_plan *plan, cup_index pump)
{
    for (cup_index i = 0; i < plan->duty_count; i++)
        if (plan->duties[i].pump == pump && plan->duties[i].speed)
            return false;
    return true;
}

/* A pump whose flow is known, on a tank whose volume is known. */
static void make_volume(struct cup_file *file, const struct thing *thing)
{
    const struct value *flow = good_value(thing, "flow");
    const struct value *from = good_value(thing, "from");
    if (!flow || !from)
        return;
    const struct thing *tank = &file->things.list[from->number];
    if (value_of(tank, "floats")->given ||
        !has_one_flow(&file->plan, thing->index))
        return;
    add_watch(file, (struct cup_watch){
                        .change = flow->number,
                        .about = cup_tank_thing(&file->plan, tank->index),
                        .pump = thing->index,
                        .kind = CUP_WATCH_VOLUME});
}

void plan_make_watches(struct cup_file *file)
{
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    bool watches = !site || number_of(site, "watches", 0) == 0;
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind == KIND_TANK)
            make_leak(file, thing);
        if (thing->kind != KIND_PUMP || !watches)
            continue;
        make_still(file, thing->index);
        make_volume(file, thing);
    }
}
