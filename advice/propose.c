/* One rule a key. */
#include "propose.h"

#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

#include "quantity.h"

/* Beyond what was seen, by this part of it, and of the way between the marks.
 */
#define BEYOND 0.25
#define BEYOND_MARKS 0.08
#define WINDOW_LEAST 5
/* Fewer spikes than this, or longer rows, may be the thing itself: a pump that
 * ran for a moment. */
#define SPIKES_SHARE 0.001
#define SPIKES_ROW 4
/* So many times the longest that was seen. */
#define STUCK_TIMES 4
#define STUCK_LEAST_SAMPLES 20
#define LOST_TIMES 2
#define LOST_LEAST_SAMPLES 12
/* Fewer silences are a fault, which the guard is for. */
#define SILENCES_LEAST 5
/* A value moves by no more than so many times the fastest that it did, and so
 * many times its noise. */
#define JUMP_TIMES 2
#define JUMP_NOISE 8
#define JUMP_NEAR 1.2
#define MOVE_S 30
#define MOVE_SAMPLES 10
/* What scatters by this part of the way between two marks starts too early. */
#define STEADY_PART 0.125
#define STEADY_NOISE 4
#define STEADY_SAMPLES 10
/* A guard this many times as long as need be is worth shortening. */
#define LONG_TIMES 4

static uint64_t most(uint64_t one, uint64_t two)
{
    return one > two ? one : two;
}

/* A range that the file has is left as it is; without marks what a fuller or an
 * emptier tank would say is not known. */
static bool propose_plausible(const struct sensor_now *now,
                              const struct series_facts *facts,
                              struct proposal *proposal)
{
    if (now->has_plausible || !now->marked)
        return false;
    double low = fmin(facts->low, fmin(now->from, now->to));
    double high = fmax(facts->high, fmax(now->from, now->to));
    double beyond = fmax(BEYOND_MARKS * (high - low), 10 * facts->noise);
    if (low >= 0 && low < beyond)
        low = beyond; /* raw values are counts */
    snprintf(proposal->value, sizeof(proposal->value), "%.0f..%.0f",
             floor(low - beyond), ceil(high + beyond));
    snprintf(proposal->why, sizeof(proposal->why),
             "it went from %" PRId32 " to %" PRId32
             ", and its marks are %" PRId32 " and %" PRId32
             ": beyond these an unplugged probe is found out.",
             facts->low, facts->high, now->from, now->to);
    return true;
}

/* The middle of a window outvotes a row of spikes that is less than half of it.
 */
static bool propose_smooth(const struct sensor_now *now,
                           const struct series_facts *facts,
                           struct proposal *proposal)
{
    int window = 2 * (int)facts->in_a_row + 1;
    bool outvoted = now->trim > 0 ? (int)facts->in_a_row <= now->trim
                                  : now->window >= window;
    if (facts->spiky < SPIKES_SHARE || facts->in_a_row > SPIKES_ROW || outvoted)
        return false;
    window = window < WINDOW_LEAST ? WINDOW_LEAST : window;
    double late = (window - 1) * 0.5; /* samples */
    snprintf(proposal->value, sizeof(proposal->value), "median %d", window);
    snprintf(proposal->why, sizeof(proposal->why),
             "%" PRIu64
             " spikes, %u in a row at most: the middle of %d outvotes "
             "them, and is %.0f s late.",
             facts->spikes, facts->in_a_row, window,
             late * (double)now->every_ms / 1000);
    return true;
}

static bool propose_stuck(const struct sensor_now *now,
                          const struct series_facts *facts,
                          struct proposal *proposal)
{
    uint64_t span =
        most(STUCK_TIMES * facts->same_ms, STUCK_LEAST_SAMPLES * now->every_ms);
    char same[24];
    if (facts->noise < 1)
        return false;
    bool has = now->stuck_ms >= 0;
    bool often = has && facts->same_ms >= (uint64_t)now->stuck_ms;
    if (has && !often && (uint64_t)now->stuck_ms <= LONG_TIMES * span)
        return false;
    quantity_time(span, proposal->value, sizeof(proposal->value));
    quantity_time(facts->same_ms, same, sizeof(same));
    proposal->looser = often;
    snprintf(proposal->why, sizeof(proposal->why),
             "it never said the same for longer than %s, and it scatters by "
             "%.1f counts: one that does not move at all is dead.",
             same, facts->noise);
    return true;
}

