/* temp9, pulse40, range-word, word12: never a value of a frame whose sum is
 * wrong, and never one outside what the frame can hold. */
#include <stdlib.h>

#include "cuplatch/decode.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

static void check_temp9(const uint8_t *bytes, size_t count)
{
    struct cup_sample sample = cup_temp9(bytes, count, false);
    if (sample.reject != CUP_REASON_NONE)
        return;
    if (count != 9 || cup_crc8(bytes, 9) != 0 || sample.raw < INT16_MIN ||
        sample.raw > INT16_MAX)
        abort();
}

static void check_pulse40(const uint8_t *bytes, size_t count, int part,
                          int scale)
{
    struct cup_sample sample =
        cup_pulse40(bytes, count, (enum cup_pulse40_part)part,
                    (enum cup_pulse40_scale)scale);
    if (sample.reject != CUP_REASON_NONE)
        return;
    if (count != 5 ||
        (uint8_t)(bytes[0] + bytes[1] + bytes[2] + bytes[3]) != bytes[4] ||
        sample.raw > UINT16_MAX || sample.raw < INT16_MIN)
        abort();
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    check_temp9(bytes, count);
    for (int i = 0; i < 4; i++)
        check_pulse40(bytes, count, i & 1, i >> 1);
    struct cup_sample word = cup_range_word(bytes, count);
    if (word.reject == CUP_REASON_NONE && count != 2)
        abort();
    word = cup_word12(bytes, count);
    if (word.reject == CUP_REASON_NONE && (count != 2 || word.raw > 0xFFF))
        abort();
    return 0;
}
