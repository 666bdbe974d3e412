/* What must stay calm: a line that loses its pressure at once, an alert at
 * whose mark a value hovers all day. The test closes the loop by itself. */
#include "../harness/harness.h"
#include "../harness/world.h"

struct counted {
    struct world world;
    unsigned starts;
    unsigned told;
    unsigned over;
};

static void take(void *self, const struct cup_event *event)
{
    struct counted *counted = self;
    counted->starts += event->kind == CUP_KIND_START;
    counted->told += event->kind == CUP_KIND_ALERT;
    counted->over += event->kind == CUP_KIND_OVER;
}

static void pass(struct counted *counted, uint32_t now_ms, int32_t raw)
{
    struct cup_want want;
    struct cup_sink sink = {take, counted};
    const struct cup_site *site = &counted->world.site;
    while (cup_site_ask(site, now_ms, &want))
        cup_site_hear(site, want.index, now_ms,
                      (struct cup_sample){.raw = raw});
    cup_site_decide(site, now_ms, &sink);
}

#define LINE                                                                   \
    "[site]\nscan = 1s\n"                                                      \
    "[line]\nis = sensor\nmeasures = pressure\nform = counts\nport = adc:0\n"  \
    "points = 0:0bar 1000:10bar\nplausible = 0..1000\nevery = 1s\n"            \
    "[pump]\nis = pump\nport = relay:0\nlongest = 20m\nrest = 90s\n"           \
    "[trough]\nis = duty\nrun = pump\nkeep = line\nstart = 1.4bar\n"           \
    "stop = 3.2bar\n"

/* Full pressure a second after the start, none two seconds after the stop. */
CASE(a_line_that_loses_pressure_in_2_s_starts_once_a_rest)
{
    struct counted counted = {.starts = 0};
    world_open(&counted.world, LINE);
    int32_t raw = 0;
    for (uint32_t s = 0; s < 3600; s++) {
        pass(&counted, s * 1000, raw);
        raw += cup_site_runs(&counted.world.site, 0) ? 400 : -200;
        raw = raw < 0 ? 0 : raw > 400 ? 400 : raw;
    }
    harness_at("%u starts", counted.starts);
    CHECK(counted.starts >= 30 && counted.starts <= 3600 / 90);
    harness_at(NULL);
    world_close(&counted.world);
}

#define LOW                                                                    \
    "[site]\nscan = 10s\n"                                                     \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\nport = adc:0\n"  \
    "dry = 1000\nwet = 0\nplausible = 0..1100\nevery = 10s\n"                  \
    "smooth = median 5\n"                                                      \
    "[dry]\nis = alert\nof = soil\nbelow = 30%\nclear = 34%\nsteady = 10m\n"   \
    "repeat = 6h\n"

/* 30 % give or take two, for a day: one alert and its repeats at most. */
CASE(a_value_that_hovers_at_the_mark_is_told_once_and_repeated)
{
    for (uint32_t seed = 0; seed < 20; seed++) {
        struct counted counted = {.starts = 0};
        struct chance chance = chance_from(harness_seed() + seed);
        world_open(&counted.world, LOW);
        for (uint32_t t = 0; t < 86400; t += 10)
            pass(&counted, t * 1000, 700 + chance_between(&chance, -20, 20));
        harness_at("seed %u: told %u times, over %u times", seed, counted.told,
                   counted.over);
        CHECK(counted.told <= 4 && counted.over == 0);
        world_close(&counted.world);
    }
    harness_at(NULL);
}

/* Wild values at both ends of a run: what was gained must not overflow. */
CASE(a_proof_of_wild_values_saturates)
{
    const struct cup_proof proof = {.change = 100, .within_ms = 1000};
    struct cup_proof_state state = {0};
    struct cup_cause cause;
    cup_proof_start(&state, 0, INT32_MIN);
    cup_proof_stop(&proof, &state, 500);
    CHECK_INT(cup_proof_settle(&proof, &state, 500, INT32_MAX, 0), 0);
    CHECK_INT(state.gained, INT32_MAX);
    cup_proof_start(&state, 600, INT32_MIN);
    CHECK_INT(cup_proof_judge(&proof, &state, 1100, INT32_MAX, &cause),
              CUP_PROVED);
    cup_proof_start(&state, 2000, INT32_MAX);
    CHECK_INT(cup_proof_judge(&proof, &state, 3000, INT32_MIN, &cause),
              CUP_FAILED);
    CHECK_INT(cause.value, INT32_MIN);
}
