/* A board on a desk: soil that dries and is wetted, a can that runs out at
 * noon, and three hours in no time. */
#include <stdio.h>

#include "board.h"

#define PUMP 7
#define TICK_MS 100u
#define HOURS(count) ((uint32_t)(count)*3600000u)

static uint32_t ms;
static int32_t soil = 2100; /* counts fall as it gets wetter */
static int32_t can_ml = 900;
static bool pumps;

void board_begin(void)
{
    pumps = false;
}

uint32_t board_now_ms(void)
{
    return ms;
}

bool board_count(uint8_t channel, int32_t *count)
{
    (void)channel;
    *count = soil;
    return true;
}

bool board_closed(uint8_t line)
{
    (void)line;
    return can_ml > 400; /* the float is lifted */
}

bool board_put(uint8_t line, bool high)
{
    if (line == PUMP)
        pumps = high;
    return true;
}

void board_say(const char *text)
{
    printf("%2u:%02u:%02u  %s\n", (unsigned)(ms / 3600000),
           (unsigned)(ms / 60000 % 60), (unsigned)(ms / 1000 % 60), text);
}

void board_feed(void)
{
}

/* The world goes on while the program sleeps, and a tenth of a second at least:
 * 8 ml a second by the pump, a count every ten seconds by the sun. */
void board_sleep(uint32_t span_ms)
{
    uint32_t until_ms = ms + (span_ms > TICK_MS ? span_ms : TICK_MS);
    for (; ms < until_ms; ms += TICK_MS) {
        if (pumps && can_ml > 0 && ms % 1000 == 0) {
            can_ml -= 8;
            soil -= 7;
        }
        if (ms % 10000 == 0)
            soil += 1;
    }
}

bool board_goes_on(void)
{
    return ms < HOURS(3);
}
