/* Plays five controllers through the same gardens, with the same chances and
 * the same faults, and prints the truth of each.
 *
 * Use: compare [GARDENS [FIRST-SEED [FAULTS [DAYS [GARDEN SITE...]]]]]; without
 * a seed it is drawn, so that nobody has seen these gardens before. With site
 * files those alone are played, in that garden. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../ports/sim/sim.h"
#include "../../sitefile/sitefile.h"
#include "engineer.h"
#include "loops.h"

#define SITE "examples/compare/yard.ini"
#define GARDEN "examples/compare/yard.garden.ini"
#define FROM_S UINT32_C(1936137600) /* 2031-05-10 */

enum who { NOTHING, BEGINNER, CAREFUL, ENGINEER, CUP_LATCH };

/* Who plays; of a site file its plan. */
struct player {
    const char *name;
    enum who who;
    struct cup_file *file;
};

#define PLAYERS_MOST 8
#define USUAL 5

static const struct player usual[USUAL] = {
    {"nothing at all", NOTHING, NULL},
    {"a beginner's loop", BEGINNER, NULL},
    {"a careful loop", CAREFUL, NULL},
    {"an engineer's loop", ENGINEER, NULL},
    {"Cup Latch", CUP_LATCH, NULL}};

/* What came of one garden. */
enum figure { DRY_S, OVERFLOW_L, STARTS, OUT_H, MISSED, GIVEN_L, FIGURES };

static const char *const figure_names[] = {
    "dry, s", "overflow, L", "starts", "off band, h", "missed", "to beds, L"};

/* The figures of each garden, one after another. */
struct total {
    double *of[FIGURES];
};

struct run {
    struct player players[PLAYERS_MOST];
    int player_count;
    const char *garden;
    uint32_t seed;
    int gardens;
    int faults;
    uint32_t days;
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
static void add_up(struct total *total, int at, const struct garden *garden,
                   const struct tray *tray)
{
    for (int i = 0; i < garden_pumps(garden); i++) {
        struct garden_pump pump = garden_pump_truth(garden, i);
        total->of[STARTS][at] += pump.starts;
        if (!pump.faulty)
            total->of[DRY_S][at] += pump.dry_s;
    }
    for (int i = 0; i < garden_beds(garden); i++) {
        struct garden_bed bed = garden_bed_truth(garden, i);
        total->of[GIVEN_L][at] += bed.given_l;
        if (!is_faulty(garden, "bed_pump"))
            total->of[OUT_H][at] += bed.dry_h + bed.wet_h;
    }
    total->of[OVERFLOW_L][at] = overflow_of(garden, "header", "lift") +
                                overflow_of(garden, "tray", "tray_pump");
    total->of[MISSED][at] = tray->missed;
}

static struct garden *garden_for(const struct run *run, uint32_t seed)
{
    struct garden *garden = garden_read(run->garden, seed, stderr);
    if (!garden) {
        perror(run->garden);
        exit(3);
    }
    garden_random_faults(garden, run->faults, run->days);
    garden_begin(garden, FROM_S);
    return garden;
}

/* What the loops remember is gone with the power. */
struct loops {
    struct careful careful;
    struct engineer engineer;
};

static void step_loop(enum who who, struct loops *loops,
                      const struct yard *yard, uint32_t s)
{
    if (who == BEGINNER)
        beginner_step(yard, s);
    else if (who == CAREFUL)
        careful_step(&loops->careful, yard, s);
    else if (who == ENGINEER)
        engineer_step(&loops->engineer, yard, s);
}

static void play_loop(enum who who, struct garden *garden, struct tray *tray,
                      uint32_t end_s)
{
    const struct loops fresh = {
        .careful = {.low = true},
        .engineer = {.cistern_low = true, .header_low = true}};
    struct yard yard = yard_of(garden);
    struct loops loops = fresh;
    for (uint32_t s = 0; s < end_s; s++) {
        garden_step(garden);
        if (garden_was_cut(garden))
            loops = fresh;
        if (!garden_is_dark(garden))
            step_loop(who, &loops, &yard, s);
        watch_tray(tray, garden, s);
    }
}

static void play_cup_latch(const struct cup_plan *plan, struct garden *garden,
                           struct tray *tray, uint32_t end_s)
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
    for (uint32_t s = 0; s < end_s; s++) {
        cup_sim_pass(sim);
        watch_tray(tray, garden, s);
    }
    cup_sim_close(sim);
    free(state);
}

