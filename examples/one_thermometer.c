/* A record of nine bytes and a 40-bit frame: what a thermometer and a humidity
 * sensor say, and what is refused. */
#include <stdio.h>

#include "cuplatch/decode.h"

static void print_tenths(const char *what, struct cup_sample sample)
{
    if (sample.reject)
        printf("%s: refused\n", what);
    else
        printf("%s: %.1f\n", what, sample.raw / 10.0);
}

int main(void)
{
    static const uint8_t record[] = {0x5E, 0xFF, 0x4B, 0x46, 0x7F,
                                     0xFF, 0x0C, 0x10, 0x6A};
    static const uint8_t woken[] = {0x50, 0x05, 0x4B, 0x46, 0x7F,
                                    0xFF, 0x0C, 0x10, 0x1C};
    static const uint8_t frame[] = {0x02, 0x8C, 0x80, 0x65, 0x73};
    static const uint8_t damaged[] = {0x02, 0x8C, 0x80, 0x65, 0x74};
    printf("nine bytes: %.4f C\n", cup_temp9(record, 9, false).raw / 16.0);
    printf("straight after power-up: %s\n",
           cup_temp9(woken, 9, true).reject == CUP_REASON_NOT_READY
               ? "not ready"
               : "ready");
    print_tenths("humidity", cup_pulse40(frame, 5, CUP_PULSE40_HUMIDITY,
                                         CUP_PULSE40_TENTHS));
    print_tenths("temperature", cup_pulse40(frame, 5, CUP_PULSE40_TEMPERATURE,
                                            CUP_PULSE40_TENTHS));
    print_tenths("damaged", cup_pulse40(damaged, 5, CUP_PULSE40_HUMIDITY,
                                        CUP_PULSE40_TENTHS));
    return 0;
}
