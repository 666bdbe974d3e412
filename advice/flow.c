/* Windows of running are held against windows of rest. */
#include "flow.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define WINDOWS_LEAST 5
/* A window that moved by less than this part of what most did is a fault, or
 * air: what a proof is to find. */
#define STILL_PART 0.3
#define STILL_MOST 0.1 /* of the windows: else nothing is certain */
#define QUIET_MOST 2000
/* A proof asks for this part of the least that was seen, and for so many times
 * what moves at rest. */
#define PROOF_PART 0.5
#define PROOF_NEAR 0.8
#define PROOF_FAR 0.2
#define PROOF_QUIET 3
/* How long a tank may come back by itself. */
#define BACK_S 300
/* One that came back further was filled by what nobody told of. */
#define BACK_MOST 2000

static bool others_rest(const struct flow_sight *sight, uint32_t from_s,
                        uint32_t to_s)
{
    uint32_t begin = from_s > sight->lag_s ? from_s - sight->lag_s : 0;
    for (size_t i = 0; i < sight->other_count; i++)
        if (!runs_rest(sight->others[i], begin, to_s))
            return false;
    return true;
}

/* What a window came to; false when it is not known. */
static bool window_at(const struct flow_sight *sight, uint32_t from_s,
                      uint32_t to_s, double *moved)
{
    int32_t first = 0;
    int32_t last;
    if (!track_at(sight->track, to_s, sight->old_s, &last))
        return false;
    if (!sight->above && !track_at(sight->track, from_s, sight->old_s, &first))
        return false;
    *moved = sight->sign * ((double)last - first);
    return true;
}

/* A pump that proves itself by a limit does so within the window: only its
 * first counts. */
static void look_at_runs(const struct flow_sight *sight, uint32_t within_s,
                         struct numbers *moved)
{
    double by;
    for (size_t i = 0; i < sight->runs->count; i++) {
        const struct run *run = &sight->runs->list[i];
        for (uint32_t at = run->from_s;
             run->to_s != UINT32_MAX && at + within_s <= run->to_s;
             at += within_s) {
            if (others_rest(sight, at, at + within_s) &&
                window_at(sight, at, at + within_s, &by))
                numbers_add(moved, by);
            if (sight->above)
                break;
        }
    }
}

/* As much as it moves by itself. */
static double look_at_rest(const struct flow_sight *sight, uint32_t within_s)
{
    struct numbers moved = {.list = NULL};
    size_t step = sight->track->count / QUIET_MOST + 1;
    double by;
    for (size_t i = 0; i < sight->track->count; i += step) {
        uint32_t at = sight->track->list[i].at_s;
        uint32_t before = at > 2 * sight->lag_s ? at - 2 * sight->lag_s : 0;
        if (runs_rest(sight->runs, before, at + within_s) &&
            others_rest(sight, before, at + within_s) &&
            window_at(sight, at, at + within_s, &by))
            numbers_add(&moved, sight->above ? by : fabs(by));
    }
    double quiet = numbers_part(&moved, 0.99);
    numbers_free(&moved);
    return quiet;
}

bool flow_look(const struct flow_sight *sight, uint32_t within_s,
               struct flow_facts *facts)
{
    struct numbers moved = {.list = NULL};
    *facts = (struct flow_facts){.windows = 0};
    look_at_runs(sight, within_s, &moved);
    facts->windows = moved.count;
    facts->mostly = numbers_part(&moved, 0.5);
    while (facts->still < moved.count &&
           moved.list[facts->still] < STILL_PART * facts->mostly)
        facts->still++;
    if (facts->still < moved.count)
        facts->least = moved.list[facts->still];
    numbers_free(&moved);
    if (facts->windows < WINDOWS_LEAST || facts->mostly <= 0 ||
        (double)facts->still > STILL_MOST * (double)facts->windows)
        return false;
    facts->quiet = look_at_rest(sight, within_s);
    return true;
}

/* Whether noise could pass for a flow. */
static bool stands_out(const struct flow_facts *facts)
{
    return PROOF_PART * facts->least >= 1 &&
           PROOF_PART * facts->least >= PROOF_QUIET * facts->quiet;
}

/* The shortest window that tells, from twice the lag on; 0 when none does. */
static uint32_t shortest(const struct flow_sight *sight,
                         struct flow_facts *facts)
{
    static const uint32_t spans[] = {10, 15, 20, 25,  30,  40,  50,
                                     60, 75, 90, 120, 180, 240, 300};
    for (size_t i = 0; i < sizeof(spans) / sizeof(spans[0]); i++)
        if (spans[i] >= 2 * sight->lag_s && flow_look(sight, spans[i], facts) &&
            stands_out(facts))
            return spans[i];
    return 0;
}

