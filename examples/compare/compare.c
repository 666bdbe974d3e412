/* Plays three controllers through the same gardens, with the same chances and
 * the same faults, and prints the truth of each.
 *
 * Use: compare [GARDENS [FIRST-SEED [FAULTS]]] */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../ports/sim/sim.h"
#include "../../sitefile/sitefile.h"
#include "loops.h"

#define SITE "examples/compare/yard.ini"
#define GARDEN "examples/compare/yard.garden.ini"
#define DAYS 1
#define FROM_S UINT32_C(1936137600) /* 2031-05-10 */

enum who { BEGINNER, CAREFUL, CUP_LATCH, WHO_COUNT };

static const char *const names[] = {"a beginner's loop", "a careful loop",
                                    "Cup Latch"};

struct total {
    double dry_s;
    double worst_dry_s; /* of one garden */
    double overflow_l;
    double starts;
    double out_h;
    double missed;
};

/* Floods as a tray feels them: it was above half. */
struct tray {
    int vessel;
    bool wet;
    uint32_t last_s;
    double missed;
};

/* By day a tray must not be without a flood for more than two intervals. */
static void watch_tray(struct tray *tray, const struct garden *garden,
                       uint32_t s)
{
    bool wet = garden_fill(garden, tray->vessel) > 0.5;
    uint32_t hour = s / 3600 % 24;
    if ((wet && !tray->wet) || hour < 8)
        tray->last_s = s;
    tray->wet = wet;
    if (hour < 20 && s > tray->last_s && s - tray->last_s > 18000) {
        tray->missed++;
        tray->last_s = s;
    }
}

static int vessel_of(const struct garden *garden, const char *name)
{
    int i = 0;
    while (strcmp(garden_vessel_truth(garden, i).name, name) != 0)
        i++;
    return i;
}

/* A relay that stuck is past what any controller can stop. */
static bool is_faulty(const struct garden *garden, const char *pump)
{
    int i = 0;
    while (strcmp(garden_pump_truth(garden, i).name, pump) != 0)
        i++;
    return garden_pump_truth(garden, i).faulty;
}

static double overflow_of(const struct garden *garden, const char *vessel,
                          const char *pump)
{
    if (is_faulty(garden, pump))
        return 0;
    return garden_vessel_truth(garden, vessel_of(garden, vessel)).overflow_l;
}

/* What pumps fill may overflow; rain into a full cistern is nobody's fault. */
static void add_up(struct total *total, const struct garden *garden,
                   const struct tray *tray)
{
    double dry_s = 0;
    for (int i = 0; i < garden_pumps(garden); i++) {
        struct garden_pump pump = garden_pump_truth(garden, i);
        total->starts += pump.starts;
        if (!pump.faulty)
            dry_s += pump.dry_s;
    }
    total->dry_s += dry_s;
    if (dry_s > total->worst_dry_s)
        total->worst_dry_s = dry_s;
    for (int i = 0; i < garden_beds(garden); i++) {
        struct garden_bed bed = garden_bed_truth(garden, i);
        if (!is_faulty(garden, "bed_pump"))
            total->out_h += bed.dry_h + bed.wet_h;
    }
    total->overflow_l += overflow_of(garden, "header", "lift") +
                         overflow_of(garden, "tray", "tray_pump");
    total->missed += tray->missed;
}

static struct garden *garden_for(uint32_t seed, int faults)
{
    struct garden *garden = garden_read(GARDEN, seed, stderr);
    if (!garden) {
        perror(GARDEN);
        exit(3);
    }
    garden_random_faults(garden, faults, DAYS);
    garden_begin(garden, FROM_S);
    return garden;
}

static void play_loop(enum who who, struct garden *garden, struct tray *tray)
{
    struct yard yard = yard_of(garden);
    struct careful careful = {.low = true};
    for (uint32_t s = 0; s < DAYS * 86400; s++) {
        garden_step(garden);
        if (garden_was_cut(garden)) {
            careful = (struct careful){.low = true};
        }
        if (who == BEGINNER)
            beginner_step(&yard, s);
        else
            careful_step(&careful, &yard, s);
        watch_tray(tray, garden, s);
    }
}

static void play_cup_latch(const struct cup_plan *plan, struct garden *garden,
                           struct tray *tray)
{
    char wrong[120];
    struct cup_site site;
    void *state = malloc(cup_site_size(plan));
    if (!state || cup_site_bind(&site, plan, state, cup_site_size(plan)))
        exit(3);
    struct cup_sim *sim = cup_sim_join(garden, &site, wrong, sizeof(wrong));
    if (!sim) {
        fprintf(stderr, "%s\n", wrong);
        exit(3);
    }
    for (uint32_t s = 0; s < DAYS * 86400; s++) {
        cup_sim_pass(sim);
        watch_tray(tray, garden, s);
    }
    cup_sim_close(sim);
    free(state);
}

static void play(enum who who, const struct cup_plan *plan, uint32_t seed,
                 int faults, struct total *total)
{
    struct garden *garden = garden_for(seed, faults);
    struct tray tray = {.vessel = vessel_of(garden, "tray")};
    if (who == CUP_LATCH)
        play_cup_latch(plan, garden, &tray);
    else
        play_loop(who, garden, &tray);
    add_up(total, garden, &tray);
    garden_close(garden);
}

static void print(const struct total *totals)
{
    printf("%-20s %10s %12s %12s %10s %12s %8s\n", "", "dry, s", "worst dry, s",
           "overflow, L", "starts", "off band, h", "missed");
    for (int who = 0; who < WHO_COUNT; who++)
        printf("%-20s %10.0f %12.0f %12.1f %10.0f %12.1f %8.0f\n", names[who],
               totals[who].dry_s, totals[who].worst_dry_s,
               totals[who].overflow_l, totals[who].starts, totals[who].out_h,
               totals[who].missed);
}

int main(int argc, char **argv)
{
    int gardens = argc > 1 ? atoi(argv[1]) : 200;
    uint32_t seed = argc > 2 ? (uint32_t)strtoul(argv[2], NULL, 10) : 1;
    int faults = argc > 3 ? atoi(argv[3]) : 3;
    struct total totals[WHO_COUNT] = {{0}};
    struct cup_file *file = cup_file_read(SITE);
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan) {
        fprintf(stderr, "%s cannot be used; run this from the top\n", SITE);
        return 3;
    }
    for (int i = 0; i < gardens; i++)
        for (int who = 0; who < WHO_COUNT; who++)
            play((enum who)who, plan, seed + (uint32_t)i, faults, &totals[who]);
    printf("%d gardens of a day, %d faults in each, seeds from %u\n\n", gardens,
           faults, seed);
    print(totals);
    cup_file_free(file);
    return 0;
}
