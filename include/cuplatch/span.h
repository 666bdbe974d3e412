/* What the level of a tank may be: a span, from `low` to `high`, not a number.
 *
 * A reading is believed while every sample that it is the mean of was near what
 * was believed before, within `leap` and what can have moved since: what pumps
 * gave or drew, half as much again, and what `gains` and `loses` say. A sample
 * that is not near may be a leap: a rung of the ladder, a spider, foam, a wall.
 * Then the span reaches from the belief to the reading; an end moves outward at
 * once, and inward only after `believe` without a reading out there. The other
 * level is believed when nine in ten samples of a `believe` say it. So a leap
 * stops what it must, and permits nothing.
 *
 * What is nearer than a ranger can see is the brim, as far as `high` goes; it
 * is believed as full only where the belief was in the top tenth, or could have
 * come there. A loss wipes nothing out, and a boot begins with what the journal
 * kept.
 *
 * Levels are marks: hundredths of a per cent of the volume, 0 to CUP_SPAN_FULL.
 *
 * In use:
 *
 *     const struct cup_span plan = {.leap = 400, .believe_ms = 900000};
 *     struct cup_span_state state = {0};
 *     struct cup_window_state window = {.count = 1};
 *     struct cup_span_sample heard = {.level = 4120,
 *                                     .reading = 4120,
 *                                     .shape = {1, 0},
 *                                     .window = &window,
 *                                     .order = order};
 *     cup_span_boot(&state, now_ms);
 *     cup_span_hear(&plan, &state, now_ms, &heard);
 *     if (state.low < 1200)
 *         stop_the_pump(); */
#ifndef CUPLATCH_SPAN_H
#define CUPLATCH_SPAN_H

#include "sensor.h"

CUP_C_BEGINS

#define CUP_SPAN_FULL 10000

/* Flows are held in 65536ths of a hundredth of a per cent, in 1024 ms. */
#define CUP_SPAN_PARTS 65536
/* Of a pump whose flow nobody told: it may have moved anything on its side. */
#define CUP_SPAN_UNKNOWN UINT32_MAX

/* Without a belief to begin with: so long, and so many samples at least, within
 * one leap. */
#define CUP_SPAN_BOOT_MS 120000
#define CUP_SPAN_LEAST 3

/*   believe_ms  how long a level that leapt must hold to be believed
 *   boot_ms     the same where nothing is believed yet; 0: the first reading is
 *   lag_ms      how old the oldest sample of the window is, with the pipe
 *   gains, loses  what nothing of ours may give or take, at most
 *   leap        how far a sample may be from the belief, in levels */
struct cup_span {
    uint32_t believe_ms;
    uint32_t boot_ms;
    uint32_t lag_ms;
    uint32_t gains;
    uint32_t loses;
    int32_t leap;
};

enum {
    CUP_SPAN_KNOWN = 1,   /* something is believed */
    CUP_SPAN_LEAPT = 2,   /* a reading is, or was, out of reach of the belief */
    CUP_SPAN_HELD = 4,    /* the last sample asked for was not accepted */
    CUP_SPAN_BRIM = 8,    /* nearer than the ranger can see */
    CUP_SPAN_GUESS = 16,  /* `belief` is the first of a guess at boot */
    CUP_SPAN_PERSON = 32, /* believed because a person said so */
    CUP_SPAN_LOST = 64,   /* nothing was believed since its sensor was lost */
    CUP_SPAN_UNTOLD = 128, /* a leap began and that was not told */
    CUP_SPAN_NEWS = 256,   /* another level is believed and that was not told */
    CUP_SPAN_SEEN = 512,   /* a person said it and that was not told */
    CUP_SPAN_DRAWN = 1024, /* a run says how far the level should fall */
    CUP_SPAN_TAIL = 2048,  /* ... that is over, but not yet read to its end */
    CUP_SPAN_HELP = 4096,  /* nobody can tell: somebody has to look in */
    CUP_SPAN_SPOKE = 8192  /* a brim that nothing explains was told lately */
};

