/* A board with a modem: alerts go as text messages to one number, that is built
 * in as BOARD_PHONE, and its texts are answered. By the number alone, which can
 * be forged, they ask and stop, and start nothing. */
#ifndef CUPLATCH_FIRMWARE_PHONE_H
#define CUPLATCH_FIRMWARE_PHONE_H

#include "board.h"

#ifdef BOARD_PHONE

/* Each turn of the loop; how long it may sleep then, in ms. */
uint32_t phone_turn(uint32_t now_ms);

/* Each event as it is told. */
void phone_event(const struct cup_event *event);

/* What a board gives for it, the modem's line: says a byte, and waits until the
 * line has taken it; the next that was heard, -1 when there is none. */
void board_modem_say(char byte);
int board_modem_heard(void);

#else

static inline uint32_t phone_turn(uint32_t now_ms)
{
    (void)now_ms;
    return UINT32_MAX;
}

static inline void phone_event(const struct cup_event *event)
{
    (void)event;
}

#endif

#endif
