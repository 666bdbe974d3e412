/* Counts events against the truth. */
#include "tally.h"

#include <stdlib.h>
#include <string.h>

/* A run that was dry for so long is worth a word. */
#define DRY_S 60
/* What is told so long after the end of a trouble was still told of it. */
#define AFTER_S 3600

static const char *name_of(const struct tally *tally, cup_index pump)
{
    const struct cup_plan *plan = tally->site->plan;
    return cup_thing_name(plan, cup_pump_thing(plan, pump));
}

void tally_open(struct tally *tally, const struct cup_site *site,
                const struct garden *garden)
{
    size_t pumps = site->plan->pump_count + 1u;
    *tally = (struct tally){.site = site, .garden = garden};
    tally->pumps = calloc(pumps, sizeof(*tally->pumps));
    tally->truths = calloc(pumps, sizeof(*tally->truths));
    tally->troubles =
        calloc((size_t)garden_troubles(garden) + 1, sizeof(*tally->troubles));
    if (!tally->pumps || !tally->truths || !tally->troubles)
        abort();
    for (cup_index i = 0; i < site->plan->pump_count; i++) {
        tally->truths[i] = -1;
        for (int t = 0; t < garden_pumps(garden); t++)
            if (strcmp(garden_pump_truth(garden, t).name, name_of(tally, i)) ==
                0)
                tally->truths[i] = t;
    }
}

void tally_close(struct tally *tally)
{
    free(tally->pumps);
    free(tally->truths);
    free(tally->troubles);
}

const struct pump_tally *tally_pump(struct tally *tally, const char *name)
{
    struct pump_tally *found = NULL;
    for (cup_index i = 0; i < tally->site->plan->pump_count; i++)
        if (strcmp(name_of(tally, i), name) == 0)
            found = &tally->pumps[i];
    if (found) {
        found->dry_untold += found->ran_dry;
        found->ran_dry = false;
    }
    return found;
}

/* Runs that were dry for long: told when a trip comes of it. */
static void count_dry(struct tally *tally, cup_index i, uint8_t kind)
{
    struct pump_tally *pump = &tally->pumps[i];
    if (tally->truths[i] < 0)
        return;
    double dry_s = garden_pump_truth(tally->garden, tally->truths[i]).dry_s;
    if (kind == CUP_KIND_START) {
        pump->dry_untold += pump->ran_dry;
        pump->ran_dry = false;
        pump->dry_before_s = dry_s;
    } else if (kind == CUP_KIND_STOP) {
        pump->ran_dry = dry_s - pump->dry_before_s >= DRY_S;
        pump->dry_before_s = dry_s;
    }
}

static void count_trip(const struct tally *tally, cup_index i)
{
    struct pump_tally *pump = &tally->pumps[i];
    pump->trips++;
    pump->trips_well += garden_pump_is_well(tally->garden, name_of(tally, i));
    pump->ran_dry = false;
}

/* A duty that tripped: its pump may be well, and what was dry is told. */
static void count_duty(struct tally *tally, cup_index duty,
                       const struct cup_event *event)
{
    if (event->kind != CUP_KIND_TRIP)
        return;
    struct pump_tally *pump =
        &tally->pumps[tally->site->plan->duties[duty].pump];
    pump->unanswered++;
    pump->ran_dry = false;
}

static void count_pump(struct tally *tally, cup_index i,
                       const struct cup_event *event)
{
    struct pump_tally *pump = &tally->pumps[i];
    bool guarded = event->kind == CUP_KIND_STOP &&
                   tally->site->pumps[i].no != CUP_REASON_NONE;
    count_dry(tally, i, event->kind);
    if (event->kind == CUP_KIND_BLOCK || guarded) {
        pump->last[event->cause.reason] = *event;
        pump->blocks[event->cause.reason]++;
    }
    if (event->kind == CUP_KIND_START)
        pump->starts[event->cause.reason]++;
    if (event->kind == CUP_KIND_TRIP)
        count_trip(tally, i);
    if (event->kind == CUP_KIND_LOCK) {
        pump->locks++;
        pump->ran_dry = false;
    }
}

/* What a thing goes by: a tank by its sensor, a duty by its pump. */
static cup_index goes_by(const struct cup_plan *plan, cup_index thing)
{
    cup_index first = cup_duty_thing(plan, 0);
    if (thing >= plan->sensor_count && thing < cup_pump_thing(plan, 0))
        return cup_thing_sensor(plan, thing);
    return thing >= first && thing < first + plan->duty_count
               ? cup_pump_thing(plan, plan->duties[thing - first].pump)
               : CUP_NONE;
}

static bool has_name(const struct cup_plan *plan, cup_index thing,
                     const char *name)
{
    const char *own = thing == CUP_NONE ? NULL : cup_thing_name(plan, thing);
    return own && strcmp(own, name) == 0;
}

/* Whether a thing is, or goes by, what has that name. */
static bool is_about(const struct tally *tally, cup_index thing,
                     const char *name)
{
    const struct cup_plan *plan = tally->site->plan;
    return thing != CUP_NONE && (has_name(plan, thing, name) ||
                                 has_name(plan, goes_by(plan, thing), name));
}

static bool tells_of(const struct tally *tally, const struct cup_event *event,
                     const struct garden_trouble *trouble)
{
    switch (event->kind) {
    case CUP_KIND_BOOT:
        return strcmp(trouble->what, "controller") == 0;
    case CUP_KIND_LEAK:
        if (strcmp(trouble->kind, "leak") == 0)
            return true;
        break;
    case CUP_KIND_QUALITY:
        if (event->cause.reason == CUP_REASON_READABLE)
            return false;
        break;
    case CUP_KIND_TRIP:
    case CUP_KIND_LOCK:
    case CUP_KIND_ALERT:
        break;
    default:
        return false;
    }
    return is_about(tally, event->of, trouble->what) ||
           is_about(tally, event->cause.about, trouble->what);
}

static void count_troubles(const struct tally *tally, double now_s,
                           const struct cup_event *event)
{
    for (int i = 0; i < garden_troubles(tally->garden); i++) {
        struct garden_trouble trouble = garden_trouble_truth(tally->garden, i);
        struct trouble_tally *told = &tally->troubles[i];
        double after_s = now_s - trouble.at_s;
        if (told->told || after_s < 0 || after_s > trouble.for_s + AFTER_S ||
            !tells_of(tally, event, &trouble))
            continue;
        told->told = true;
        told->after_s = after_s;
        cup_say_event(told->why, sizeof(told->why), tally->site->plan, event);
    }
}

void tally_event(struct tally *tally, double now_s,
                 const struct cup_event *event)
{
    const struct cup_plan *plan = tally->site->plan;
    cup_index first = cup_pump_thing(plan, 0);
    tally->events++;
    tally->alerts +=
        event->kind == CUP_KIND_ALERT || event->kind == CUP_KIND_LEAK;
    if (event->of != CUP_NONE && event->of >= first &&
        event->of < first + plan->pump_count)
        count_pump(tally, (cup_index)(event->of - first), event);
    first = cup_duty_thing(plan, 0);
    if (event->of != CUP_NONE && event->of >= first &&
        event->of < first + plan->duty_count)
        count_duty(tally, (cup_index)(event->of - first), event);
    count_troubles(tally, now_s, event);
}
