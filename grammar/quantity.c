/* Numbers with units, read exactly: decimal digits, no floating point. */
#include "quantity.h"

#include <ctype.h>
#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* A unit's name, its size in steps: times / per; and where its zero is not that
 * of the steps, how many of it that is above. Inch, foot and gallon (of the
 * United States, 231 cubic inches) are exact; a psi is 4.4482216152605 N on
 * 6.4516 cm2, here to a millionth. */
struct measure {
    enum cup_unit unit;
    const char *name;
    int64_t times;
    int64_t per;
    int64_t zero;
};

static const struct measure measures[] = {
    {CUP_UNIT_PERCENT, "%", 100, 1, 0},
    {CUP_UNIT_MM, "mm", 10, 1, 0},
    {CUP_UNIT_MM, "cm", 100, 1, 0},
    {CUP_UNIT_MM, "m", 10000, 1, 0},
    {CUP_UNIT_MM, "in", 254, 1, 0},
    {CUP_UNIT_MM, "ft", 3048, 1, 0},
    {CUP_UNIT_CELSIUS, "C", 100, 1, 0},
    {CUP_UNIT_CELSIUS, "F", 500, 9, 32},
    {CUP_UNIT_PASCAL, "Pa", 1, 1, 0},
    {CUP_UNIT_PASCAL, "kPa", 1000, 1, 0},
    {CUP_UNIT_PASCAL, "mbar", 100, 1, 0},
    {CUP_UNIT_PASCAL, "bar", 100000, 1, 0},
    {CUP_UNIT_PASCAL, "psi", 6894757, 1000, 0},
    {CUP_UNIT_LITRE, "ml", 1, 1, 0},
    {CUP_UNIT_LITRE, "L", 1000, 1, 0},
    {CUP_UNIT_LITRE, "gal", 3785412, 1000, 0},
    {CUP_UNIT_VOLT, "mV", 1, 1, 0},
    {CUP_UNIT_VOLT, "V", 1000, 1, 0},
    {CUP_UNIT_AMPERE, "uA", 1, 1, 0},
    {CUP_UNIT_AMPERE, "mA", 1000, 1, 0},
    {CUP_UNIT_AMPERE, "A", 1000000, 1, 0},
    {CUP_UNIT_FLOW, "L/min", 1000, 1, 0},
    {CUP_UNIT_FLOW, "L/h", 1000, 60, 0},
    {CUP_UNIT_FLOW, "ml/min", 1, 1, 0},
    {CUP_UNIT_FLOW, "gal/min", 3785412, 1000, 0},
    {CUP_UNIT_CONDUCTIVITY, "uS/cm", 1, 1, 0},
    {CUP_UNIT_CONDUCTIVITY, "mS/cm", 1000, 1, 0},
    {CUP_UNIT_NUTRIENT, "mg/kg", 1, 1, 0},
    {CUP_UNIT_SECOND, "ms", 1, 1, 0},
    {CUP_UNIT_SECOND, "s", 1000, 1, 0},
    {CUP_UNIT_SECOND, "m", 60000, 1, 0},
    {CUP_UNIT_SECOND, "h", 3600000, 1, 0},
    {CUP_UNIT_SECOND, "d", 86400000, 1, 0},
};
#define MEASURES (sizeof(measures) / sizeof(measures[0]))

static const struct {
    const char *kind;
    const char *example;
} kinds[CUP_UNIT_COUNT] = {
    [CUP_UNIT_NONE] = {"a plain number", "4"},
    [CUP_UNIT_PERCENT] = {"a level", "%"},
    [CUP_UNIT_MM] = {"a length", "mm"},
    [CUP_UNIT_CELSIUS] = {"a temperature", "C"},
    [CUP_UNIT_PASCAL] = {"a pressure", "bar"},
    [CUP_UNIT_LITRE] = {"a volume", "L"},
    [CUP_UNIT_VOLT] = {"a voltage", "V"},
    [CUP_UNIT_AMPERE] = {"a current", "mA"},
    [CUP_UNIT_FLOW] = {"a flow", "L/min"},
    [CUP_UNIT_CONDUCTIVITY] = {"a conductivity", "uS/cm"},
    [CUP_UNIT_NUTRIENT] = {"a nutrient", "mg/kg"},
    [CUP_UNIT_CONTACT] = {"a contact", ""},
    [CUP_UNIT_SECOND] = {"a time", "s"},
};

/* A decimal number: digits / 10^places. */
struct decimal {
    int64_t digits;
    int64_t scale;
};

const char *quantity_kind(enum cup_unit unit)
{
    return kinds[unit].kind;
}

static const char *say(const char *form, const char *a, const char *b,
                       const char *c)
{
    static char message[240];
    snprintf(message, sizeof(message), form, a, b, c);
    return message;
}

/* Reads digits with at most one point, up to nine of them. */
static bool read_decimal(const char **at, struct decimal *number)
{
    bool point = false;
    int count = 0;
    *number = (struct decimal){0, 1};
    for (; isdigit((unsigned char)**at) || (**at == '.' && !point); ++*at) {
        if (**at == '.') {
            point = true;
            continue;
        }
        if (++count > 9)
            return false;
        number->digits = number->digits * 10 + (**at - '0');
        if (point)
            number->scale *= 10;
    }
    return count > 0;
}

/* The number with its comma as a point: "2,5s" is meant as "2.5s". */
static const char *decimal_comma(const char *text, const char *comma)
{
    static char meant[40];
    snprintf(meant, sizeof(meant), "%.*s.%.20s", (int)(comma - text), text,
             comma + 1);
    return say("a number has a point, not a comma; did you mean %s?%s%s", meant,
               "", "");
}

