/* A block of registers of a soil probe: the request to send, the answer taken
 * apart, and what an exception looks like. */
#include <stdio.h>

#include "cuplatch/decode.h"

static void take_apart(const uint8_t *answer, size_t length)
{
    uint8_t reason =
        cup_modbus_answer(answer, length, 29, CUP_MODBUS_HOLDING, 2);
    if (reason == CUP_REASON_FAULT) {
        printf("exception %d\n", answer[2]);
    } else if (reason != CUP_REASON_NONE) {
        printf("a damaged frame\n");
    } else {
        int warmth = (int16_t)cup_modbus_register(answer, 1);
        printf("moisture %d, warmth %d (tenths)\n",
               cup_modbus_register(answer, 0), warmth);
    }
}

int main(void)
{
    static const uint8_t answer[] = {0x1D, 0x03, 0x04, 0x01, 0xA1,
                                     0xFF, 0xDA, 0xB7, 0x87};
    static const uint8_t exception[] = {0x1D, 0x83, 0x02, 0x01, 0x37};
    uint8_t request[CUP_MODBUS_REQUEST];
    if (cup_modbus_request(request, 29, CUP_MODBUS_HOLDING, 16, 2))
        return 1;
    printf("request");
    for (size_t i = 0; i < sizeof(request); i++)
        printf(" %02X", request[i]);
    printf("\n");
    take_apart(answer, sizeof(answer));
    take_apart(answer, sizeof(answer) - 1);
    take_apart(exception, sizeof(exception));
    return 0;
}
