/* Any calls in any order with any values: no crash, no undefined behaviour,
 * and no output on that no duty and no hand asked for. */
#include <stdio.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "../harness/harness.h"

#define PUMPS 2
#define CALLS 400
#define SITES 2000

static const char text[] =
    "[site]\nscan = 1s\nboot_wait = 3s\nat_once = 1\n"
    "[soil]\nis = sensor\nform = counts\nport = adc:0\ndry = 900\nwet = 100\n"
    "every = 2s\nplausible = 0..1000\nsmooth = median 3\nsupply = out:1\n"
    "warm_up = 100ms\nstuck = 20s\nlost_after = 10s\n"
    "[near]\nis = sensor\nform = range-bytes\nport = serial:0\nevery = 1s\n"
    "jump = 50mm/s\nsteady = 5mm 2s\nlost_after = 5s\n"
    "[bus]\nis = source\nform = modbus\nport = serial:1\nunit = 3\n"
    "read = input 0 2\nevery = 1s\n"
    "[deep]\nis = sensor\nsource = bus 0\nmeasures = pressure\n"
    "[float]\nis = sensor\nform = switch\nport = pin:1\nevery = 1s\n"
    "debounce = 2s\n"
    "[high]\nis = tank\nsensor = near\nshape = upright\ndiameter = 1m\n"
    "depth = 1m\ngap = 100mm\nblanking = 20mm\n"
    "[low]\nis = tank\nsensor = deep\nshape = lying\ndiameter = 1m\n"
    "length = 2m\n"
    "[lift]\nis = pump\nport = relay:0\nfrom = low\ninto = high\n"
    "dry_below = 10%\ndry_clear = 15%\nproof = high rises 5mm in 10s\n"
    "retry = 5s x2\nrest = 2s\nlongest = 30s\nshortest = 3s\n"
    "per_day = 2m 9starts\nhand_limit = 20s\n"
    "[spray]\nis = pump\nport = relay:1\nfrom = high\ndry_below = 20%\n"
    "dry_clear = 25%\nlongest = 20s\n"
    "[fill]\nis = duty\nrun = lift\nkeep = high\nstart = 40%\nstop = 80%\n"
    "[wet]\nis = duty\nrun = spray\nkeep = soil\nstart = 30%\nstop = 60%\n"
    "confirm = 3s\n";

static struct cup_file *file;

static void open_site(struct cup_site *site, uint32_t *state, size_t size)
{
    if (!file) {
        FILE *in = fmemopen((void *)text, strlen(text), "r");
        file = cup_file_read_from(in, "site");
        fclose(in);
        cup_file_problems(file, stdout);
    }
    CHECK_INT(cup_site_bind(site, cup_file_plan(file), state, size), CUP_OK);
}

/* What the sensors would truly say: values that drift. */
struct world {
    int32_t soil;
    int32_t near;
    int32_t deep;
};

static int32_t drift(struct chance *chance, int32_t value, int32_t low,
                     int32_t high, int32_t by)
{
    value += chance_between(chance, -by, by);
    return value < low ? low : value > high ? high : value;
}

static void true_hearing(struct cup_site *site, struct chance *chance,
                         struct world *world, uint32_t now_ms)
{
    world->soil = drift(chance, world->soil, 0, 1000, 80);
    world->near = drift(chance, world->near, 100, 1100, 25);
    world->deep = drift(chance, world->deep, 0, 9000, 300);
    uint8_t near[] = {0xFF, (uint8_t)(world->near >> 8), (uint8_t)world->near,
                      0};
    uint8_t deep[] = {
        3, 4, 4, (uint8_t)(world->deep >> 8), (uint8_t)world->deep, 0, 0, 0, 0};
    near[3] = (uint8_t)(near[0] + near[1] + near[2]);
    uint16_t crc = cup_crc16(deep, 7);
    deep[7] = (uint8_t)crc;
    deep[8] = (uint8_t)(crc >> 8);
    cup_site_hear(site, 0, now_ms, (struct cup_sample){.raw = world->soil});
    cup_site_hear_bytes(site, 1, now_ms, near, sizeof(near));
    cup_site_answer(site, 0, now_ms, deep, sizeof(deep));
}