static void play(const struct player *player, const struct run *run, int at,
                 struct total *total)
{
    struct garden *garden = garden_for(run, run->seed + (uint32_t)at);
    struct tray tray = {.vessel = vessel_of(garden, "tray")};
    uint32_t end_s = run->days * 86400;
    if (player->who == CUP_LATCH)
        play_cup_latch(cup_file_plan(player->file), garden, &tray, end_s);
    else
        play_loop(player->who, garden, &tray, end_s);
    add_up(total, at, garden, &tray);
    garden_close(garden);
}

/* Sums, and what nine gardens in ten lie under */

static int by_size(const void *a, const void *b)
{
    const double *one = a;
    const double *two = b;
    return (*one > *two) - (*one < *two);
}

/* In all; the middle garden; nine in ten are no worse than; the worst. */
static void print_row(const struct run *run, const char *name,
                      const double *figures, enum figure figure)
{
    double sum = 0;
    size_t count = (size_t)run->gardens;
    double *sorted = malloc(count * sizeof(*sorted));
    if (!sorted)
        exit(3);
    memcpy(sorted, figures, count * sizeof(*sorted));
    qsort(sorted, count, sizeof(*sorted), by_size);
    for (size_t i = 0; i < count; i++)
        sum += figures[i];
    int digits = figure == OVERFLOW_L || figure == OUT_H;
    printf("  %-20s %11.*f %11.*f %11.*f %11.*f\n", name, digits, sum, digits,
           sorted[count / 2], digits, sorted[(count * 9 - 1) / 10], digits,
           sorted[count - 1]);
    free(sorted);
}

static void print(const struct run *run, const struct total *totals)
{
    printf("%d gardens of %u day%s, %d faults in each, seeds from %u\n",
           run->gardens, run->days, run->days == 1 ? "" : "s", run->faults,
           run->seed);
    for (int figure = 0; figure < FIGURES; figure++) {
        printf("\n%-22s %11s %11s %11s %11s\n", figure_names[figure], "in all",
               "middle", "9 in 10", "worst");
        for (int who = 0; who < run->player_count; who++)
            print_row(run, run->players[who].name, totals[who].of[figure],
                      (enum figure)figure);
    }
}

static int number(int argc, char **argv, int at, int otherwise)
{
    int value = argc > at ? atoi(argv[at]) : otherwise;
    return value < 0 ? otherwise : value;
}

static void make_totals(struct total *totals, int gardens)
{
    for (int who = 0; who < PLAYERS_MOST; who++)
        for (int figure = 0; figure < FIGURES; figure++) {
            totals[who].of[figure] = calloc((size_t)gardens, sizeof(double));
            if (!totals[who].of[figure])
                exit(3);
        }
}

static void free_totals(const struct total *totals)
{
    for (int who = 0; who < PLAYERS_MOST; who++)
        for (int figure = 0; figure < FIGURES; figure++)
            free(totals[who].of[figure]);
}

/* Those that are usual, or site files; false when one cannot be used. */
static bool find_players(struct run *run, int argc, char **argv)
{
    bool all = true;
    run->garden = argc > 5 ? argv[5] : GARDEN;
    memcpy(run->players, usual, sizeof(usual));
    run->player_count = argc > 6 ? 0 : USUAL;
    for (int i = 6; i < argc && run->player_count < PLAYERS_MOST; i++)
        run->players[run->player_count++] =
            (struct player){argv[i], CUP_LATCH, NULL};
    for (int i = 0; i < run->player_count; i++) {
        struct player *player = &run->players[i];
        const char *path = argc > 6 ? player->name : SITE;
        if (player->who != CUP_LATCH)
            continue;
        player->file = cup_file_read(path);
        if (player->file && cup_file_plan(player->file))
            continue;
        fprintf(stderr, "%s cannot be used; run this from the top\n", path);
        all = false;
    }
    return all;
}

int main(int argc, char **argv)
{
    struct total totals[PLAYERS_MOST];
    uint32_t drawn = (uint32_t)time(NULL) % 1000000;
    struct run run = {.gardens = number(argc, argv, 1, 200),
                      .seed = (uint32_t)number(argc, argv, 2, (int)drawn),
                      .faults = number(argc, argv, 3, 3),
                      .days = (uint32_t)number(argc, argv, 4, 1)};
    if (!find_players(&run, argc, argv) || run.gardens < 1)
        return 3;
    make_totals(totals, run.gardens);
    for (int i = 0; i < run.gardens; i++)
        for (int who = 0; who < run.player_count; who++)
            play(&run.players[who], &run, i, &totals[who]);
    print(&run, totals);
    free_totals(totals);
    for (int who = 0; who < run.player_count; who++)
        if (run.players[who].file)
            cup_file_free(run.players[who].file);
    return 0;
}
