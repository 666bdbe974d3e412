/* A board with a modem: alerts go as text messages to one number, that is built
 * in as BOARD_PHONE, and its texts are answered. By the number alone, which can
 * be forged, they ask and stop, and start nothing. */
#ifndef CUPLATCH_FIRMWARE_PHONE_H
#define CUPLATCH_FIRMWARE_PHONE_H

#include "board.h"

/* Each turn of the loop; how long it may sleep then, in ms. */
uint32_t phone_turn(uint32_t now_ms);

/* Each event as it is told. */
void phone_event(const struct cup_event *event);

#ifdef BOARD_PHONE
/* What a board gives for it: the modem's line. Says up to a few bytes a turn,
 * each of which it waits for; -1 when nothing was heard. */
void board_modem_say(char byte);
int board_modem_heard(void);
#else
inline uint32_t phone_turn(uint32_t now_ms)
{
    (void)now_ms;
    return UINT32_MAX;
}

inline void phone_event(const struct cup_event *event)
{
    (void)event;
}
#endif

#endif
