/* What a level may be: near the belief, or a leap that nobody believes yet. One
 * file, though a long one: boards that are not optimized as a whole pay for
 * calls between two. */
#include "spanned.h"

#if CUP_USES_SPANS

/* From here up nearer than can be seen is the brim. */
#define TOP_TENTH (CUP_SPAN_FULL - CUP_SPAN_FULL / 10)

static int32_t span_lower(int32_t a, int32_t b)
{
    return a < b ? a : b;
}

/* What moved */

static uint32_t span_plus(uint32_t a, uint32_t b)
{
    return cup_least(a + b, SPAN_MOST); /* each is SPAN_MOST at most */
}

/* What may have: half as much again, or anything. */
static uint32_t moved_most(uint32_t parts, uint8_t unknown)
{
    return unknown > 0 ? SPAN_MOST : span_plus(parts, parts / 2);
}

/* Draws come off the lower end, and gifts on the upper one. */
static void widen(struct cup_span_state *state, uint32_t in, uint32_t out)
{
    uint32_t low = out + state->low_part;
    uint32_t high = in + state->high_part;
    state->low = span_higher(state->low - (int32_t)(low / CUP_SPAN_PARTS), 0);
    state->high = span_lower(state->high + (int32_t)(high / CUP_SPAN_PARTS),
                             CUP_SPAN_FULL);
    state->low_part = (uint16_t)low;
    state->high_part = (uint16_t)high;
}

static void add_up(struct cup_span_state *state, uint32_t now_ms)
{
    uint32_t ms = cup_elapsed(now_ms, state->moved_ms);
    if (ms == 0 || ms >= CUP_TIME_BACK) /* a sample may be ahead of its pass */
        return;
    state->moved_ms = now_ms;
    uint32_t in = span_moved(state->in, ms);
    uint32_t out = span_moved(state->out, ms);
    state->given = span_plus(state->given, moved_most(in, state->unknown_in));
    state->drawn = span_plus(state->drawn, moved_most(out, state->unknown_out));
    state->drew = span_plus(state->drew, out);
    if (cup_span_is(state, CUP_SPAN_LEAPT | CUP_SPAN_HELD | CUP_SPAN_BRIM))
        widen(state, moved_most(in, 0), moved_most(out, 0));
}

/* So far the level can have come from the belief by now. */
struct span_reach {
    int32_t up;
    int32_t down;
};

static struct span_reach reach_of(CUP_FLASH struct cup_span *span,
                                  const struct cup_span_state *state,
                                  uint32_t now_ms)
{
    bool stands = cup_span_is(state, CUP_SPAN_LEAPT | CUP_SPAN_BRIM);
    uint32_t until = stands ? state->leapt_ms : now_ms;
    uint32_t ms = cup_elapsed(until, state->sure_ms) + span->lag_ms;
    uint32_t up = span_plus(span_plus(state->given, state->given_before),
                            span_moved(span->gains, ms));
    uint32_t down = span_plus(span_plus(state->drawn, state->drawn_before),
                              span_moved(span->loses, ms));
    return (struct span_reach){
        (int32_t)((up + CUP_SPAN_PARTS - 1) / CUP_SPAN_PARTS),
        (int32_t)((down + CUP_SPAN_PARTS - 1) / CUP_SPAN_PARTS)};
}

static bool span_is_near(CUP_FLASH struct cup_span *span,
                         const struct cup_span_state *state,
                         struct span_reach reach, int32_t level)
{
    return level >= state->belief - span->leap - reach.down &&
           level <= state->belief + span->leap + reach.up;
}

/* Belief */

/* The belief is as young as this; what moved before the window counts no more.
 */
static void renew(CUP_FLASH struct cup_span *span, struct cup_span_state *state,
                  uint32_t now_ms, int32_t reading)
{
    state->belief = reading;
    state->sure_ms = now_ms;
    if (cup_span_is(state, CUP_SPAN_LEAPT | CUP_SPAN_BRIM))
        state->leapt_ms = now_ms;
    span_set(state, CUP_SPAN_PERSON | CUP_SPAN_LOST, false);
    if (cup_elapsed(now_ms, state->since_ms) < span->lag_ms)
        return;
    state->given_before = state->given;
    state->drawn_before = state->drawn;
    state->given = 0;
    state->drawn = 0;
    state->since_ms = now_ms;
}

/* Both ends are a level's. */
static void span_close(struct cup_span_state *state, int32_t level)
{
    state->low = level;
    state->high = level;
    state->low_part = 0;
    state->high_part = 0;
}

/* Another level is believed from now on: only what moves within the window from
 * here can have moved it. */
