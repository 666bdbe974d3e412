/* What each form of raw value gives by itself. */
#include <math.h>

#include "../../grammar/quantity.h"
#include "cuplatch/say.h"
#include "making.h"

#define ZERO 32768

#define X(name, code, arrives, unit, needs, signs, steps, value, decode)       \
    {CUP_UNIT_##unit,                                                          \
     (signs) ? SIGNED : 0,                                                     \
     {{(signs) ? ZERO : 0, 0}, {((signs) ? ZERO : 0) + (steps), value}}},
static const struct nature natures[CUP_FORM_COUNT] = {CUP_FORMS(X)};
#undef X

static const struct nature humidity = {
    CUP_UNIT_PERCENT, 0, {{0, 0}, {1000, 10000}}};
static const struct nature warmth = {
    CUP_UNIT_CELSIUS, SIGNED, {{ZERO, 0}, {ZERO + 1000, 10000}}};

/* Forms that need a word more to have a nature. */

static struct nature nature_of_text(const struct making *making)
{
    static const int32_t mm10[] = {10, 100, 254};
    struct nature nature = natures[CUP_FORM_RANGE_TEXT];
    nature.line[1].y = 1000 * mm10[number_of(making->thing, "unit", 0)];
    return nature;
}

static struct nature nature_of_switch(const struct making *making)
{
    struct nature nature = natures[CUP_FORM_SWITCH];
    if (number_of(making->thing, "active", 0) == 1) {
        nature.line[0].y = 1;
        nature.line[1].y = 0;
    }
    return nature;
}

/* Pulses of one period into ml a minute. */
static struct nature nature_of_pulses(const struct making *making)
{
    struct nature nature = natures[CUP_FORM_PULSES];
    double per_litre = number_of(making->thing, "per_litre", 1000);
    double ml_min = 6e7 / (per_litre * making->sensor->every_ms);
    if (!making_given(making, "per_litre"))
        making_wrong(making, making->thing->place,
                     "form pulses needs per_litre, the pulses of a litre");
    nature.line[1] =
        (struct cup_point){10000, (int32_t)lround(fmin(ml_min, 1e4) * 1e4)};
    return nature;
}

static struct nature nature_of_block(const struct making *making)
{
    const struct value *take = good_value(making->thing, "source");
    struct nature nature = {CUP_UNIT_NONE, 0, {{0, 0}, {10000, 0}}};
    nature.unit = (enum cup_unit)making->sensor->unit;
    if (!take)
        return nature;
    double steps =
        take->third / 1e6 * pow(10, cup_unit_decimals((uint8_t)nature.unit));
    uint16_t zero = take->minus ? ZERO : 0;
    nature.offset = take->minus ? SIGNED : 0;
    nature.line[0] = (struct cup_point){zero, 0};
    nature.line[1] = (struct cup_point){
        (uint16_t)(zero + 10000), (int32_t)lround(fmin(steps, 1e5) * 10000)};
    return nature;
}

/* Converted already: the raw value is the value, step by step. What can be
 * below 0 is stored from there. */
static struct nature nature_of_plain(enum cup_unit unit)
{
    uint16_t zero = unit == CUP_UNIT_CELSIUS ? ZERO : 0;
    return (struct nature){unit,
                           zero ? SIGNED : 0,
                           {{zero, 0}, {(uint16_t)(zero + 10000), 10000}}};
}

static struct nature nature_of_form(const struct making *making)
{
    const struct value *measures = good_value(making->thing, "measures");
    enum cup_unit unit =
        measures ? cup_measured_units[measures->number] : CUP_UNIT_NONE;
    switch (making->form) {
    case CUP_FORM_RANGE_TEXT:
        return nature_of_text(making);
    case CUP_FORM_SWITCH:
        return nature_of_switch(making);
    case CUP_FORM_PULSES:
        return nature_of_pulses(making);
    case CUP_FORM_MODBUS:
        return nature_of_block(making);
    case CUP_FORM_PLAIN:
        return nature_of_plain(unit);
    case CUP_FORM_PULSE40:
        return unit == CUP_UNIT_CELSIUS ? warmth : humidity;
    default:
        return natures[making->form];
    }
}

/* The water is straight below a ranger that leans: nearer than its echo came
 * from, by the cosine. */
static void lean(const struct making *making, struct nature *nature)
{
    const struct value *tilt = good_value(making->thing, "tilt");
    if (!tilt)
        return;
    if (nature->unit != CUP_UNIT_MM || making_given(making, "points")) {
        making_wrong(making, tilt->place,
                     "is for a form that gives a distance by itself: echo, "
                     "range-bytes, range-text, range-word");
        return;
    }
    double part;
    const char *wrong = quantity_read_tilt(tilt->text, &part);
    if (wrong) {
        making_wrong(making, tilt->place, wrong);
        return;
    }
    nature->line[1].y = (int32_t)lround(nature->line[1].y * part);
    making->sensor->lean = (uint16_t)lround((1 - part) * 65536);
}

struct nature making_nature(const struct making *making)
{
    struct nature nature = nature_of_form(making);
    lean(making, &nature);
    return nature;
}
