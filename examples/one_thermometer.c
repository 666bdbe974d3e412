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
    static const uint8_t record[] = {0xC6, 0xFF, 0xC3, 0x5A, 0x11,
                                     0xE7, 0x2D, 0x94, 0x92};
    static const uint8_t woken[] = {0x50, 0x05, 0xC3, 0x5A, 0x11,
                                    0xE7, 0x2D, 0x94, 0x08};
    static const uint8_t frame[] = {0x02, 0xCC, 0x80, 0x31, 0x7F};
    static const uint8_t damaged[] = {0x02, 0xCC, 0x80, 0x31, 0x80};
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
