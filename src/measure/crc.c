/* Cyclic redundancy checks, bit by bit: frames are short and tables cost
 * flash. */
#include "cuplatch/decode.h"

uint8_t cup_crc8(const uint8_t *bytes, size_t count)
{
    uint8_t crc = 0;
    for (size_t i = 0; i < count; i++) {
        crc ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            crc = (uint8_t)(crc & 1 ? crc >> 1 ^ 0x8C : crc >> 1);
    }
    return crc;
}

uint16_t cup_crc16(const uint8_t *bytes, size_t count)
{
    uint16_t crc = 0xFFFF;
    for (size_t i = 0; i < count; i++) {
        crc ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            crc = (uint16_t)(crc & 1 ? crc >> 1 ^ 0xA001 : crc >> 1);
    }
    return crc;
}

/* CRC-32 of IEEE 802.3, as PNG and zip have it: poly 0x04C11DB7 reflected, all
 * ones before and after. Bit by bit, since the journal is rare. */
uint32_t cup_crc32(uint32_t before, const uint8_t *bytes, size_t count)
{
    uint32_t crc = ~before;
    for (size_t i = 0; i < count; i++) {
        crc ^= bytes[i];
        for (int bit = 0; bit < 8; bit++)
            crc = crc & 1 ? crc >> 1 ^ UINT32_C(0xEDB88320) : crc >> 1;
    }
    return ~crc;
}
