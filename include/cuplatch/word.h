/* Steering words: what a person, a button or a program says while the site
 * runs. say.h reads them from text.
 *
 * In use:
 *
 *     struct cup_word word = {.verb = CUP_VERB_HAND, .number = 300000};
 *     is_on = cup_site_steer(site, now_ms, &word) == CUP_OK; */
#ifndef CUPLATCH_WORD_H
#define CUPLATCH_WORD_H

#include "base.h"

CUP_C_BEGINS

#define CUP_VERBS(X)                                                           \
    X(AUTO, "auto")                                                            \
    X(OFF, "off")                                                              \
    X(HAND, "hand")                                                            \
    X(CLEAR, "clear")                                                          \
    X(HOLD, "hold")                                                            \
    X(GO, "go")                                                                \
    X(QUIET, "quiet")                                                          \
    X(CLOCK, "clock")                                                          \
    X(SET, "set")                                                              \
    X(IS, "is")                                                                \
    X(SKIP, "skip")

enum cup_verb {
#define X(name, code) CUP_VERB_##name,
    CUP_VERBS(X)
#undef X
        CUP_VERB_COUNT
};

/* Settings changed together, so that an order between two can be kept. */
#define CUP_CHANGES_MOST 2
struct cup_change {
    int32_t value;
    cup_index setting;
};

/*   number  HAND: for how many ms; OFF, HOLD: the same, 0 is without end;
 *           CLOCK: s since the year 1970 began; IS: how full somebody who
 *           looked in saw it, in hundredths of a per cent
 *   target  a pump's index, or, from pump_count on, a duty's; of SKIP a duty's
 *           alone; of IS a tank's; HOLD, GO, QUIET, CLOCK and SET are for the
 *           site. Where CHOICES is not built duties take CLEAR alone
 *   changes of SET, change_count of them */
struct cup_word {
    uint32_t number;
    struct cup_change changes[CUP_CHANGES_MOST];
    cup_index target;
    uint8_t verb;
    uint8_t change_count;
};

CUP_C_ENDS

#endif
