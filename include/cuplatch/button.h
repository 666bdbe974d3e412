/* A switch at the door that stands for words: one for a press, one for the next
 * press, one for a long one.
 *
 * In use:
 *
 *     struct cup_button_state state = {0};
 *     enum cup_press press = cup_button_step(&state, now_ms, is_closed, true);
 *     if (press == CUP_PRESS_LONG)
 *         clear_all(); */
#ifndef CUPLATCH_BUTTON_H
#define CUPLATCH_BUTTON_H

#include "word.h"

CUP_C_BEGINS

/* What a button says. */
enum cup_button_says {
    CUP_BUTTON_SAYS,  /* when pressed */
    CUP_BUTTON_AGAIN, /* when pressed while that still holds, by its press */
    CUP_BUTTON_HELD,  /* when held long */
    CUP_BUTTON_WORDS
};

/*   words  CUP_BUTTON_WORDS of them
 *   has    which of these there are: bit 0 for the first */
struct cup_button {
    CUP_FLASH struct cup_word *words;
    uint8_t has;
};

/* All zero is the beginning: what is closed from then on is stuck, or was
 * pressed before, and says nothing until it was open.
 *   own  1: what it said holds by its own press, and the next may take it back
 */
struct cup_button_state {
    uint32_t since_ms;
    uint16_t flags;
    uint16_t own;
};
CUP_ASSERT(sizeof(struct cup_button_state) == 8, "state has no padding");

enum cup_press { CUP_PRESS_NONE, CUP_PRESS_SHORT, CUP_PRESS_LONG };

/* It has changed once it stayed changed for so long; a long press. */
#define CUP_BUTTON_SETTLES_MS 30
#define CUP_BUTTON_LONG_MS 1500

/* Takes what it is now. Where a long press means something (`holds`), a short
 * one is told when the button is let go, else as soon as it is pressed. */
enum cup_press cup_button_step(struct cup_button_state *state, uint32_t now_ms,
                               bool closed, bool holds);

CUP_C_ENDS

#endif