static void believe_other(CUP_FLASH struct cup_span *span,
                          struct cup_span_state *state, uint32_t now_ms,
                          int32_t reading)
{
    uint32_t in = span_moved(state->in, span->lag_ms);
    uint32_t out = span_moved(state->out, span->lag_ms);
    renew(span, state, now_ms, reading);
    span_close(state, reading);
    state->given_before = moved_most(in, state->unknown_in);
    state->drawn_before = moved_most(out, state->unknown_out);
    state->given = 0;
    state->drawn = 0;
    state->since_ms = now_ms;
    state->near = UINT32_MAX;
    cup_in_drawn_anew(state, now_ms, reading);
    span_set(state, CUP_SPAN_LEAPT, false);
    span_set(state, CUP_SPAN_KNOWN, true);
}

void cup_span_boot(struct cup_span_state *state, uint32_t now_ms)
{
    *state = (struct cup_span_state){.high = CUP_SPAN_FULL};
    state->moved_ms = state->since_ms = state->sure_ms = now_ms;
}

void cup_span_believe(struct cup_span_state *state, uint32_t now_ms,
                      int32_t level, unsigned flags)
{
    add_up(state, now_ms);
    state->belief = level;
    state->sure_ms = state->since_ms = now_ms;
    state->given = state->given_before = 0;
    state->drawn = state->drawn_before = 0;
    state->near = 0;
    state->owed = 0;
    state->flags = (uint16_t)((state->flags & CUP_SPAN_SPOKE) | CUP_SPAN_KNOWN |
                              CUP_SPAN_HELD | flags);
    span_close(state, level);
}

static void add_rate(uint32_t *sum, uint8_t *unknown, uint32_t rate, bool on)
{
    if (rate == CUP_SPAN_UNKNOWN)
        *unknown = (uint8_t)(*unknown + (on ? 1 : -1));
    else
        *sum = on ? *sum + rate : *sum - rate;
}

void cup_span_switch(CUP_FLASH struct cup_span *span,
                     struct cup_span_state *state, uint32_t now_ms, bool gives,
                     uint32_t rate, bool on)
{
    add_up(state, now_ms);
    cup_in_drawn_before(span, state, now_ms, gives || rate == CUP_SPAN_UNKNOWN,
                        on);
    if (gives)
        add_rate(&state->in, &state->unknown_in, rate, on);
    else
        add_rate(&state->out, &state->unknown_out, rate, on);
    cup_in_drawn_after(span, state, now_ms, on);
}

/* Samples */

/* Notes whether a sample was near when it came, by its place in the window. */
static void note_near(struct cup_span_state *state,
                      const struct cup_span_sample *sample, bool near)
{
    uint8_t next = sample->window->next;
    uint8_t place = (uint8_t)((next > 0 ? next : sample->shape.size) - 1);
    uint32_t bit = UINT32_C(1) << place;
    state->near = near ? state->near | bit : state->near & ~bit;
}

/* Whether every sample that the reading is the mean of was near when it came.
 */
static bool all_near(const struct cup_span_state *state,
                     const struct cup_span_sample *sample)
{
    uint8_t count = sample->window->count;
    uint8_t drop = (uint8_t)(count - 1) / 2;
    if (drop > sample->shape.trim)
        drop = sample->shape.trim;
    for (uint8_t i = drop; i < count - drop; i++)
        if (!(state->near >> sample->order[i] & 1))
            return false;
    return true;
}

static void begin_period(struct cup_span_state *state, uint32_t now_ms)
{
    state->period_ms = now_ms;
    state->samples = 0;
    state->away = 0;
}

/* Counts a sample of a period: whether it speaks for another level. */
static void count_sample(struct cup_span_state *state, bool away)
{
    if (state->samples == UINT16_MAX) {
        state->samples /= 2;
        state->away /= 2;
    }
    state->samples++;
    if (away)
        state->away++;
}

/* Nothing is believed yet: what nine in ten samples of a while say will be. */
static void span_guess(CUP_FLASH struct cup_span *span,
                       struct cup_span_state *state, uint32_t now_ms,
                       const struct cup_span_sample *sample)
{
    const uint32_t leap = (uint32_t)span->leap;
    bool agrees = cup_gap(sample->level, state->belief) <= leap &&
                  cup_gap(sample->reading, state->belief) <= leap;
    count_sample(state, !agrees);
    if (!cup_span_is(state, CUP_SPAN_GUESS) ||
        state->away * 10u > state->samples + 10u) {
        state->belief = sample->level;
        span_set(state, CUP_SPAN_GUESS, true);
        begin_period(state, now_ms);
        state->samples = 1;
        agrees = true;
    }
    bool held = state->samples >= CUP_SPAN_LEAST &&
                cup_elapsed(now_ms, state->period_ms) >= span->boot_ms;
    if (!agrees || (span->boot_ms > 0 && !held))
        return;
    span_set(state, CUP_SPAN_GUESS, false);
    believe_other(span, state, now_ms, sample->reading);
}

