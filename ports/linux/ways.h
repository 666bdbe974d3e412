/* All ways to a pin, and what is done by whichever a pin has. */
#ifndef CUPLATCH_PORTS_WAYS_H
#define CUPLATCH_PORTS_WAYS_H

#include "duct.h"

extern const struct way way_trigger_echo;
extern const struct way way_pulses;
extern const struct way way_iio;
extern const struct way way_w1;
extern const struct way way_i2c;
extern const struct way way_serial;
extern const struct way way_modbus;
extern const struct way way_board;
extern const struct way way_pulsed;
extern const struct way way_program;
extern const struct way way_file;

/* Of a pin; null for gpio, which is no bus, unless it is shut by a pulse. */
const struct way *way_of(const struct pin *pin);

/* How long it may take to answer. */
int32_t duct_answer_ms(const struct pin *pin);

void duct_make(struct duct *duct, const struct pin *pin,
               const struct cup_source *source);

/* Asks a duct, opening it if need be; what cannot be opened does not answer. */
void duct_read(struct duct *duct, struct reply *heard);
bool duct_write(struct duct *duct, bool high);
/* Puts it off; what needs a pulse for that gets it. */
bool duct_off(struct duct *duct);
/* Takes what came by itself. */
void duct_hear(struct duct *duct);
void duct_shut(struct duct *duct);

#endif
