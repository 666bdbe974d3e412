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

bool cup_bar_lights(CUP_FLASH struct cup_bar *bar, uint8_t passed, uint8_t lamp)
{
    return bar->band ? lamp + 1 == passed : lamp < passed;
}

enum cup_pattern cup_signal_pattern(CUP_FLASH struct cup_signal *signal,
                                    uint8_t mood)
{
    if (signal->sounds)
        return mood == CUP_MOOD_FAULT ? CUP_PATTERN_TONES : CUP_PATTERN_OFF;
    mood &= CUP_MOOD_QUIET - 1;
    if (mood == CUP_MOOD_FAULT)
        return CUP_PATTERN_FAST;
    return mood == CUP_MOOD_WAITS ? CUP_PATTERN_SLOW : CUP_PATTERN_ON;
}

bool cup_pattern_lit(enum cup_pattern pattern, uint32_t now_ms)
{
    uint32_t at = now_ms & 4095;
    switch (pattern) {
    case CUP_PATTERN_ON:
        return true;
    case CUP_PATTERN_SLOW:
        return !(now_ms & 512);
    case CUP_PATTERN_FAST:
        return !(now_ms & 128);
    case CUP_PATTERN_TONES:
        return at < 256 || (at >= 512 && at < 768);
    default:
        return false;
    }
}