static void say_proof(const struct flow_sight *sight, uint32_t within_s,
                      const struct flow_facts *facts, const char *more,
                      struct proposal *proposal)
{
    char least[QUANTITY_SIZE];
    char mostly[QUANTITY_SIZE];
    char quiet[QUANTITY_SIZE];
    char change[QUANTITY_SIZE];
    char within[QUANTITY_SIZE];
    char still[80] = "";
    quantity_text(facts->least, sight->unit, false, least, sizeof(least));
    quantity_text(facts->mostly, sight->unit, false, mostly, sizeof(mostly));
    quantity_text(facts->quiet, sight->unit, true, quiet, sizeof(quiet));
    quantity_text(PROOF_PART * facts->least, sight->unit, false, change,
                  sizeof(change));
    quantity_time(UINT64_C(1000) * within_s, within, sizeof(within));
    const char *word = sight->rises ? "rises" : "falls";
    snprintf(proposal->value, sizeof(proposal->value), "%s %s %s in %s",
             sight->name, sight->above ? "above" : word, change, within);
    if (facts->still > 0)
        snprintf(still, sizeof(still),
                 " In %zu more it hardly moved: look into that.", facts->still);
    snprintf(proposal->why, sizeof(proposal->why),
             "in %zu windows of %s it %s %s at least and %s mostly, and %s "
             "with nothing running; half the least is asked for%s.%s",
             facts->windows - facts->still, within,
             sight->above ? "stood at" : "moved by", least, mostly, quiet, more,
             still);
}

/* What is wrong with what the file has, in its own window; null: nothing. One
 * that noise could pass is never made weaker. */
static const char *wrong_with(const struct flow_facts *facts, double change,
                              bool *looser)
{
    *looser = change > PROOF_NEAR * facts->least;
    if (!stands_out(facts))
        return NULL;
    if (*looser)
        return ": what the file asks for would nearly have failed";
    return change < PROOF_FAR * facts->least
               ? ": a pump that half runs dry would pass the file's"
               : NULL;
}

/* The file's own window where its change is wrong; else one that is sooner. */
bool propose_proof(const struct flow_sight *sight, double change,
                   uint32_t within_s, struct proposal *proposal)
{
    struct flow_facts facts;
    bool looser = false;
    const char *wrong = within_s > 0 && flow_look(sight, within_s, &facts)
                            ? wrong_with(&facts, change, &looser)
                            : NULL;
    if (wrong) {
        proposal->looser = looser;
        say_proof(sight, within_s, &facts, wrong, proposal);
        return true;
    }
    uint32_t least_s = shortest(sight, &facts);
    if (least_s == 0 || (within_s > 0 && 2 * least_s > within_s))
        return false;
    say_proof(sight, least_s, &facts, within_s > 0 ? ", and sooner" : "",
              proposal);
    return true;
}

/* How far it came back after each run, with nobody filling it. */
static void look_back(const struct flow_sight *level, struct numbers *backs)
{
    for (size_t i = 0; i < level->runs->count; i++) {
        const struct run *run = &level->runs->list[i];
        int32_t at_stop;
        double most = 0;
        if (run->to_s == UINT32_MAX ||
            !others_rest(level, run->from_s, run->to_s + BACK_S) ||
            !track_at(level->track, run->to_s, level->old_s, &at_stop))
            continue;
        uint32_t end = run->to_s + BACK_S;
        if (i + 1 < level->runs->count && level->runs->list[i + 1].from_s < end)
            end = level->runs->list[i + 1].from_s;
        for (size_t p = track_from(level->track, run->to_s);
             p < level->track->count && level->track->list[p].at_s <= end; p++)
            most = fmax(most, (double)level->track->list[p].value - at_stop);
        numbers_add(backs, most);
    }
}

bool propose_clear(const struct flow_sight *level, double below, double clear,
                   struct proposal *proposal)
{
    struct numbers backs = {.list = NULL};
    char back[QUANTITY_SIZE];
    char gap[QUANTITY_SIZE];
    look_back(level, &backs);
    double most = numbers_part(&backs, 0.95);
    size_t count = backs.count;
    numbers_free(&backs);
    if (count < WINDOWS_LEAST || clear - below >= 1.5 * most ||
        2 * most > BACK_MOST)
        return false;
    quantity_text(below + 2 * most, level->unit, true, proposal->value,
                  sizeof(proposal->value));
    quantity_text(most, level->unit, true, back, sizeof(back));
    quantity_text(clear - below, level->unit, true, gap, sizeof(gap));
    snprintf(proposal->why, sizeof(proposal->why),
             "after %zu runs %s came back by up to %s by itself, and the file "
             "leaves %s between dry_below and dry_clear: its pump would start "
             "and stop again and again.",
             count, level->name, back, gap);
    return true;
}
