/* modbus: an answer is right only with its CRC, unit, function and length;
 * every request is one that its own answer check could belong to. */
#include <stdlib.h>

#include "cuplatch/decode.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

static void check_answer(const uint8_t *bytes, size_t count, uint8_t unit,
                         uint8_t words)
{
    uint8_t reason =
        cup_modbus_answer(bytes, count, unit, CUP_MODBUS_HOLDING, words);
    if (reason == CUP_REASON_BAD_FRAME)
        return;
    if (count < 5 || cup_crc16(bytes, count) != 0 || bytes[0] != unit)
        abort();
    if (reason == CUP_REASON_FAULT && bytes[1] != 0x83)
        abort();
    for (uint8_t i = 0; reason == CUP_REASON_NONE && i < words; i++)
        (void)cup_modbus_register(bytes, i);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    uint8_t request[CUP_MODBUS_REQUEST];
    if (count < 4)
        return 0;
    uint16_t first = (uint16_t)(bytes[2] << 8 | bytes[3]);
    if (cup_modbus_request(request, bytes[0], CUP_MODBUS_INPUT, first,
                           bytes[1]) == CUP_OK &&
        cup_crc16(request, sizeof(request)) != 0)
        abort();
    check_answer(bytes + 2, count - 2, bytes[0], bytes[1]);
    return 0;
}
