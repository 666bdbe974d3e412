/* What the file has of pumps and doses, and what their runs say of it. */
#include <stdlib.h>
#include <string.h>

#include "../../advice/bed.h"
#include "../../advice/flow.h"
#include "../../grammar/quantity.h"
#include "advice.h"

/* What tells of a pump's water */

static bool is_tank(const struct advising *advising, cup_index thing)
{
    const struct cup_plan *plan = advising->site.site.plan;
    return thing >= plan->sensor_count && thing < cup_pump_thing(plan, 0);
}

/* The tank that a key of a pump names; CUP_NONE: none. */
static cup_index tank_by(const struct advising *advising, const char *pump,
                         const char *key)
{
    const struct cup_plan *plan = advising->site.site.plan;
    const char *name = cup_file_value(advising->site.file, pump, key);
    for (cup_index i = 0; name && i < plan->tank_count; i++)
        if (strcmp(advised_name(advising, cup_tank_thing(plan, i)), name) == 0)
            return cup_tank_thing(plan, i);
    return CUP_NONE;
}

/* Everything else that draws from a tank or fills it. */
static void find_others(const struct advising *advising, cup_index tank,
                        cup_index own, struct flow_sight *sight)
{
    const struct cup_plan *plan = advising->site.site.plan;
    for (cup_index i = 0; i < plan->pump_count; i++) {
        cup_index thing = cup_pump_thing(plan, i);
        const char *name = advised_name(advising, thing);
        if (thing != own && sight->other_count < FLOW_OTHERS &&
            (tank_by(advising, name, "from") == tank ||
             tank_by(advising, name, "into") == tank))
            sight->others[sight->other_count++] = &advising->things[thing].runs;
    }
}

/* How late its level is, in s. */
static uint32_t lag_of(const struct advising *advising, cup_index sensor)
{
    const struct cup_plan *plan = advising->site.site.plan;
    uint32_t lag = (cup_file_lag_ms(&plan->sensors[sensor]) + 999) / 1000;
    return lag > advising->lag_s ? lag : advising->lag_s;
}

static struct flow_sight sight_of(const struct advising *advising,
                                  cup_index pump, cup_index about)
{
    const struct cup_plan *plan = advising->site.site.plan;
    struct flow_sight sight = {
        .name = advised_name(advising, about),
        .track = &advising->things[about].track,
        .sign = 1,
        .rises = true,
        .lag_s = lag_of(advising, cup_thing_sensor(plan, about)),
        .old_s = advising->old_s,
        .runs = &advising->things[pump].runs};
    sight.unit = cup_thing_unit(plan, about);
    if (is_tank(advising, about))
        find_others(advising, about, pump, &sight);
    return sight;
}

/* A tank tells by its depth, of which a ranger reads the rest. */
static bool by_depth(const struct advising *advising, cup_index tank,
                     bool rises, struct flow_sight *sight)
{
    const struct cup_plan *plan = advising->site.site.plan;
    cup_index sensor = cup_thing_sensor(plan, tank);
    if (cup_tank_of(plan, tank)->form != CUP_TANK_DISTANCE)
        return false;
    sight->track = &advising->things[sensor].track;
    sight->unit = CUP_UNIT_MM;
    sight->rises = rises;
    sight->sign = rises ? -1 : 1;
    return true;
}

/* By what the file's proof is about, or by what it would best be; false where
 * nothing tells. */
static bool find_sight(const struct advising *advising, cup_index pump,
                       const struct cup_proof *proof, struct flow_sight *sight)
{
    const char *name = advised_name(advising, pump);
    cup_index into = tank_by(advising, name, "into");
    cup_index about = into;
    bool rises = true;
    if (proof) {
        about = proof->about;
        rises = proof->kind != CUP_PROOF_FALLS;
    } else if (into == CUP_NONE) {
        about = tank_by(advising, name, "from");
        rises = false;
    }
    if (about == CUP_NONE)
        return false;
    *sight = sight_of(advising, pump, about);
    sight->above = proof && proof->kind == CUP_PROOF_ABOVE;
    if (is_tank(advising, about))
        return by_depth(advising, about, rises, sight);
    if (!sight->above)
        sight->unit = cup_unit_of_change(sight->unit);
    sight->rises = rises;
    sight->sign = rises ? 1 : -1;
    return true;
}

/* Pumps */

static void add(struct advised *advised, const char *key, bool found)
{
    if (!found)
        return;
    snprintf(advised->proposals[advised->count].key,
             sizeof(advised->proposals[0].key), "%s", key);
    advised->count++;
}

static struct proposal *room(struct advised *advised)
{
    advised->proposals[advised->count] = (struct proposal){.looser = false};
    return &advised->proposals[advised->count];
}

