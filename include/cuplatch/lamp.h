/* Lamps and sounders: how full a tank is at a glance, and whether all is well.
 * Each is worked out from what the site knows; none has a state of its own.
 *
 * In use:
 *
 *     const cup_value marks[] = {1500, 4000, 6500, 9200};
 *     const struct cup_bar bar = {.marks = marks, .count = 4};
 *     for (uint8_t i = 0; i < bar.count; i++)
 *         set_lamp(i, cup_bar_lights(&bar, cup_bar_lit(&bar, level), i)); */
#ifndef CUPLATCH_LAMP_H
#define CUPLATCH_LAMP_H

#include "base.h"

CUP_C_BEGINS

/* A bar of lamps, the lowest first: each is lit while the value is above its
 * mark. `marks` rise, in the unit of the thing `about`. As a band, only the
 * highest of these is lit: a lamp for each band of the level. */
struct cup_bar {
    CUP_FLASH cup_value *marks;
    cup_index about;
    uint8_t count;
    bool band;
};

/* How many marks of a bar a value is above. */
uint8_t cup_bar_lit(CUP_FLASH struct cup_bar *bar, cup_value value);

/* Whether a lamp of it, from 0, is lit when so many marks are passed. */
bool cup_bar_lights(CUP_FLASH struct cup_bar *bar, uint8_t passed,
                    uint8_t lamp);

/* How a site does, the worst last: nothing stands; something wanted has to
 * wait; something failed or an alert stands. */
enum cup_mood { CUP_MOOD_WELL, CUP_MOOD_WAITS, CUP_MOOD_FAULT };

/* Added to a mood by the site: a person quieted what sounds, which lasts until
 * something new is wrong; and that was not told yet. */
#define CUP_MOOD_QUIET 64
#define CUP_MOOD_QUIETED 128

/* A lamp or a sounder for the whole site. */
struct cup_signal {
    bool sounds;
};

/* How a signal shows it. A pattern has its own pace, whatever the scan is: who
 * can be called between passes asks cup_pattern_lit() as often as it can, who
 * cannot is told the pattern. */
#define CUP_PATTERNS(X)                                                        \
    X(OFF, "off")                                                              \
    X(ON, "on")                                                                \
    X(SLOW, "slow")                                                            \
    X(FAST, "fast")                                                            \
    X(TONES, "tones")

enum cup_pattern {
#define X(name, code) CUP_PATTERN_##name,
    CUP_PATTERNS(X)
#undef X
        CUP_PATTERN_COUNT
};

/* What a signal shows of a mood. A lamp: on; slow when something waits; fast
 * on a fault. A sounder: off, or tones on a fault until it is quieted. */
enum cup_pattern cup_signal_pattern(CUP_FLASH struct cup_signal *signal,
                                    uint8_t mood);

/* Whether a pattern is on at a moment: slow is half of about a second, fast
 * half of about a quarter of one, tones are two short ones every four
 * seconds. */
bool cup_pattern_lit(enum cup_pattern pattern, uint32_t now_ms);

CUP_C_ENDS

#endif
