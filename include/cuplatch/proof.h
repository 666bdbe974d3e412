/* Proof of flow: a pump must show that water moves, or it is stopped before it
 * runs dry. The best proof is at the far end: the destination rises.
 *
 * The change is added up over the time that the pump ran, be it in one run or
 * in several; once that is `within_ms` it is judged, and a new window begins.
 * While another pump moves the tank that should tell, the window is not
 * conclusive; three of those in a row fail. A proof that is lost fails.
 *
 * In use:
 *
 *     const struct cup_proof rises = {.change = 60, .within_ms = 75000};
 *     struct cup_proof_state state = {0};
 *     cup_proof_start(&state, now_ms, level);
 *     if (cup_proof_left(&rises, &state, now_ms) == 0 &&
 *         cup_proof_judge(&rises, &state, now_ms, level, &cause) == CUP_FAILED)
 *         stop_the_pump(); */
#ifndef CUPLATCH_PROOF_H
#define CUPLATCH_PROOF_H

#include "reason.h"
#include "sensor.h"

CUP_C_BEGINS

enum cup_proof_kind {
    CUP_PROOF_RISES, /* a tank's depth or a sensor's value, by at least so much
                      */
    CUP_PROOF_FALLS, /* the same, down */
    CUP_PROOF_ABOVE  /* a sensor's value, at least so much when judged */
};

enum cup_proof_flag {
    CUP_PROOF_HELPED = 1,   /* another pump moved it the same way meanwhile */
    CUP_PROOF_HINDERED = 2, /* ... the other way: what shows in spite of that
                               proves */
    CUP_PROOF_COMES = 4     /* the pump is off, and what its last run moved may
                               not have been read yet */
};

/* Inconclusive windows in a row that fail. */
#define CUP_PROOF_MIXED_MOST 3

/*   change     tenths of a millimetre of depth, or the sensor's own unit
 *   within_ms  of running time
 *   about      the tank or sensor that tells, as a thing
 *   own        guards of its pump that look at that tank: what it moves itself
 *   shared     other pumps are proved by the same sensor: what it says while
 *              one of them runs is nobody's. 1 and the own of the first of
 *              them, whose state counts how many run; 0: none are
 *   lag_ms     so late what a run moved is read: until then it counts */
struct cup_proof {
    int32_t change;
    uint32_t within_ms;
    uint32_t lag_ms;
    cup_index about;
    CUP_WHERE(FLOWS, cup_index shared;)
    uint8_t kind;
    uint8_t own;
};

/* All zero is the beginning. */
struct cup_proof_state {
    cup_value base;
    int32_t gained;   /* in earlier parts; of ABOVE: 1 once it was above */
    uint32_t from_ms; /* when the window began, had it been one run; of a pump
                         that is off: when it stopped */
    uint32_t ran_ms;  /* in its earlier parts */
    uint8_t flags;    /* of enum cup_proof_flag */
    uint8_t unsure;   /* inconclusive windows in a row */
    uint16_t sharers; /* pumps that run, of those that it counts */
};
CUP_ASSERT(CUP_NARROW || sizeof(struct cup_proof_state) == 20,
           "state has no padding");

/* The pump started, or a new window begins. */
void cup_proof_start(struct cup_proof_state *state, uint32_t now_ms,
                     cup_value value);

/* The pump stopped: this part of the window counts until its lag is over. */
void cup_proof_stop(CUP_FLASH struct cup_proof *proof,
                    struct cup_proof_state *state, uint32_t now_ms);

/* The same pump, off, with CUP_PROOF_COMES: what its last run moved is kept
 * once its lag is over, or another pump moves the tank (`flags` of those above;
 * 0: nobody). Returns ms until then, 0 once it is kept. */
uint32_t cup_proof_settle(CUP_FLASH struct cup_proof *proof,
                          struct cup_proof_state *state, uint32_t now_ms,
                          cup_value value, unsigned flags);

/* ms of running until the window is judged. */
uint32_t cup_proof_left(CUP_FLASH struct cup_proof *proof,
                        const struct cup_proof_state *state, uint32_t now_ms);

/* A sensor's value while its pump runs: kept for a window that is made of
 * several runs, in each of which the value has to rise anew. */
void cup_proof_see(CUP_FLASH struct cup_proof *proof,
                   struct cup_proof_state *state, cup_value value);

/* What a window came to. */
enum cup_verdict { CUP_PROVED, CUP_UNSURE, CUP_FAILED };

/* Judges a window that is over, and begins the next. For a failed one `cause`
 * says why. */
enum cup_verdict cup_proof_judge(CUP_FLASH struct cup_proof *proof,
                                 struct cup_proof_state *state, uint32_t now_ms,
                                 cup_value value, struct cup_cause *cause);

CUP_C_ENDS

#endif
