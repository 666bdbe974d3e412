/* What must have fallen and did not: what pumps drew from a tank, held against
 * how its reading fell. A rung that falling water uncovers is no leap; this
 * finds it. */
#include "spanned.h"

#if CUP_USES_SPANS

/* What a run drew that may not have been read yet: of one that goes on, in one
 * lag; of one that is over, what was so when it ended. */
static uint32_t late_of(CUP_FLASH struct cup_span *span,
                        const struct cup_span_state *state)
{
    return cup_span_is(state, CUP_SPAN_TAIL)
               ? state->late
               : span_moved(state->out, span->lag_ms);
}

/* What a run drew until one lag ago, less what may have flowed in, less twice
 * what the reading fell. */
static int32_t due_of(CUP_FLASH struct cup_span *span,
                      const struct cup_span_state *state, uint32_t now_ms)
{
    uint32_t ms = cup_elapsed(now_ms, state->run_ms);
    uint32_t late = late_of(span, state);
    uint32_t drew = state->drew - cup_least(state->drew, late);
    drew -= cup_least(drew, span_moved(span->gains, ms));
    int32_t fell = span_higher(state->top - state->last, 0);
    return (int32_t)(drew / CUP_SPAN_PARTS) - 2 * fell;
}

int32_t cup_span_owes(CUP_FLASH struct cup_span *span,
                      const struct cup_span_state *state, uint32_t now_ms)
{
    if (!cup_span_is(state, CUP_SPAN_DRAWN) ||
        cup_elapsed(now_ms, state->run_ms) <= span->lag_ms)
        return 0;
    int32_t owes = state->owed + due_of(span, state, now_ms);
    return span_higher(owes, 0);
}

/* A run in which nothing else moved the tank, and it could be read, adds up,
 * never below nothing. */
static void add_drawn(CUP_FLASH struct cup_span *span,
                      struct cup_span_state *state, uint32_t now_ms)
{
    if (cup_span_is(state, CUP_SPAN_DRAWN)) {
        int32_t owes = state->owed + due_of(span, state, now_ms);
        state->owed = span_higher(owes, 0);
    }
    span_set(state, CUP_SPAN_DRAWN | CUP_SPAN_TAIL, false);
}

/* A run is over, and what it drew last is read so late as ever. */
static void end_drawing(CUP_FLASH struct cup_span *span,
                        struct cup_span_state *state, uint32_t now_ms)
{
    if (!cup_span_is(state, CUP_SPAN_DRAWN))
        return;
    state->late = span_moved(state->out, span->lag_ms);
    state->ended_ms = now_ms;
    span_set(state, CUP_SPAN_TAIL, true);
}

/* One lag after the end of a run all that it drew was read. */
static void see_tail(CUP_FLASH struct cup_span *span,
                     struct cup_span_state *state, uint32_t now_ms)
{
    if (!cup_span_is(state, CUP_SPAN_TAIL) ||
        cup_elapsed(now_ms, state->ended_ms) <= span->lag_ms)
        return;
    state->late = 0;
    add_drawn(span, state, now_ms);
}

static void begin_drawing(struct cup_span_state *state, uint32_t now_ms)
{
    bool tells = cup_span_is(state, CUP_SPAN_KNOWN) && state->in == 0 &&
                 state->unknown_in == 0 && state->unknown_out == 0;
    state->drew = 0;
    state->top = state->last;
    state->run_ms = now_ms;
    span_set(state, CUP_SPAN_DRAWN, tells);
}

/* Something draws: a run goes on, or one begins. A tail that is not over yet is
 * of the same run. */
static void go_on_drawing(CUP_FLASH struct cup_span *span,
                          struct cup_span_state *state, uint32_t now_ms)
{
    see_tail(span, state, now_ms);
    span_set(state, CUP_SPAN_TAIL, false);
    if (!cup_span_is(state, CUP_SPAN_DRAWN))
        begin_drawing(state, now_ms);
}

/* Never below nothing, while it runs, too: what fell more than it should have
 * does not hide what comes after. */
static void hold_drawn(CUP_FLASH struct cup_span *span,
                       struct cup_span_state *state, uint32_t now_ms)
{
    if (!cup_span_is(state, CUP_SPAN_DRAWN) ||
        cup_span_is(state, CUP_SPAN_TAIL) ||
        state->owed + due_of(span, state, now_ms) >= 0)
        return;
    state->owed = 0;
    state->top = state->last;
    state->drew = span_moved(state->out, span->lag_ms);
    state->run_ms = now_ms - span->lag_ms;
}

/* A reading that is sure: where a run began, within one lag; and a rise that
 * clears. */
void cup_in_drawn_see(CUP_FLASH struct cup_span *span,
                      struct cup_span_state *state, uint32_t now_ms,
                      int32_t reading)
{
    if (reading > state->top + span->leap)
        state->owed = 0;
    state->last = reading;
    see_tail(span, state, now_ms);
    if (cup_elapsed(now_ms, state->run_ms) <= span->lag_ms)
        state->top = span_higher(state->top, reading);
    else
        hold_drawn(span, state, now_ms);
}

void cup_in_drawn_before(CUP_FLASH struct cup_span *span,
                         struct cup_span_state *state, uint32_t now_ms,
                         bool apart, bool on)
{
    if (apart) /* what it moves hides what others draw */
        add_drawn(span, state, now_ms);
    else if (!on)
        end_drawing(span, state, now_ms);
}

void cup_in_drawn_after(CUP_FLASH struct cup_span *span,
                        struct cup_span_state *state, uint32_t now_ms, bool on)
{
    if (state->out == 0 && state->unknown_out == 0)
        return;
    if (!on) /* one of several */
        add_drawn(span, state, now_ms);
    go_on_drawing(span, state, now_ms);
}

void cup_in_drawn_anew(struct cup_span_state *state, uint32_t now_ms,
                       int32_t reading)
{
    state->last = reading;
    if (cup_span_is(state, CUP_SPAN_TAIL))
        span_set(state, CUP_SPAN_DRAWN | CUP_SPAN_TAIL, false);
    if (cup_span_is(state, CUP_SPAN_DRAWN))
        begin_drawing(state, now_ms);
}

#endif
