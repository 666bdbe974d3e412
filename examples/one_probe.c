/* A soil probe alone: calibrated, smoothed, checked, held and lost. */
#include <stdio.h>

#include "cuplatch/sensor.h"

int main(void)
{
    static const struct cup_point points[] = {{2910, 0}, {1180, 10000}};
    static struct cup_knot knots[2];
    static const struct cup_curve curve = {knots, 2, true};
    static const struct cup_sensor probe = {.curve = &curve,
                                            .every_ms = 10000,
                                            .lost_after_ms = 30000,
                                            .lowest = 300,
                                            .highest = 3800,
                                            .window = {3, 1},
                                            .unit = CUP_UNIT_PERCENT,
                                            CUP_SENSOR_ALONE};
    static const int32_t heard[] = {2305, 2311, 1500, 2308, 4095,
                                    4095, 4095, 4095, 2320};
    static const char *const qualities[] = {"good", "held", "lost"};
    struct cup_sensor_state state = {.good_ms = 0};
    uint16_t cells[3];
    uint8_t order[3];
    struct cup_sensor_use use = {
        .sensor = &probe, .state = &state, .cells = cells, .order = order};
    if (cup_curve_make(knots, points, 2, true))
        return 1;
    cup_sensor_boot(&probe, &state, 0);
    for (uint32_t i = 0; i < sizeof(heard) / sizeof(heard[0]); i++) {
        uint32_t now_ms = i * 10000;
        cup_sensor_hear(&use, now_ms, (struct cup_sample){.raw = heard[i]});
        cup_sensor_age(&probe, &state, now_ms);
        printf("%2us  raw %4d  %s", (unsigned)(now_ms / 1000), (int)heard[i],
               qualities[state.reading.quality]);
        if (cup_usable(state.reading))
            printf("  %.2f %%", state.reading.value / 100.0);
        printf("\n");
    }
    return 0;
}
