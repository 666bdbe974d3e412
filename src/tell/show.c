/* Units that people read otherwise than they are kept. */
#include "show.h"

static uint32_t size_without_sign(int32_t value)
{
    return value < 0 ? 0 - (uint32_t)value : (uint32_t)value;
}

static struct cup_shown show_as_kept(int32_t value, uint8_t unit)
{
    return (struct cup_shown){.symbol = cup_unit_symbol(unit),
                              .number = size_without_sign(value),
                              .decimals = cup_unit_decimals(unit),
                              .minus = value < 0};
}

/* A board whose site has none of these units shows all as they are kept. */
#if CUP_USES_US || CUP_USES_PASCALS || CUP_USES_VOLUMES ||                     \
    CUP_USES_PER_DAYS || CUP_USES_FLOWS

/* Wide numbers where US units are worked out. */
#if CUP_USES_US
typedef int64_t shown_number;
#else
typedef int32_t shown_number;
#endif

/* How people read a unit, where that is not how it is kept: from so many steps
 * on, `times` / `by` of them and `plus`. One inch is 25.4 mm, one pound per
 * square inch 6894.757 Pa, one gallon 3.785412 L: all by definition, to seven
 * digits. */
struct showing {
    uint8_t unit;
    uint8_t decimals;
    bool us;
    char symbol[9];
    int32_t from;
    int32_t by;
    int32_t times;
    int32_t plus;
};

#if CUP_USES_US
#define US_SHOWINGS                                                            \
    {CUP_UNIT_MM, 2, true, "in", 0, 127, 50, 0},                               \
        {CUP_UNIT_CELSIUS, 1, true, "F", 0, 50, 9, 320},                       \
        {CUP_UNIT_KELVIN, 1, true, "F", 0, 50, 9, 0},                          \
        {CUP_UNIT_PASCAL, 2, true, "psi", 0, 6894757, 100000, 0},              \
        {CUP_UNIT_LITRE, 0, true, "gal", 378541, 3785412, 1000, 0},            \
        {CUP_UNIT_LITRE, 1, true, "gal", 3785, 3785412, 10000, 0},             \
        {CUP_UNIT_LITRE, 3, true, "gal", 1, 3785412, 1000000, 0},              \
        {CUP_UNIT_LITRE, 0, true, "gal", 0, 3785412, 1000, 0},                 \
        {CUP_UNIT_FLOW, 3, true, "gal/min", 0, 3785412, 1000000, 0},
#else
#define US_SHOWINGS
#endif

static CUP_FLASH struct showing showings[] = {
    US_SHOWINGS /* the first row that fits counts */
    {CUP_UNIT_PASCAL, 3, false, "bar", 0, 100, 1, 0},
    {CUP_UNIT_LITRE, 0, false, "L", 100000, 1000, 1, 0},
    {CUP_UNIT_LITRE, 1, false, "L", 1000, 100, 1, 0},
    {CUP_UNIT_LITRE, 0, false, "ml", 1, 1, 1, 0},
    {CUP_UNIT_LITRE, 0, false, "L", 0, 1000, 1, 0},
    {CUP_UNIT_FLOW, 3, false, "L/min", 1000, 1, 1, 0},
    {CUP_UNIT_FLOW, 0, false, "ml/min", 1, 1, 1, 0},
    {CUP_UNIT_FLOW, 0, false, "L/min", 0, 1000, 1, 0},
};

/* The row for a value in a unit; null where it is read as it is kept. */
static CUP_FLASH struct showing *showing_of(int32_t value, uint8_t unit,
                                            bool us)
{
    uint32_t size = size_without_sign(value);
    for (size_t i = 0; i < sizeof(showings) / sizeof(showings[0]); i++)
        if (showings[i].unit == unit && showings[i].us <= us &&
            size >= (uint32_t)showings[i].from)
            return &showings[i];
    return NULL;
}

static shown_number shown_by(CUP_FLASH struct showing *showing, int32_t value,
                             enum cup_lean lean)
{
    shown_number steps = (shown_number)value * showing->times;
    shown_number whole = steps / showing->by;
    shown_number rest = steps % showing->by;
    if (lean == CUP_LEAN_NEAREST)
        whole += rest / (showing->by - showing->by / 2);
    else if (rest != 0 && (rest > 0) == (lean == CUP_LEAN_UP))
        whole += lean;
    return whole + showing->plus;
}

struct cup_shown cup_show(int32_t value, uint8_t unit, bool us,
                          enum cup_lean lean)
{
    CUP_FLASH struct showing *showing = showing_of(value, unit, us);
    if (!showing)
        return show_as_kept(value, unit);
    shown_number shown = shown_by(showing, value, lean);
    return (struct cup_shown){.symbol = showing->symbol,
                              .number = shown < 0 ? 0 - (uint32_t)shown
                                                  : (uint32_t)shown,
                              .decimals = showing->decimals,
                              .minus = shown < 0};
}

bool cup_shown_alike(int32_t a, int32_t b, uint8_t unit, bool us)
{
    CUP_FLASH struct showing *showing = showing_of(a, unit, us);
    if (!showing || showing != showing_of(b, unit, us))
        return a == b;
    return shown_by(showing, a, CUP_LEAN_NEAREST) ==
           shown_by(showing, b, CUP_LEAN_NEAREST);
}

#else
struct cup_shown cup_show(int32_t value, uint8_t unit, bool us,
                          enum cup_lean lean)
{
    (void)us, (void)lean;
    return show_as_kept(value, unit);
}

bool cup_shown_alike(int32_t a, int32_t b, uint8_t unit, bool us)
{
    (void)unit, (void)us;
    return a == b;
}
#endif