static bool propose_lost(const struct sensor_now *now,
                         const struct series_facts *facts,
                         struct proposal *proposal)
{
    uint64_t need =
        most(LOST_TIMES * facts->silent_ms, LOST_LEAST_SAMPLES * now->every_ms);
    char silent[24];
    bool short_now = now->silences >= SILENCES_LEAST;
    if (!short_now && now->lost_ms <= LONG_TIMES * need)
        return false;
    quantity_time(need, proposal->value, sizeof(proposal->value));
    quantity_time(facts->silent_ms, silent, sizeof(silent));
    proposal->looser = short_now;
    char times[60] = "a value need not be held for longer.";
    if (short_now)
        snprintf(times, sizeof(times),
                 "%zu times what it holds was over, or nearly.", now->silences);
    snprintf(proposal->why, sizeof(proposal->why),
             "%.1f %% were not answered, for %s at the longest: %s",
             100 * facts->unanswered, silent, times);
    return true;
}

/* How fast it moved, in steps a second: so great a part of the time it was no
 * faster. */
static double speed_of(const struct sensor_now *now, const struct track *track,
                       double part)
{
    struct numbers speeds = {.list = NULL};
    uint32_t span = (uint32_t)(MOVE_SAMPLES * now->every_ms / 1000);
    span = span > MOVE_S ? span : MOVE_S;
    int32_t before;
    for (size_t i = 0; i < track->count; i++) {
        const struct track_point *point = &track->list[i];
        if (point->at_s >= span &&
            track_at(track, point->at_s - span, span / 2, &before))
            numbers_add(&speeds,
                        fabs((double)point->value - before) / (double)span);
    }
    double speed = numbers_part(&speeds, part);
    numbers_free(&speeds);
    return speed;
}

static bool propose_jump(const struct sensor_now *now,
                         const struct series_facts *facts,
                         struct proposal *proposal)
{
    char fastest[QUANTITY_SIZE];
    char rate[QUANTITY_SIZE];
    uint8_t unit = cup_unit_of_change(now->unit);
    struct track calm = {.list = NULL};
    track_calm(now->track, SERIES_NEIGHBOURS / 2, &calm);
    double fast = speed_of(now, &calm, 0.999);
    track_free(&calm);
    double need = JUMP_TIMES * fast + JUMP_NOISE * now->values->noise /
                                          fmax(1, (double)now->every_ms / 1000);
    bool calls = facts->spiky >= SPIKES_SHARE && facts->in_a_row <= SPIKES_ROW;
    bool tight = now->jump > 0 && now->jump < JUMP_NEAR * fast;
    bool wide = now->jump > LONG_TIMES * need;
    if (need < 1 || (now->jump > 0 ? !tight && !wide : !calls))
        return false;
    quantity_text(need, unit, true, rate, sizeof(rate));
    quantity_text(fast * 60, unit, true, fastest, sizeof(fastest));
    snprintf(proposal->value, sizeof(proposal->value), "%s/s", rate);
    proposal->looser = tight;
    snprintf(proposal->why, sizeof(proposal->why),
             "at its fastest it moved by %s in a minute: %s", fastest,
             tight ? "what the file allows is hardly more."
                   : "a sample that is further off is an echo from elsewhere, "
                     "or a bad contact.");
    return true;
}

static bool propose_steady(const struct sensor_now *now,
                           const struct series_facts *facts,
                           struct proposal *proposal)
{
    char band[QUANTITY_SIZE];
    char span[QUANTITY_SIZE];
    double seconds = fmax(MOVE_S, MOVE_SAMPLES * (double)now->every_ms / 1000);
    double noise = speed_of(now, now->track, 0.5) * seconds;
    (void)facts;
    if (now->has_steady || now->way <= 0 || noise < STEADY_PART * now->way)
        return false;
    quantity_text(STEADY_NOISE * noise, cup_unit_of_change(now->unit), true,
                  band, sizeof(band));
    quantity_time(STEADY_SAMPLES * now->every_ms, span, sizeof(span));
    snprintf(proposal->value, sizeof(proposal->value), "%s %s", band, span);
    snprintf(proposal->why, sizeof(proposal->why),
             "smoothed, it still moves to and fro by %.0f %% of the way "
             "between start and stop.",
             100 * noise / now->way);
    return true;
}

size_t propose(const struct sensor_now *now, const struct series_facts *facts,
               struct proposal proposals[PROPOSALS_MOST])
{
    static const struct {
        const char *key;
        bool (*rule)(const struct sensor_now *now,
                     const struct series_facts *facts,
                     struct proposal *proposal);
    } rules[PROPOSALS_MOST] = {
        {"plausible", propose_plausible}, {"smooth", propose_smooth},
        {"stuck", propose_stuck},         {"lost_after", propose_lost},
        {"jump", propose_jump},           {"steady", propose_steady}};
    size_t count = 0;
    for (size_t i = 0; i < PROPOSALS_MOST; i++) {
        proposals[count] = (struct proposal){.looser = false};
        snprintf(proposals[count].key, sizeof(proposals[count].key), "%s",
                 rules[i].key);
        if (rules[i].rule(now, facts, &proposals[count]))
            count++;
    }
    return count;
}
