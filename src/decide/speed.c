/* How far an output is driven, by a level. */
#include "cuplatch/speed.h"

uint16_t cup_speed_place(CUP_FLASH struct cup_speed *speed, cup_value value)
{
    CUP_FLASH struct cup_speed_point *points = speed->points;
    const bool falls = points[1].at < points[0].at;
    uint8_t after = 0;
    while (after < speed->count &&
           (falls ? value < points[after].at : value > points[after].at))
        after++;
    if (after == 0)
        return points[0].place_pct100;
    if (after == speed->count)
        return points[after - 1].place_pct100;
    const struct cup_speed_point low = points[after - 1];
    const struct cup_speed_point high = points[after];
    int32_t more = (int32_t)high.place_pct100 - low.place_pct100;
    int64_t gone = (int64_t)cup_gap(value, low.at) * more;
    return (uint16_t)(low.place_pct100 +
                      gone / (int64_t)cup_gap(high.at, low.at));
}