/* All zero, then cup_span_boot(). `belief`, `low` and `high` are for everybody.
 *   was        what was believed before the other level was
 *   far        the level that the leap under way may come to be believed at
 *   given, drawn  what pumps may have moved since `since_ms`, half as much
 *              again; `_before`: in the time before that, as long as the
 *              window at least
 *   in, out    what pumps that run move now; `unknown_`: how many do whose
 *              flow nobody told
 *   low_part, high_part  what the ends have beyond their levels, in parts
 *   moved_ms   until when that was added up
 *   sure_ms    when the belief was last renewed
 *   period_ms  when a period began in which another level may come to be
 *              believed, with its samples, and how many were for it
 *   brim_ms    since when it is nearer than the ranger can see
 *   far_ms     when a reading was last out of reach, and the samples since
 *   leapt_ms   when the leap began: gains and loses count no further
 *   near       the samples of the window that were near when they came; a bit
 *              each, by their place
 *   leaps      how many there were; saturates
 *   owed       by how much the level should have fallen and did not, of runs
 *              that are over
 *   last       the last reading that was sure
 *   drew       what the run under way drew, in parts; `top`: where it began,
 *              and when; `late`, `ended_ms`: when it ended, and what of it was
 *              not yet read then */
struct cup_span_state {
    int32_t belief;
    int32_t low;
    int32_t high;
    int32_t was;
    int32_t far;
    uint32_t given;
    uint32_t given_before;
    uint32_t drawn;
    uint32_t drawn_before;
    uint32_t in;
    uint32_t out;
    uint32_t moved_ms;
    uint32_t since_ms;
    uint32_t sure_ms;
    uint32_t period_ms;
    uint32_t brim_ms;
    uint32_t far_ms;
    uint32_t leapt_ms;
    int32_t owed;
    int32_t last;
    int32_t top;
    uint32_t drew;
    uint32_t run_ms;
    uint32_t ended_ms;
    uint32_t late;
    uint32_t near;
    uint16_t low_part;
    uint16_t high_part;
    uint16_t samples;
    uint16_t away;
    uint16_t since_far;
    uint16_t flags;
    uint16_t leaps;
    uint8_t unknown_in;
    uint8_t unknown_out;
};
CUP_ASSERT(sizeof(struct cup_span_state) == 120, "state has no padding");

/* A sample that was accepted.
 *   level, reading  it, and the smoothed reading that it is part of, as levels
 *   shape, window, order  the window that the reading is the mean of, and when
 *                   each of its samples came */
struct cup_span_sample {
    int32_t level;
    int32_t reading;
    struct cup_window shape;
    const struct cup_window_state *window;
    const uint8_t *order;
};

static inline bool cup_span_is(const struct cup_span_state *state,
                               unsigned flags)
{
    return (state->flags & flags) != 0;
}

/* Nothing is believed: from empty to full. */
void cup_span_boot(struct cup_span_state *state, uint32_t now_ms);

/* What the journal kept, or a person saw, is believed. */
void cup_span_believe(struct cup_span_state *state, uint32_t now_ms,
                      int32_t level, unsigned flags);

/* Pumps that run begin or cease to move so much; CUP_SPAN_UNKNOWN: anything. */
void cup_span_switch(CUP_FLASH struct cup_span *span,
                     struct cup_span_state *state, uint32_t now_ms, bool gives,
                     uint32_t rate, bool on);

/* Takes a sample that was accepted; one nearer than the ranger can see, for the
 * second time in a row at least; one that was not accepted. */
void cup_span_hear(CUP_FLASH struct cup_span *span,
                   struct cup_span_state *state, uint32_t now_ms,
                   const struct cup_span_sample *sample);
void cup_span_brim(CUP_FLASH struct cup_span *span,
                   struct cup_span_state *state, uint32_t now_ms);
void cup_span_miss(struct cup_span_state *state, uint32_t now_ms);

/* It may as well be as low, or as high, for now: until the next sample. */
void cup_span_widen(struct cup_span_state *state, int32_t low, int32_t high);

/* By how much the level should have fallen while pumps drew, and did not: a
 * rung that falling water uncovers is no leap, and is found by this. Above two
 * leaps what draws has failed its proof; 0 while a run is too young to tell. A
 * rise of more than a leap, or a person who looked in, clears it. */
int32_t cup_span_owes(CUP_FLASH struct cup_span *span,
                      const struct cup_span_state *state, uint32_t now_ms);

/* Its sensor is lost. */
void cup_span_lose(struct cup_span_state *state);

/* Whether both ends are the reading's own: then the number is as good as they.
 */
static inline bool cup_span_is_wide(const struct cup_span_state *state)
{
    return state->low != state->high;
}

CUP_C_ENDS

#endif
