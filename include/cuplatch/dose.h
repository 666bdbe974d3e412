/* Doses: while a latch is on, give a little, let it soak in, look again. A
 * session runs from the start mark to the stop mark, over losses and reboots;
 * it ends when two samples in a row are past stop, or the latch's confirm says
 * so. A dose that was cut short counts; one that raised the level by a tenth
 * of the way from start to stop, or more, does not count towards `doses`, but
 * no session has more than four times `doses` in all. Out of doses, it stays
 * so until the session ends, or until a person clears it. However sessions end,
 * a soak passes between two doses, and in any 24 h there are at most four times
 * `doses`: then it is out until a person clears it.
 *
 * In use:
 *
 *     const struct cup_dose dose = {.dose_ms = 45000, .soak_ms = 420000};
 *     struct cup_dose_state state = {0};
 *     cup_latch_step(&bed, &latch, now_ms, level, true);
 *     cup_dose_see(&state, &latch, cup_latch_past_stop(&bed, level));
 *     cup_dose_step(&dose, &state, &latch, now_ms, is_on);
 *     if (!is_on && cup_dose_asks(&latch))
 *         cup_dose_begin(&state, &latch, now_ms, level); */
#ifndef CUPLATCH_DOSE_H
#define CUPLATCH_DOSE_H

#include "latch.h"

CUP_C_BEGINS

/*   dose_ms  of running
 *   soak_ms  from the end of a dose until the next may come
 *   doses    the most of a session that bring nothing, up to CUP_DOSES_MOST;
 *            0 is no limit
 *   answer   a tenth of the way from start to stop, away from 0; where marks
 *            may be changed it is worked out anew */
struct cup_dose {
    uint32_t dose_ms;
    uint32_t soak_ms;
    CUP_UNLESS(SETTINGS, cup_value answer;)
    uint8_t doses;
};

enum cup_dose_phase {
    CUP_DOSE_READY,  /* asks while the latch is on */
    CUP_DOSE_GIVEN,  /* its pump runs for it */
    CUP_DOSE_SOAKS,  /* waits for the water to arrive */
    CUP_DOSE_OUT,    /* no dose is left */
    CUP_DOSE_AFRESH, /* a person cleared it, which is not told yet */
    CUP_DOSE_DAY     /* no dose is left of 24 h */
};

/* 24 h are this many parts, and the one under way. */
#define CUP_DOSE_PARTS 4
#define CUP_DOSE_PART_MS (UINT32_C(24) * 3600 * 1000 / CUP_DOSE_PARTS)

/* All zero is ready. Its phase and its count of doses that brought nothing are
 * in the latch's own two bytes.
 *   since_ms  when the dose or the soak began
 *   base      the value when the last dose began
 *   given     doses of the session in all; 0: there is none under way
 *   past      whether the last sample was past stop (1), the one before (2)
 *   today     doses of the last 24 h, and of up to six more
 *   part      of them, those of each part, the one under way first
 *   part_ms   when that began */
struct cup_dose_state {
    uint32_t since_ms;
    cup_value base;
    uint32_t part_ms;
    uint8_t given;
    uint8_t past;
    uint8_t today;
    uint8_t part[CUP_DOSE_PARTS + 1];
};
#ifndef __AVR__
CUP_ASSERT(CUP_NARROW || sizeof(struct cup_dose_state) == 20,
           "state has no padding");
#endif

enum { CUP_DOSE_PHASE, CUP_DOSE_COUNT };

/* The most that `doses` may be, so that four times as many can be counted. */
#define CUP_DOSES_MOST 60

/* A sample that can be used, after its latch was stepped: the second in a row
 * past stop ends the session, unless the latch still waits for its confirm. */
void cup_dose_see(struct cup_dose_state *state, struct cup_latch_state *latch,
                  bool past_stop);

/* A dose begins: it counts whether or not it is given to its end. */
void cup_dose_begin(struct cup_dose_state *state, struct cup_latch_state *latch,
                    uint32_t now_ms, cup_value value);

/* Steps a dosed duty after its latch. `running`: its pump is on, and for it.
 * Returns ms until it wants to look again by itself. */
uint32_t cup_dose_step(CUP_NUMBERS struct cup_dose *dose,
                       struct cup_dose_state *state,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       bool running);

/* The water of a dose has had its time: judges what that brought. */
void cup_dose_judge(CUP_NUMBERS struct cup_dose *dose,
                    const struct cup_dose_state *state,
                    CUP_NUMBERS struct cup_latch *marks,
                    struct cup_latch_state *latch, cup_value value);

/* Whether another may be given: after the step and the judging, while it is
 * ready and its latch is on. Else it is out. */
void cup_dose_limit(CUP_NUMBERS struct cup_dose *dose,
                    const struct cup_dose_state *state,
                    struct cup_latch_state *latch);

/* Whether it asks for its pump. */
static inline bool cup_dose_asks(const struct cup_latch_state *latch)
{
    return latch->on && latch->own[CUP_DOSE_PHASE] <= CUP_DOSE_GIVEN;
}

/* Whether no dose is left, of the session or of 24 h. */
static inline bool cup_dose_is_out(const struct cup_latch_state *latch)
{
    return latch->own[CUP_DOSE_PHASE] == CUP_DOSE_OUT ||
           latch->own[CUP_DOSE_PHASE] == CUP_DOSE_DAY;
}

/* A person says that all is well: it has all its doses again. One under way
 * goes on, and soaks in. */
void cup_dose_clear(struct cup_dose_state *state,
                    struct cup_latch_state *latch);

/* Why a dosed duty does not ask though its latch is on: fills `cause`, but for
 * what it is about, and returns its reason. NONE, and no cause, while it is
 * ready or gives. */
uint8_t cup_dose_cause(CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *state,
                       const struct cup_latch_state *latch, uint32_t now_ms,
                       struct cup_cause *cause);

CUP_C_ENDS

#endif
