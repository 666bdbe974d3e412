/* The standing promises, over random sites, readings, dropouts, steering and
 * late passes. An observer that knows only the plan, the raw samples and the
 * outputs keeps its own account and says when a promise is broken. */
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/site.h"

#define PUMPS 3
#define PASSES 120
#define SITES 12000
#define CAN_LOSE 2

/* Two tanks seen by one sensor each, a bed a pump; pumps share the tanks. */
struct world {
    struct cup_knot knots[2];
    struct cup_curve curve;
    struct cup_sensor sensors[PUMPS + CAN_LOSE];
    struct cup_tank tanks[CAN_LOSE];
    struct cup_guard guards[PUMPS][2];
    struct cup_proof proofs[PUMPS];
    struct cup_per_day days[PUMPS];
    struct cup_pump pumps[PUMPS];
    struct cup_duty duties[PUMPS];
    struct cup_plan plan;
};

struct log {
    uint32_t hash;
    unsigned events;
};

/* What the observer keeps of a pump. */
struct watch {
    bool on;
    bool low;
    bool full;
    uint32_t since_ms;
};

static unsigned seen[CUP_REASON_COUNT];

static void take(void *self, const struct cup_event *event)
{
    struct log *log = self;
    const uint32_t words[] = {
        event->t_ms, (uint32_t)event->cause.value, (uint32_t)event->cause.limit,
        (uint32_t)event->of << 16 | (uint32_t)event->kind << 8 |
            event->cause.reason};
    for (size_t i = 0; i < 4; i++)
        log->hash = (log->hash ^ words[i]) * UINT32_C(16777619);
    log->events++;
    seen[event->cause.reason]++;
}

static uint32_t some_ms(struct chance *chance, int32_t most)
{
    return (uint32_t)chance_between(chance, 0, most) * 500;
}

static void make_duty(struct world *world, struct chance *chance, int i)
{
    int32_t start = chance_between(chance, 1, 9000);
    int32_t stop = start + chance_between(chance, 1, 900);
    bool up = chance_of(chance, 70);
    world->duties[i] = (struct cup_duty){
        .latch = {up ? start : stop, up ? stop : start, some_ms(chance, 6)},
        .keep = (cup_index)i,
        .pump = (cup_index)chance_between(chance, 0, PUMPS - 1),
    };
}

/* A proof, limits of a day, a shortest run: some pumps have some of them. Days
 * are not shortened, so their limits are what one site meets in its minutes. */
static void make_extras(struct world *world, struct chance *chance, int i,
                        cup_index tank)
{
    struct cup_pump *pump = &world->pumps[i];
    world->proofs[i] = (struct cup_proof){
        .change = chance_between(chance, 0, 900),
        .within_ms = 500 + some_ms(chance, 20),
        .about = cup_tank_thing(
            &world->plan, chance_of(chance, 50) ? tank : (cup_index)(1 - tank)),
        .kind =
            (uint8_t)chance_between(chance, CUP_PROOF_RISES, CUP_PROOF_FALLS)};
    world->days[i] =
        (struct cup_per_day){.time_ms = some_ms(chance, 60),
                             .starts = (uint16_t)chance_between(chance, 0, 6)};
    if (chance_of(chance, 50)) {
        pump->proof = &world->proofs[i];
        pump->proof_own = world->plan.proofs++;
    }
    if (chance_of(chance, 50)) {
        pump->per_day = &world->days[i];
        pump->per_day_own = world->plan.per_days++;
    }
    if (chance_of(chance, 50) && pump->longest_ms > 0)
        pump->shortest_ms = pump->longest_ms / 2;
}

static void make_pump(struct world *world, struct chance *chance, int i)
{
    int32_t low = chance_between(chance, 100, 9000);
    cup_index tank = (cup_index)chance_between(chance, 0, CAN_LOSE - 1);
    int32_t full = chance_between(chance, 1000, 9900);
    world->guards[i][0] = (struct cup_guard){
        low, low + chance_between(chance, 1, 900),
        cup_tank_thing(&world->plan, tank), CUP_GUARD_SOURCE};
    world->guards[i][1] = (struct cup_guard){
        full, full - chance_between(chance, 1, 900),
        cup_tank_thing(&world->plan, (cup_index)(CAN_LOSE - 1 - tank)),
        CUP_GUARD_DESTINATION};
    world->pumps[i] = (struct cup_pump){
        .rest_ms = some_ms(chance, 20),
        .longest_ms = some_ms(chance, 30),
        .retry_ms = some_ms(chance, 20),
        .hand_limit_ms = 10000,
        .guards = world->guards[i],
        .guard_count = (uint8_t)chance_between(chance, 1, 2),
        .retries = (uint8_t)chance_between(chance, 0, 3),
    };
    make_extras(world, chance, i, tank);
    make_duty(world, chance, i);
}