static void any_hearing(struct cup_site *site, struct chance *chance,
                        uint32_t now_ms)
{
    uint8_t bytes[16];
    cup_index thing = (cup_index)chance_between(chance, 0, 6);
    size_t count = (size_t)chance_between(chance, 0, 16);
    int32_t raw = (int32_t)chance_bits(chance);
    for (size_t i = 0; i < sizeof(bytes); i++)
        bytes[i] = (uint8_t)chance_bits(chance);
    if (chance_of(chance, 30))
        cup_site_hear_bytes(site, thing, now_ms, bytes, count);
    else if (chance_of(chance, 30))
        cup_site_answer(site, thing, now_ms, bytes, count);
    else
        cup_site_hear(
            site, thing, now_ms,
            (struct cup_sample){.raw = raw,
                                .reject = chance_of(chance, 30)
                                              ? (uint8_t)chance_bits(chance)
                                              : CUP_REASON_NONE});
}

/* What a person asked of each pump that was taken. */
static void any_word(struct cup_site *site, struct chance *chance,
                     uint32_t now_ms, bool *by_hand)
{
    struct cup_word word = {
        .verb = (uint8_t)chance_between(chance, 0, CUP_VERB_COUNT),
        .target = (cup_index)chance_between(chance, 0, 3),
        .number = (uint32_t)chance_between(chance, 0, 30000)};
    enum cup_error may = cup_site_may(site, &word);
    CHECK_INT(cup_site_steer(site, now_ms, &word), may);
    if (!may && word.verb == CUP_VERB_HAND) /* a duty's pump has its number */
        by_hand[word.target % PUMPS] = true;
}

/* How often each pump started in all: harm that never had a chance to happen
 * would prove nothing. */
static unsigned starts[PUMPS];

/* A pump that starts was wanted by its duty, or by hand. */
static void check_started(const struct cup_site *site, const bool *was,
                          const bool *by_hand)
{
    for (cup_index i = 0; i < PUMPS; i++) {
        bool asked = cup_duty_asks(&site->duties[i]) || by_hand[i];
        if (cup_site_runs(site, i) && !was[i]) {
            CHECK(asked);
            starts[i]++;
        }
    }
    for (cup_index i = 0; i < 12; i++) {
        struct cup_reading reading = cup_site_reading(site, i);
        CHECK(cup_usable(reading) || reading.quality != CUP_QUALITY_GOOD);
        (void)cup_site_shown(site, i);
        (void)cup_site_latest(site, i);
        (void)cup_site_age_ms(site, i);
        (void)cup_site_why(site, i);
    }
}

static uint32_t any_step(struct chance *chance)
{
    if (chance_of(chance, 2))
        return chance_bits(chance);
    return (uint32_t)chance_between(chance, 0, 1500);
}

static void play(struct chance *chance)
{
    static uint32_t state[400];
    struct cup_site site;
    struct cup_want want;
    bool by_hand[PUMPS] = {false, false};
    struct world world = {500, 600, 5000};
    uint32_t now = chance_bits(chance);
    open_site(&site, state, sizeof(state));
    for (int i = 0; i < CALLS && !harness_failed(); i++) {
        bool was[PUMPS] = {cup_site_runs(&site, 0), cup_site_runs(&site, 1)};
        now += any_step(chance);
        if (chance_of(chance, 80))
            while (cup_site_ask(&site, now, &want))
                CHECK(want.kind <= CUP_WANT_SUPPLY);
        if (chance_of(chance, 80))
            true_hearing(&site, chance, &world, now);
        if (chance_of(chance, 20))
            any_hearing(&site, chance, now);
        if (chance_of(chance, 10))
            any_word(&site, chance, now, by_hand);
        cup_site_decide(&site, now, NULL);
        (void)cup_site_wait(&site);
        (void)cup_site_warming(&site, now);
        check_started(&site, was, by_hand);
    }
    cup_site_shut_down(&site, NULL);
    CHECK(!cup_site_runs(&site, 0) && !cup_site_runs(&site, 1));
}

CASE(any_calls_with_any_values_do_no_harm)
{
    for (uint32_t i = 0; i < SITES && !harness_failed(); i++) {
        struct chance chance = chance_from(harness_seed() + i);
        harness_at("seed %u", harness_seed() + i);
        play(&chance);
    }
    harness_at(NULL);
    harness_at("starts %u %u", starts[0], starts[1]);
    CHECK(starts[0] > 50 && starts[1] > 50);
    cup_file_free(file);
    file = NULL;
}