static bool is_decimal_comma(const char *at)
{
    return *at == ',' && isdigit((unsigned char)at[1]);
}

static const struct measure *read_unit(const char **at, enum cup_unit unit)
{
    size_t length = 0;
    while (isalpha((unsigned char)(*at)[length]) || (*at)[length] == '%' ||
           (*at)[length] == '/')
        length++;
    for (size_t i = 0; i < MEASURES; i++)
        if (measures[i].unit == unit && strlen(measures[i].name) == length &&
            strncmp(measures[i].name, *at, length) == 0) {
            *at += length;
            return &measures[i];
        }
    return NULL;
}

static int64_t steps(struct decimal number, const struct measure *measure)
{
    int64_t over = number.scale * measure->per;
    int64_t twice =
        (number.digits - measure->zero * number.scale) * measure->times * 2;
    return (twice + (twice < 0 ? -over : over)) / (over * 2);
}

static const char *wrong_unit(const char *text, const char *at,
                              enum cup_unit unit)
{
    char names[80] = "";
    size_t used = 0;
    for (size_t i = 0; i < MEASURES && used < sizeof(names); i++)
        if (measures[i].unit == unit)
            used += (size_t)snprintf(names + used, sizeof(names) - used, "%s%s",
                                     used ? ", " : "", measures[i].name);
    if (*at == '\0')
        return say("%s needs a unit; did you mean %s%s?", kinds[unit].kind,
                   text, kinds[unit].example);
    return say("\"%s\" is not a unit of %s; expected %s", at, kinds[unit].kind,
               names);
}

/* A quantity in the reading. */
struct quantity {
    const char *text;
    enum cup_unit unit;
    bool minus;
    bool change; /* a difference: where a zero is does not matter */
    int64_t total;
};

/* Adds the number with its unit that starts here, and goes on behind it. Null,
 * or what is wrong. */
static const char *read_part(struct quantity *quantity, const char **at)
{
    struct decimal number;
    const char *text = quantity->text;
    enum cup_unit unit = quantity->unit;
    if (!read_decimal(at, &number))
        return say("expected %s, such as 5%s, not \"%s\"", kinds[unit].kind,
                   kinds[unit].example, text);
    if (is_decimal_comma(*at) && *at - text < 20)
        return decimal_comma(text, *at);
    *at += strspn(*at, " ");
    const struct measure *measure = read_unit(at, unit);
    if (!measure)
        return wrong_unit(text, *at, unit);
    struct measure size = *measure;
    if (quantity->change)
        size.zero = 0;
    if (quantity->minus)
        number.digits = -number.digits;
    quantity->total += steps(number, &size);
    return NULL;
}

/* Adds all of it up. */
static const char *read_all(struct quantity *quantity)
{
    const char *at = quantity->text;
    quantity->minus = *at == '-';
    at += quantity->minus;
    do {
        const char *wrong = read_part(quantity, &at);
        if (wrong)
            return wrong;
    } while (quantity->unit == CUP_UNIT_SECOND && *at);
    return *at ? say("there is more after %s: \"%s\"%s",
                     kinds[quantity->unit].kind, at, "")
               : NULL;
}

static const char *read(struct quantity *quantity, int32_t *value)
{
    if (quantity->unit == CUP_UNIT_CONTACT)
        return quantity_read_whole(quantity->text, 0, 1, value);
    const char *wrong = read_all(quantity);
    if (wrong)
        return wrong;
    /* what is beyond 32 bits is beyond the bounds of every key */
    if (quantity->total > INT32_MAX)
        quantity->total = INT32_MAX;
    if (quantity->total < -INT32_MAX)
        quantity->total = -INT32_MAX;
    *value = (int32_t)quantity->total;
    return NULL;
}

const char *quantity_read(const char *text, enum cup_unit unit, int32_t *value)
{
    struct quantity quantity = {.text = text, .unit = unit};
    return read(&quantity, value);
}

const char *quantity_read_change(const char *text, enum cup_unit unit,
                                 int32_t *value)
{
    struct quantity quantity = {.text = text, .unit = unit, .change = true};
    return read(&quantity, value);
}

const char *quantity_read_time(const char *text, double *s)
{
    struct quantity quantity = {.text = text, .unit = CUP_UNIT_SECOND};
    const char *wrong = read_all(&quantity);
    *s = (double)quantity.total / 1000;
    return wrong;
}

bool quantity_is_bare(const char *text)
{
    char *end;
    strtod(text, &end);
    return end != text && end[strspn(end, " ")] == '\0';
}

const char *quantity_read_whole(const char *text, int32_t low, int32_t high,
                                int32_t *value)
{
    static char message[160];
    char *end;
    long number = strtol(text, &end, 10);
    if (end == text || *end || number < low || number > high) {
        snprintf(message, sizeof(message),
                 "expected a whole number from %" PRId32 " to %" PRId32
                 " without a unit",
                 low, high);
        return message;
    }
    *value = (int32_t)number;
    return NULL;
}

#define PI 3.14159265358979

const char *quantity_read_tilt(const char *text, double *upright)
{
    char *end;
    double degrees = strtod(text, &end);
    if (end == text || strcmp(end, "deg") != 0 || degrees < 0 ||
        degrees > QUANTITY_TILT_MOST)
        return "expected how far its beam leans from straight down, up to "
               "45deg, such as 8deg";
    *upright = cos(degrees * PI / 180);
    return NULL;
}
