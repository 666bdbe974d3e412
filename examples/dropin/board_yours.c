/* A board to fill in: it answers nothing and drives nothing, and a garden on it
 * does not water. Each place that is yours says so. */
#include "board.h"

static uint32_t ms; /* yours: counted by a timer */

void board_begin(void)
{
    /* yours: every line that a pump hangs on, off */
}

uint32_t board_now_ms(void)
{
    return ms;
}

bool board_count(uint8_t channel, int32_t *count)
{
    (void)channel, (void)count;
    return false; /* yours: convert, and give the count */
}

bool board_closed(uint8_t line)
{
    (void)line;
    return false; /* yours: read the line */
}

bool board_put(uint8_t line, bool high)
{
    (void)line;
    return !high; /* yours: put it, read it back, and say whether it obeyed */
}

void board_say(const char *text)
{
    (void)text; /* yours: the serial line */
}

void board_feed(void)
{
    /* yours: the watchdog */
}

void board_sleep(uint32_t span_ms)
{
    ms += span_ms; /* yours: sleep, and let the timer count */
}

bool board_goes_on(void)
{
    return true;
}
