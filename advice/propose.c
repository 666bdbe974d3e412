/* One rule a key. */
#include "propose.h"

#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

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
#define LOST_NEAR 1.25
/* A guard this many times as long as need be is worth shortening. */
#define LONG_TIMES 4

void propose_time(uint64_t ms, char *text, size_t size)
{
    static const uint64_t round[] = {
        1,    2,    3,     4,     5,     6,     8,    10,   12,   15,
        20,   25,   30,    40,    45,    60,    75,   90,   120,  150,
        180,  240,  300,   420,   600,   900,   1200, 1800, 2700, 3600,
        5400, 7200, 10800, 14400, 21600, 43200, 86400};
    uint64_t s = (ms + 999) / 1000;
    for (size_t i = 0; i < sizeof(round) / sizeof(round[0]); i++)
        if (round[i] >= s) {
            s = round[i];
            break;
        }
    if (s % 3600 == 0 && s > 0)
        snprintf(text, size, "%" PRIu64 "h", s / 3600);
    else if (s % 60 == 0 && s > 0)
        snprintf(text, size, "%" PRIu64 "m", s / 60);
    else
        snprintf(text, size, "%" PRIu64 "s", s);
}

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
    propose_time(span, proposal->value, sizeof(proposal->value));
    propose_time(facts->same_ms, same, sizeof(same));
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
    bool short_now =
        (double)now->lost_ms < LOST_NEAR * (double)facts->silent_ms;
    if (!short_now && now->lost_ms <= LONG_TIMES * need)
        return false;
    propose_time(need, proposal->value, sizeof(proposal->value));
    propose_time(facts->silent_ms, silent, sizeof(silent));
    proposal->looser = short_now;
    snprintf(proposal->why, sizeof(proposal->why),
             "%.1f %% were not answered, for %s at the longest: %s",
             100 * facts->unanswered, silent,
             short_now ? "what it holds now is nearly over by then."
                       : "a value need not be held for longer.");
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
    } rules[PROPOSALS_MOST] = {{"plausible", propose_plausible},
                               {"smooth", propose_smooth},
                               {"stuck", propose_stuck},
                               {"lost_after", propose_lost}};
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