static void make_world(struct world *world, struct chance *chance)
{
    static const struct cup_point points[] = {{0, 0}, {10000, 10000}};
    memset(world, 0, sizeof(*world));
    CHECK_INT(cup_curve_make(world->knots, points, 2, true), CUP_OK);
    world->curve = (struct cup_curve){world->knots, 2, true};
    world->plan =
        (struct cup_plan){.layout = CUP_LAYOUT,
                          .scan_ms = 1000,
                          .late_ms = 3000 + some_ms(chance, 10),
                          .boot_wait_ms = some_ms(chance, 10),
                          .at_once = (cup_index)chance_between(chance, 0, 2),
                          .sensor_count = PUMPS + CAN_LOSE,
                          .tank_count = CAN_LOSE,
                          .pump_count = PUMPS,
                          .duty_count = PUMPS,
                          .sensors = world->sensors,
                          .tanks = world->tanks,
                          .pumps = world->pumps,
                          .duties = world->duties};
    for (int i = 0; i < PUMPS + CAN_LOSE; i++) {
        uint8_t size = (uint8_t)(1 + 2 * chance_between(chance, 0, 2));
        world->sensors[i] =
            (struct cup_sensor){.curve = &world->curve,
                                .every_ms = 500 + some_ms(chance, 6),
                                .lost_after_ms = 4000 + some_ms(chance, 10),
                                .highest = 10000,
                                .cells = world->plan.cells,
                                .window = {size, (uint8_t)(size / 2)},
                                CUP_SENSOR_ALONE,
                                .unit = CUP_UNIT_PERCENT};
        world->plan.cells =
            (uint16_t)(world->plan.cells + CUP_WINDOW_CELLS(size));
    }
    for (int i = 0; i < CAN_LOSE; i++)
        world->tanks[i] = (struct cup_tank){.fill = &world->curve,
                                            .volume = &world->curve,
                                            .top = 10000,
                                            .sensor = (cup_index)(PUMPS + i)};
    for (int i = 0; i < PUMPS; i++)
        make_pump(world, chance, i);
}

static struct cup_sample some_sample(struct chance *chance, int32_t *drift)
{
    if (chance_of(chance, 12))
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    if (chance_of(chance, 5))
        return (struct cup_sample){.raw = (int32_t)chance_bits(chance)};
    *drift += chance_between(chance, -700, 700);
    *drift = *drift < 0 ? 0 : *drift > 10000 ? 10000 : *drift;
    return (struct cup_sample){.raw = *drift};
}

static bool fine(const struct cup_reading *reading)
{
    return (reading->flags & CUP_READING_KNOWN) &&
           reading->quality != CUP_QUALITY_LOST;
}

/* Promise 1 and 2: what a running pump rests on. */
static void watch_running(const struct cup_site *site, struct watch *watch,
                          cup_index i, bool by_hand)
{
    const struct cup_pump *pump = &site->plan->pumps[i];
    struct cup_reading source = cup_site_reading(site, pump->guards[0].about);
    CHECK(fine(&source));
    CHECK(source.value >= pump->guards[0].mark && !watch->low);
    if (pump->guard_count > 1) {
        struct cup_reading into = cup_site_reading(site, pump->guards[1].about);
        CHECK(fine(&into));
        CHECK(into.value <= pump->guards[1].mark && !watch->full);
    }
    if (by_hand)
        return;
    bool kept = false;
    for (cup_index d = 0; d < site->plan->duty_count; d++) {
        struct cup_reading bed =
            cup_site_reading(site, site->plan->duties[d].keep);
        kept |= site->plan->duties[d].pump == i && fine(&bed);
    }
    CHECK(kept);
}

/* The observer's own memory of a guard. */
static void remember(const struct cup_site *site, const struct cup_guard *guard,
                     bool *closed)
{
    struct cup_reading reading = cup_site_reading(site, guard->about);
    bool low_is_bad = guard->mark < guard->clear;
    if (!fine(&reading))
        return;
    if (low_is_bad ? reading.value < guard->mark : reading.value > guard->mark)
        *closed = true;
    if (low_is_bad ? reading.value > guard->clear
                   : reading.value < guard->clear)
        *closed = false;
}

static void watch_pump(const struct cup_site *site, struct watch *watch,
                       cup_index i, uint32_t now_ms, bool steered)
{
    const struct cup_pump *pump = &site->plan->pumps[i];
    bool on = cup_site_runs(site, i);
    remember(site, &pump->guards[0], &watch->low);
    remember(site, &pump->guards[1], &watch->full);
    if (on)
        watch_running(site, watch, i, steered);
    if (on && !watch->on) /* promise 3: rest, and at boot the boot wait */
        CHECK(now_ms - watch->since_ms >= pump->rest_ms);
    if (on != watch->on)
        watch->since_ms = now_ms;
    if (on && pump->longest_ms > 0) /* promise 3: longest */
        CHECK(now_ms - watch->since_ms < pump->longest_ms);
    watch->on = on;
}

/* Two sites play the same; the twin is nudged so that it never takes the
 * short way out of a pass. */
struct pair {
    struct cup_site site;
    struct cup_site twin;
    uint32_t state[400];
    uint32_t twin_state[400];
    struct log log;
    struct log twin_log;
};

