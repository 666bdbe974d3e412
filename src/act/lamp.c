/* Patterns of light and sound. Powers of two, so that no division is needed
 * and the wrap of the clock is not seen. */
#include "cuplatch/lamp.h"

uint8_t cup_bar_lit(CUP_FLASH struct cup_bar *bar, cup_value value)
{
    uint8_t lit = 0;
    while (lit < bar->count && value > bar->marks[lit])
        lit++;
    return lit;
}

bool cup_status_lit(enum cup_mood mood, uint32_t now_ms)
{
    if (mood == CUP_MOOD_WELL)
        return true;
    return !(now_ms & (mood == CUP_MOOD_WAITS ? 512u : 128u));
}

bool cup_sounder_on(enum cup_mood mood, uint32_t now_ms)
{
    uint32_t at = now_ms & 4095;
    return mood == CUP_MOOD_FAULT && (at < 256 || (at >= 512 && at < 768));
}