/* From here on samples count for this other level. */
static void begin_other(struct cup_span_state *state, uint32_t now_ms,
                        int32_t reading)
{
    state->far = reading;
    begin_period(state, now_ms);
}

/* Whether more than one in ten were for yet another level, and it is there:
 * wrong echoes one after the other do not add up. */
static bool is_yet_another(CUP_FLASH struct cup_span *span,
                           const struct cup_span_state *state, int32_t reading)
{
    return cup_gap(reading, state->far) > (uint32_t)span->leap &&
           (uint32_t)(state->samples - state->away) * 10u >
               state->samples + 10u;
}

static void begin_leap(struct cup_span_state *state, uint32_t now_ms,
                       int32_t reading)
{
    span_set(state, CUP_SPAN_LEAPT | CUP_SPAN_UNTOLD, true);
    state->leapt_ms = now_ms;
    state->far_ms = now_ms;
    state->since_far = 0;
    if (state->leaps < UINT16_MAX)
        state->leaps++;
    begin_other(state, now_ms, reading);
}

static bool span_is_over(CUP_FLASH struct cup_span *span, uint32_t now_ms,
                         uint32_t since_ms, uint16_t samples)
{
    return samples >= CUP_SPAN_LEAST &&
           cup_elapsed(now_ms, since_ms) >= span->believe_ms;
}

/* What a person said gives way when pumps drew and the reading fell as it
 * should. */
static bool falls_as_drawn(CUP_FLASH struct cup_span *span,
                           const struct cup_span_state *state, int32_t reading)
{
    int32_t drawn = (int32_t)(state->drawn / 3 * 2 / CUP_SPAN_PARTS);
    int32_t fell = state->was - reading;
    return drawn >= 2 * span->leap && 2 * fell >= drawn &&
           2 * fell <= 3 * drawn;
}

/* The span reaches from what was believed to what is read. */
static void reach_out(struct cup_span_state *state, int32_t reading)
{
    state->low = span_lower(state->low, span_lower(state->belief, reading));
    state->high = span_higher(state->high, span_higher(state->belief, reading));
}

static bool is_for_other(CUP_FLASH struct cup_span *span,
                         const struct cup_span_state *state, uint32_t now_ms,
                         int32_t reading)
{
    if (cup_span_is(state, CUP_SPAN_PERSON))
        return falls_as_drawn(span, state, reading);
    return span_is_over(span, now_ms, state->period_ms, state->samples) &&
           state->away * 10u >= state->samples * 9u;
}

/* A leap under way: it ends as the belief, or by nothing being out there any
 * more. */
static void step_leap(CUP_FLASH struct cup_span *span,
                      struct cup_span_state *state, uint32_t now_ms,
                      int32_t reading, bool there)
{
    reach_out(state, reading);
    if (there && state->since_far < UINT16_MAX)
        state->since_far++;
    if (!there) {
        state->far_ms = now_ms;
        state->since_far = 0;
    }
    if (is_for_other(span, state, now_ms, reading)) {
        state->was = state->belief;
        believe_other(span, state, now_ms, reading);
        span_set(state, CUP_SPAN_NEWS, true);
    } else if (span_is_over(span, now_ms, state->far_ms, state->since_far)) {
        span_set(state, CUP_SPAN_LEAPT, false);
        begin_period(state, now_ms);
        span_close(state, state->belief);
    } else if (is_yet_another(span, state, reading) ||
               span_is_over(span, now_ms, state->period_ms, state->samples)) {
        begin_other(state, now_ms, reading);
    }
}

/* Whether it is a leap that is out there, and not a few samples that came to be
 * the reading: several in a row say so, or nothing was sure for long. */
static bool is_leap(CUP_FLASH struct cup_span *span,
                    const struct cup_span_state *state, uint32_t now_ms)
{
    return state->away >= CUP_SPAN_LEAST ||
           cup_elapsed(now_ms, state->sure_ms) >= span->believe_ms;
}

/* No leap is under way: both ends are the reading's while it is sure. */
static void step_calm(CUP_FLASH struct cup_span *span,
                      struct cup_span_state *state, uint32_t now_ms,
                      int32_t reading, bool there)
{
    if (!there && is_leap(span, state, now_ms)) {
        begin_leap(state, now_ms, reading);
        reach_out(state, reading);
        return;
    }
    span_close(state, reading);
    reach_out(state, reading);
}

