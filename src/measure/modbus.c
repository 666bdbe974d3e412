/* Modbus RTU: the request for a block of registers, and its answer. */
#include "cuplatch/decode.h"

#define UNIT_MAX 247
#define EXCEPTION 0x80
#define EXCEPTION_LENGTH 5

enum cup_error cup_modbus_request(uint8_t *bytes, uint8_t unit,
                                  enum cup_modbus_function function,
                                  uint16_t first, uint8_t count)
{
    if ((function != CUP_MODBUS_HOLDING && function != CUP_MODBUS_INPUT) ||
        unit < 1 || unit > UNIT_MAX || count < 1 ||
        count > CUP_MODBUS_REGISTERS || first > UINT16_MAX - count + 1)
        return CUP_ERROR_RANGE;
    bytes[0] = unit;
    bytes[1] = (uint8_t)function;
    bytes[2] = (uint8_t)(first >> 8);
    bytes[3] = (uint8_t)first;
    bytes[4] = 0;
    bytes[5] = count;
    uint16_t crc = cup_crc16(bytes, 6);
    bytes[6] = (uint8_t)crc;
    bytes[7] = (uint8_t)(crc >> 8);
    return CUP_OK;
}

static bool crc_holds(const uint8_t *bytes, size_t length)
{
    uint16_t crc = cup_crc16(bytes, length - 2);
    return bytes[length - 2] == (uint8_t)crc &&
           bytes[length - 1] == (uint8_t)(crc >> 8);
}

uint8_t cup_modbus_answer(const uint8_t *bytes, size_t length, uint8_t unit,
                          enum cup_modbus_function function, uint8_t count)
{
    if (length < EXCEPTION_LENGTH || !crc_holds(bytes, length) ||
        bytes[0] != unit)
        return CUP_REASON_BAD_FRAME;
    if (length == EXCEPTION_LENGTH &&
        bytes[1] == ((unsigned)function | EXCEPTION))
        return CUP_REASON_FAULT;
    if (bytes[1] != (unsigned)function || bytes[2] != count * 2 ||
        length != (size_t)count * 2 + EXCEPTION_LENGTH)
        return CUP_REASON_BAD_FRAME;
    return CUP_REASON_NONE;
}

uint16_t cup_modbus_register(const uint8_t *bytes, uint8_t index)
{
    const uint8_t *word = bytes + 3 + 2 * (size_t)index;
    return cup_both(word[0], word[1]);
}
