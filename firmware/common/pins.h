/* How a port samples what is at its pins, by the word of the site file: adc:N,
 * echo:N, pin:N. A port has a function of each. */
#ifndef CUPLATCH_FIRMWARE_PINS_H
#define CUPLATCH_FIRMWARE_PINS_H

#include "board.h"

struct cup_sample sample_adc(uint8_t channel);
struct cup_sample sample_echo(uint8_t number);
struct cup_sample sample_contact(uint8_t number);

/* What is connected elsewhere gives no answer. */
static inline struct cup_sample sample_pin(struct cup_pin pin)
{
    switch (pin.kind) {
    case 'a':
        return sample_adc(pin.number);
    case 'e':
        return sample_echo(pin.number);
    case 'p':
        return sample_contact(pin.number);
    default:
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    }
}

#endif
