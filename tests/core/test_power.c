/* A thousand power cuts at random moments of doses, floods and a day's limit,
 * in a garden that counts its own water: never more than the plan allows, and
 * no flood further from the last than it says. Both probes are stuck at dry. */
#include <stdio.h>
#include <stdlib.h>

#include "../../ports/sim/sim.h"
#include "../../sitefile/sitefile.h"
#include "../harness/harness.h"

#define FROM_S UINT32_C(1936137600)
#define DAY_S UINT32_C(86400)
#define CUTS 125 /* a day, and so many days: */
#define DAYS 8

/* The pumps in the order of the garden file. */
enum pump { DOSER, LIMITED, FLOODER };

struct day {
    struct cup_file *file;
    struct cup_site site;
    void *state;
    struct garden *garden;
    struct cup_sim *sim;
};

/* A third each: early, when all want water; about a flood; any time. */
static uint32_t moment(uint32_t i)
{
    uint32_t any = (uint32_t)rand();
    if (i % 3 == 0)
        return 1 + any % 1500;
    if (i % 3 == 1)
        return 1 + any % 8 * 10800 + any / 8 % 360;
    return 1 + any % (DAY_S - 1);
}

static void add_fault(struct garden *garden, const char *text)
{
    const char *wrong = garden_fault(garden, text, 1e6);
    CHECK_TEXT(wrong ? wrong : "", "");
}

static void begin(struct day *day, uint32_t seed)
{
    char text[80];
    char wrong[120];
    day->file = cup_file_read(POWER ".ini");
    const struct cup_plan *plan = cup_file_plan(day->file);
    size_t size = cup_site_size(plan);
    day->state = malloc(size);
    day->garden = garden_read(POWER ".garden.ini", seed, stdout);
    if (!day->state || !day->garden ||
        cup_site_bind(&day->site, plan, day->state, size))
        abort();
    add_fault(day->garden, "stuck of soil at 1s for 2d");
    add_fault(day->garden, "stuck of leaf at 1s for 2d");
    srand(seed);
    for (uint32_t i = 0; i < CUTS; i++) {
        snprintf(text, sizeof(text), "reboot of controller at %us for 1s",
                 (unsigned)moment(i));
        add_fault(day->garden, text);
    }
    garden_begin(day->garden, FROM_S);
    day->sim = cup_sim_join(day->garden, &day->site, wrong, sizeof(wrong));
    if (!day->sim)
        abort();
}

static void end(struct day *day)
{
    cup_sim_close(day->sim);
    garden_close(day->garden);
    cup_file_free(day->file);
    free(day->state);
}

/* Two starts of a flood are at least 1.5 h apart, and at most 4. */
static void play(struct day *day)
{
    unsigned starts = 0;
    uint32_t last_s = 0;
    for (uint32_t s = 0; s < DAY_S; s++) {
        cup_sim_pass(day->sim);
        struct garden_pump flooder = garden_pump_truth(day->garden, FLOODER);
        harness_at("flood %u at %u s, the last at %u s", flooder.starts,
                   (unsigned)s, (unsigned)last_s);
        if (flooder.starts != starts) {
            CHECK(starts == 0 || s - last_s >= 5400);
            last_s = s;
        }
        CHECK(s - last_s <= 4 * 3600);
        starts = flooder.starts;
    }
}

CASE(a_thousand_power_cuts_give_no_more_than_the_plan_and_no_flood_too_few)
{
    for (uint32_t seed = 1; seed <= DAYS; seed++) {
        struct day day;
        begin(&day, seed);
        play(&day);
        double given[3];
        for (int i = DOSER; i <= FLOODER; i++)
            given[i] = garden_pump_truth(day.garden, i).ran_s;
        harness_at("seed %u: doses %g s, limited %g s, floods %g s",
                   (unsigned)seed, given[DOSER], given[LIMITED],
                   given[FLOODER]);
        CHECK(given[DOSER] > 60 && given[DOSER] <= 3 * 60);
        CHECK(given[LIMITED] > 0 && given[LIMITED] <= 600);
        CHECK(given[FLOODER] > 240 && given[FLOODER] <= 8 * 240);
        end(&day);
    }
    harness_at(NULL);
}