static const struct cup_proof *proof_of(const struct advising *advising,
                                        cup_index pump)
{
    const struct cup_plan *plan = advising->site.site.plan;
    return plan->pumps[pump - cup_pump_thing(plan, 0)].proof;
}

static void advise_proof(struct advising *advising, cup_index pump)
{
    struct advised *advised = &advising->things[pump];
    const struct cup_proof *proof = proof_of(advising, pump);
    struct flow_sight sight;
    if (find_sight(advising, pump, proof, &sight))
        add(advised, "proof",
            propose_proof(&sight, proof ? proof->change : 0,
                          proof ? proof->within_ms / 1000 : 0, room(advised)));
}

static void advise_clear(struct advising *advising, cup_index pump)
{
    struct advised *advised = &advising->things[pump];
    const char *name = advised_name(advising, pump);
    const char *text = cup_file_value(advising->site.file, name, "dry_below");
    cup_index from = tank_by(advising, name, "from");
    int32_t below;
    int32_t clear;
    if (!text || from == CUP_NONE ||
        quantity_read(text, CUP_UNIT_PERCENT, &below))
        return;
    text = cup_file_value(advising->site.file, name, "dry_clear");
    if (!text || quantity_read(text, CUP_UNIT_PERCENT, &clear))
        return;
    struct flow_sight sight = sight_of(advising, pump, from);
    add(advised, "dry_clear",
        propose_clear(&sight, below, clear, room(advised)));
}

/* A level that is still full of spikes: what it does is not known before that
 * is mended. CUP_NONE: there is none. */
static cup_index rough_of(const struct advising *advising, cup_index about)
{
    if (about == CUP_NONE)
        return CUP_NONE;
    cup_index sensor = cup_thing_sensor(advising->site.site.plan, about);
    const struct advised *advised = &advising->things[sensor];
    for (size_t i = 0; i < advised->count; i++)
        if (strcmp(advised->proposals[i].key, "smooth") == 0)
            return sensor;
    return CUP_NONE;
}

static void advise_pump(struct advising *advising, cup_index pump)
{
    const char *name = advised_name(advising, pump);
    const struct cup_proof *proof = proof_of(advising, pump);
    cup_index from = tank_by(advising, name, "from");
    cup_index into = tank_by(advising, name, "into");
    cup_index rough = rough_of(advising, proof ? proof->about : into);
    if (!proof && from == CUP_NONE && into == CUP_NONE)
        return; /* a fan or a lamp moves no water */
    rough = rough == CUP_NONE ? rough_of(advising, from) : rough;
    size_t runs = advising->things[pump].runs.count;
    printf("%s: %zu run%s.\n", name, runs, runs == 1 ? "" : "s");
    if (rough != CUP_NONE) {
        printf("  write what is said of %s first, and ask again of days after "
               "that.\n",
               advised_name(advising, rough));
        return;
    }
    advise_proof(advising, pump);
    advise_clear(advising, pump);
    advice_tell(advising, pump);
}

void advice_of_pumps(struct advising *advising)
{
    const struct cup_plan *plan = advising->site.site.plan;
    for (cup_index i = cup_pump_thing(plan, 0); i < cup_duty_thing(plan, 0);
         i++)
        if (advising->things[i].chosen)
            advise_pump(advising, i);
}

/* Duties */

static void advise_duty(struct advising *advising, cup_index thing)
{
    const struct cup_site *site = &advising->site.site;
    cup_index duty = (cup_index)(thing - cup_duty_thing(site->plan, 0));
    const struct cup_duty *of = &site->plan->duties[duty];
    struct advised *advised = &advising->things[thing];
    struct bed_facts facts;
    const struct bed_now now = {
        .track = &advising->things[of->keep].track,
        .runs = &advising->things[cup_pump_thing(site->plan, of->pump)].runs,
        .duty = thing,
        .start = cup_site_mark(site, duty, false),
        .stop = cup_site_mark(site, duty, true),
        .unit = cup_thing_unit(site->plan, of->keep),
        .dose_s = of->dose->dose_ms / 1000,
        .soak_s = of->dose->soak_ms / 1000,
        .old_s = advising->old_s};
    bool known = bed_look(&now, &facts);
    printf("%s: %zu session%s, %zu dose%s.\n", advised_name(advising, thing),
           facts.sessions, facts.sessions == 1 ? "" : "s", facts.doses,
           facts.doses == 1 ? "" : "s");
    if (!known) {
        puts("  too few to tell anything.");
        return;
    }
    advised->count = propose_bed(&now, &facts, advised->proposals);
    advice_tell(advising, thing);
}

void advice_of_duties(struct advising *advising)
{
    const struct cup_plan *plan = advising->site.site.plan;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        cup_index thing = cup_duty_thing(plan, i);
        if (advising->things[thing].chosen && plan->duties[i].dose)
            advise_duty(advising, thing);
    }
}