/* Whether a sample that is not near speaks for another level: of a leap under
 * way, for the one that it is at, which may drift. */
static bool is_for_far(CUP_FLASH struct cup_span *span,
                       struct cup_span_state *state,
                       const struct cup_span_sample *sample)
{
    const uint32_t leap = (uint32_t)span->leap;
    if (cup_gap(sample->level, sample->reading) > leap)
        return false;
    if (!cup_span_is(state, CUP_SPAN_LEAPT))
        return true;
    if (cup_gap(sample->level, state->far) > leap)
        return false;
    state->far = sample->level;
    return true;
}

void cup_span_hear(CUP_FLASH struct cup_span *span,
                   struct cup_span_state *state, uint32_t now_ms,
                   const struct cup_span_sample *sample)
{
    add_up(state, now_ms);
    if (!cup_span_is(state, CUP_SPAN_KNOWN)) {
        span_guess(span, state, now_ms, sample);
        return;
    }
    struct span_reach reach = reach_of(span, state, now_ms);
    bool near = span_is_near(span, state, reach, sample->level);
    bool there = span_is_near(span, state, reach, sample->reading);
    bool away = !near && is_for_far(span, state, sample);
    span_set(state, CUP_SPAN_HELD | CUP_SPAN_BRIM, false);
    if (cup_elapsed(now_ms, state->brim_ms) >= span->believe_ms)
        span_set(state, CUP_SPAN_SPOKE, false);
    note_near(state, sample, near);
    if (there && all_near(state, sample)) {
        renew(span, state, now_ms, sample->reading);
        cup_in_drawn_see(span, state, now_ms, sample->reading);
    }
    if (!away && !cup_span_is(state, CUP_SPAN_LEAPT))
        begin_period(state, now_ms);
    count_sample(state, away);
    if (cup_span_is(state, CUP_SPAN_LEAPT))
        step_leap(span, state, now_ms, sample->reading, there);
    else
        step_calm(span, state, now_ms, sample->reading, there);
}

/* Nearer than can be seen, and nothing says that it is full: a spider, or a lid
 * that is wet. It is told as a leap to the brim. */
static void tell_brim(struct cup_span_state *state)
{
    if (state->low == CUP_SPAN_FULL ||
        cup_span_is(state, CUP_SPAN_LEAPT | CUP_SPAN_SPOKE))
        return;
    state->far = CUP_SPAN_FULL;
    span_set(state, CUP_SPAN_UNTOLD | CUP_SPAN_SPOKE, true);
}

void cup_span_brim(CUP_FLASH struct cup_span *span,
                   struct cup_span_state *state, uint32_t now_ms)
{
    bool again = cup_span_is(state, CUP_SPAN_BRIM);
    if (!again)
        state->brim_ms = now_ms;
    if (!again && !cup_span_is(state, CUP_SPAN_LEAPT))
        state->leapt_ms = now_ms;
    span_set(state, CUP_SPAN_BRIM, true);
    span_set(state, CUP_SPAN_DRAWN, false); /* it says nothing of a run */
    add_up(state, now_ms);
    if (!cup_span_is(state, CUP_SPAN_KNOWN))
        return;
    if (!again && !cup_span_is(state, CUP_SPAN_LOST) &&
        state->belief + reach_of(span, state, now_ms).up >= TOP_TENTH) {
        renew(span, state, now_ms, CUP_SPAN_FULL);
        span_set(state, CUP_SPAN_LEAPT, false);
        span_close(state, CUP_SPAN_FULL);
    }
    if (!cup_span_is(state, CUP_SPAN_LEAPT))
        state->belief = span_lower(state->belief, state->low);
    state->high = CUP_SPAN_FULL;
    if (!again)
        tell_brim(state);
}

void cup_span_miss(struct cup_span_state *state, uint32_t now_ms)
{
    span_set(state, CUP_SPAN_HELD, true);
    add_up(state, now_ms);
}

void cup_span_widen(struct cup_span_state *state, int32_t low, int32_t high)
{
    if (!cup_span_is(state, CUP_SPAN_KNOWN))
        return;
    state->low = span_lower(state->low, low);
    state->high = span_higher(state->high, high);
}

void cup_span_lose(struct cup_span_state *state)
{
    span_set(state, CUP_SPAN_LOST | CUP_SPAN_HELD, true);
    span_set(state, CUP_SPAN_GUESS | CUP_SPAN_BRIM, false);
}

#endif
