/* One latch and nothing else: when to water a bed, from a list of readings. */
#include <stdio.h>

#include "cuplatch/latch.h"

int main(void)
{
    /* Water below 34 %, until above 66 %; a crossing must hold for 20 s. */
    const struct cup_latch bed = {3400, 6600, 20000};
    const int32_t moisture[] = {4100, 3390, 3520, 3380, 3350, 3340,
                                4800, 6650, 6700, 6710, 6500};
    struct cup_latch_state state = {0};
    for (uint32_t i = 0; i < sizeof(moisture) / sizeof(moisture[0]); i++) {
        uint32_t now_ms = i * 10000;
        bool on = cup_latch_step(&bed, &state, now_ms, moisture[i], true);
        printf("%3us  %d.%02d %%  %s\n", (unsigned)(now_ms / 1000),
               (int)(moisture[i] / 100), (int)(moisture[i] % 100),
               on ? "water" : "-");
    }
    return 0;
}
