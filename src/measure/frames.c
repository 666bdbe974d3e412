/* Frames of a known length that end with their sum. */
#include "cuplatch/decode.h"

static struct cup_sample rejected(uint8_t reason)
{
    return (struct cup_sample){.reject = reason};
}

#define RECORD 9
#define POWER_UP_SIXTEENTHS (85 * 16)

static bool all_zero(const uint8_t *bytes, size_t count)
{
    for (size_t i = 0; i < count; i++)
        if (bytes[i] != 0)
            return false;
    return true;
}

/* A wire held low reads as nine zeros, whose CRC is right. */
struct cup_sample cup_temp9(const uint8_t *bytes, size_t count,
                            bool after_power_up)
{
    if (count != RECORD || all_zero(bytes, count) ||
        cup_crc8(bytes, RECORD - 1) != bytes[RECORD - 1])
        return rejected(CUP_REASON_BAD_FRAME);
    int32_t word = cup_both(bytes[1], bytes[0]);
    int32_t sixteenths = word < 0x8000 ? word : word - 0x10000;
    if (after_power_up && sixteenths == POWER_UP_SIXTEENTHS)
        return rejected(CUP_REASON_NOT_READY);
    return (struct cup_sample){.raw = sixteenths};
}

/* Two bytes of either scaling, without a sign. */
static int32_t tenths(uint8_t high, uint8_t low, enum cup_pulse40_scale scale)
{
    if (scale == CUP_PULSE40_TENTHS)
        return cup_both(high, low);
    return high * 10 + low;
}

static int32_t temperature(const uint8_t *bytes, enum cup_pulse40_scale scale)
{
    uint8_t high = bytes[0];
    uint8_t low = bytes[1];
    uint8_t *signed_byte = scale == CUP_PULSE40_TENTHS ? &high : &low;
    bool minus = *signed_byte & 0x80;
    *signed_byte &= 0x7F;
    int32_t size = tenths(high, low, scale);
    return minus ? -size : size;
}

struct cup_sample cup_pulse40(const uint8_t *bytes, size_t count,
                              enum cup_pulse40_part part,
                              enum cup_pulse40_scale scale)
{
    if (count != 5 || all_zero(bytes, count) ||
        (uint8_t)(bytes[0] + bytes[1] + bytes[2] + bytes[3]) != bytes[4])
        return rejected(CUP_REASON_BAD_FRAME);
    if (part == CUP_PULSE40_TEMPERATURE)
        return (struct cup_sample){.raw = temperature(bytes + 2, scale)};
    return (struct cup_sample){.raw = tenths(bytes[0], bytes[1], scale)};
}

struct cup_sample cup_loop(int32_t ua)
{
    if (ua < CUP_LOOP_LOW_UA || ua > CUP_LOOP_HIGH_UA)
        return rejected(CUP_REASON_FAULT);
    return (struct cup_sample){.raw = ua};
}
