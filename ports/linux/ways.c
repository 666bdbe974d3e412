/* The ways, and what is done by any of them. */
#include "ways.h"

static const struct way *const ways[PIN_WAY_COUNT] = {
    [PIN_TRIGGER_ECHO] = &way_trigger_echo,
    [PIN_PULSES] = &way_pulses,
    [PIN_IIO] = &way_iio,
    [PIN_W1] = &way_w1,
    [PIN_I2C] = &way_i2c,
    [PIN_SERIAL] = &way_serial,
    [PIN_MODBUS] = &way_modbus,
    [PIN_BOARD] = &way_board,
    [PIN_PROGRAM] = &way_program,
    [PIN_FILE] = &way_file};

const struct way *way_of(const struct pin *pin)
{
    return pin->off_pulse_ms > 0 ? &way_pulsed : ways[pin->way];
}

int32_t duct_answer_ms(const struct pin *pin)
{
    const struct way *way = way_of(pin);
    if (pin->timeout_ms > 0)
        return pin->timeout_ms;
    int32_t pulse_ms = pin->off_pulse_ms > 0 ? pin->off_pulse_ms : 0;
    return way ? way->answer_ms + pulse_ms : 0;
}

void duct_make(struct duct *duct, const struct pin *pin,
               const struct cup_source *source)
{
    *duct = (struct duct){.pin = pin, .source = source, .fd = -1, .more = -1};
    duct->answer_ms = duct_answer_ms(pin);
    duct->first = duct;
}

void duct_read(struct duct *duct, struct reply *heard)
{
    char wrong[200];
    const struct way *way = way_of(duct->pin);
    *heard = (struct reply){.reject = CUP_REASON_NO_ANSWER};
    if (way->open(duct, wrong, sizeof(wrong)))
        way->read(duct, heard);
}

bool duct_write(struct duct *duct, bool high)
{
    char wrong[200];
    const struct way *way = way_of(duct->pin);
    if (way->open(duct, wrong, sizeof(wrong)) && way->write(duct, high))
        return true;
    way->shut(duct);
    return false;
}

bool duct_off(struct duct *duct)
{
    const struct way *way = way_of(duct->pin);
    return duct_write(duct, duct->off) &&
           (!way->make_safe || way->make_safe(duct));
}

void duct_hear(struct duct *duct)
{
    const struct way *way = way_of(duct->pin);
    if (way->hear)
        way->hear(duct);
    else
        duct_take(duct);
}

void duct_shut(struct duct *duct)
{
    way_of(duct->pin)->shut(duct);
}
