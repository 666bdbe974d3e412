/* Doses: while a latch is on, give a little, let it soak in, look again. A
 * session runs from the start mark to the stop mark; a dose that was cut short
 * counts. Out of doses, it stays so until the stop mark is passed, over
 * reboots too, or until a person clears it. */
#ifndef CUPLATCH_DOSE_H
#define CUPLATCH_DOSE_H

#include "latch.h"

/*   dose_ms  of running
 *   soak_ms  from the end of a dose until the next may come
 *   doses    the most of a session; 0 is no limit */
struct cup_dose {
    uint32_t dose_ms;
    uint32_t soak_ms;
    uint8_t doses;
};

enum cup_dose_phase {
    CUP_DOSE_READY, /* asks while the latch is on */
    CUP_DOSE_GIVEN, /* its pump runs for it */
    CUP_DOSE_SOAKS, /* waits for the water to arrive */
    CUP_DOSE_OUT    /* no dose is left */
};

/* All zero is ready. Its phase and its count of doses are in the latch's own
 * two bytes. */
struct cup_dose_state {
    uint32_t since_ms; /* when the dose or the soak began */
};

enum { CUP_DOSE_PHASE, CUP_DOSE_COUNT };

/* Steps a dosed duty after its latch. `past_stop`: the value is known and
 * beyond the stop mark. `running`: its pump is on, and for this duty, since
 * `run_since_ms`. Returns ms until it wants to look again by itself. */
uint32_t cup_dose_step(CUP_NUMBERS struct cup_dose *dose,
                       struct cup_dose_state *state,
                       struct cup_latch_state *latch, uint32_t now_ms,
                       bool past_stop, bool running, uint32_t run_since_ms);

/* Whether it asks for its pump. */
static inline bool cup_dose_asks(const struct cup_latch_state *latch)
{
    return latch->on && latch->own[CUP_DOSE_PHASE] <= CUP_DOSE_GIVEN;
}

/* A person says that all is well. */
static inline void cup_dose_clear(struct cup_latch_state *latch)
{
    latch->own[CUP_DOSE_PHASE] = CUP_DOSE_READY;
    latch->own[CUP_DOSE_COUNT] = 0;
}

/* Why a dosed duty does not ask though its latch is on: fills `cause`, but for
 * what it is about, and returns its reason. NONE, and no cause, while it is
 * ready or gives. */
uint8_t cup_dose_cause(CUP_NUMBERS struct cup_dose *dose,
                       const struct cup_dose_state *state,
                       const struct cup_latch_state *latch, uint32_t now_ms,
                       struct cup_cause *cause);

#endif