static void both_hear(struct pair *pair, cup_index sensor, uint32_t now_ms,
                      struct cup_sample sample)
{
    cup_site_hear(&pair->site, sensor, now_ms, sample);
    cup_site_hear(&pair->twin, sensor, now_ms, sample);
}

static void both_decide(struct pair *pair, uint32_t now_ms)
{
    static const struct cup_word nudge = {.verb = CUP_VERB_GO};
    struct cup_sink sink = {take, &pair->log};
    struct cup_sink twin_sink = {take, &pair->twin_log};
    cup_site_decide(&pair->site, now_ms, &sink);
    CHECK_INT(cup_site_steer(&pair->twin, now_ms, &nudge), CUP_OK);
    cup_site_decide(&pair->twin, now_ms, &twin_sink);
    CHECK_INT(pair->log.hash, pair->twin_log.hash);
    CHECK_INT(pair->log.events, pair->twin_log.events);
}

static bool steer(struct pair *pair, struct chance *chance, uint32_t now_ms)
{
    struct cup_word word = {
        .verb = (uint8_t)chance_between(chance, CUP_VERB_AUTO, CUP_VERB_CLEAR),
        .target = (cup_index)chance_between(chance, 0, PUMPS - 1),
        .number = 3000};
    CHECK_INT(cup_site_steer(&pair->site, now_ms, &word), CUP_OK);
    CHECK_INT(cup_site_steer(&pair->twin, now_ms, &word), CUP_OK);
    return true;
}

static void begin(struct pair *pair, const struct cup_plan *plan)
{
    memset(pair, 0, sizeof(*pair));
    CHECK_INT(
        cup_site_bind(&pair->site, plan, pair->state, sizeof(pair->state)),
        CUP_OK);
    CHECK_INT(cup_site_bind(&pair->twin, plan, pair->twin_state,
                            sizeof(pair->twin_state)),
              CUP_OK);
}

static void play(const struct world *world, struct chance *chance)
{
    static struct pair pair;
    struct watch watch[PUMPS] = {0};
    int32_t drift[PUMPS + CAN_LOSE] = {0};
    uint32_t now = chance_bits(chance);
    bool steered = false;
    bool steers = chance_of(chance, 40);
    begin(&pair, &world->plan);
    for (int i = 0; i < PUMPS; i++)
        watch[i] = (struct watch){.since_ms = now, .low = true, .full = true};
    for (int i = 0; i < PASSES && !harness_failed(); i++) {
        struct cup_want want;
        bool dark = chance_of(chance, 20);
        while (cup_site_ask(&pair.site, now, &want))
            both_hear(&pair, want.index, now,
                      dark ? (struct cup_sample){.reject = CUP_REASON_NO_ANSWER}
                           : some_sample(chance, &drift[want.index]));
        if (steers && chance_of(chance, 10))
            steered = steer(&pair, chance, now);
        both_decide(&pair, now);
        for (cup_index p = 0; p < PUMPS; p++)
            watch_pump(&pair.site, &watch[p], p, now, steered);
        now += chance_of(chance, 2) ? 20000 : 500u * (chance_bits(chance) % 3);
    }
}

CASE(promises_hold_on_random_sites)
{
    for (uint32_t i = 0; i < SITES && !harness_failed(); i++) {
        static struct world world;
        uint32_t seed = harness_seed() + i;
        struct chance chance = chance_from(seed);
        harness_at("site seed %u", seed);
        make_world(&world, &chance);
        play(&world, &chance);
    }
    harness_at(NULL);
}

CASE(the_random_sites_met_every_reason)
{
    static const uint8_t expected[] = {
        CUP_REASON_POWER_ON,
        CUP_REASON_BELOW_START,
        CUP_REASON_ABOVE_START,
        CUP_REASON_ABOVE_STOP,
        CUP_REASON_BELOW_STOP,
        CUP_REASON_UNDER_WAY,
        CUP_REASON_READING_LOST,
        CUP_REASON_READABLE,
        CUP_REASON_SOURCE_LOW,
        CUP_REASON_SOURCE_NOT_CLEAR,
        CUP_REASON_SOURCE_LOST,
        CUP_REASON_SOURCE_UNKNOWN,
        CUP_REASON_DESTINATION_FULL,
        CUP_REASON_DESTINATION_NOT_CLEAR,
        CUP_REASON_DESTINATION_LOST,
        CUP_REASON_NO_RISE,
        CUP_REASON_NO_FALL,
        CUP_REASON_PROOF_LOST,
        CUP_REASON_PROOF_UNSURE,
        CUP_REASON_DAY_TIME,
        CUP_REASON_DAY_STARTS,
        CUP_REASON_LONGEST,
        CUP_REASON_LOCKED,
        CUP_REASON_LATE,
        CUP_REASON_HAND,
        CUP_REASON_HAND_OVER,
        CUP_REASON_OFF,
        CUP_REASON_AUTO,
        CUP_REASON_CLEARED,
    };
    if (seen[CUP_REASON_POWER_ON] == 0)
        promises_hold_on_random_sites();
    for (size_t i = 0; i < sizeof(expected); i++) {
        harness_at("reason %d", expected[i]);
        CHECK(seen[expected[i]] > 0);
    }
}
