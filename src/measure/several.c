/* What several probes say together. */
#include "cuplatch/several.h"

static void sort(cup_value *values, uint8_t count)
{
    for (uint8_t i = 1; i < count; i++) {
        cup_value value = values[i];
        uint8_t at = i;
        for (; at > 0 && values[at - 1] > value; at--)
            values[at] = values[at - 1];
        values[at] = value;
    }
}

static cup_value mean(const cup_value *values, uint8_t count)
{
    int64_t sum = 0;
    for (uint8_t i = 0; i < count; i++)
        sum += values[i];
    return (cup_value)((sum + (sum < 0 ? -(count / 2) : count / 2)) / count);
}

cup_value cup_several_take(enum cup_takes takes, const cup_value *values,
                           uint8_t count)
{
    cup_value sorted[CUP_SEVERAL_MOST];
    if (count == 0 || count > CUP_SEVERAL_MOST)
        return 0;
    for (uint8_t i = 0; i < count; i++)
        sorted[i] = values[i];
    sort(sorted, count);
    switch (takes) {
    case CUP_TAKES_LOWEST:
        return sorted[0];
    case CUP_TAKES_HIGHEST:
        return sorted[count - 1];
    case CUP_TAKES_MIDDLE:
        return mean(&sorted[(count - 1) / 2], count % 2 == 0 ? 2 : 1);
    default:
        return mean(sorted, count);
    }
}

bool cup_several_strays(CUP_FLASH struct cup_several *several, bool strays,
                        cup_value value, cup_value middle)
{
    uint32_t apart = (uint32_t)several->apart;
    uint32_t far = cup_gap(value, middle);
    if (apart == 0)
        return false;
    return strays ? far > apart - apart / 4 : far > apart;
}
