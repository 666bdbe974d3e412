/* The lists of reason.h and its friends as words. */
#include "cuplatch/say.h"

#define COUNT(table) (sizeof(table) / sizeof((table)[0]))

const char *cup_reason_code(uint8_t reason)
{
    static const char *const codes[] = {
#define X(name, code, unit, text, over) code,
        CUP_REASONS(X)
#undef X
    };
    _Static_assert(COUNT(codes) == CUP_REASON_COUNT, "one code a reason");
    return reason < COUNT(codes) ? codes[reason] : "";
}

#define CODES(function, LIST, number)                                          \
    const char *function(uint8_t value)                                        \
    {                                                                          \
        static const char *const codes[] = {LIST(AS_CODE)};                    \
        _Static_assert(COUNT(codes) == (number), "one code each");             \
        return value < COUNT(codes) ? codes[value] : "";                       \
    }
#define AS_CODE(name, code) code,

CODES(cup_kind_code, CUP_KINDS, CUP_KIND_COUNT)
CODES(cup_quality_code, CUP_QUALITIES, CUP_QUALITY_COUNT)
CODES(cup_pump_code, CUP_PUMP_SHOWS, CUP_PUMP_SHOW_COUNT)
CODES(cup_mode_code, CUP_MODES, CUP_MODE_COUNT)

const char *cup_error_text(enum cup_error error)
{
    static const char *const texts[] = {CUP_ERRORS(AS_CODE)};
    return (unsigned)error < COUNT(texts) ? texts[error] : "";
}

const char *cup_field_code(CUP_FLASH struct cup_plan *plan, cup_index setting)
{
    static const char *const codes[] = {CUP_FIELDS(AS_CODE)};
    CUP_FLASH struct cup_setting *one = &plan->settings[setting];
    CUP_FLASH struct cup_turn *turn = plan->duties[one->duty].turn;
    return one->field == CUP_FIELD_RUN && turn->dawn ? "flood"
                                                     : codes[one->field];
}

static const struct {
    const char *symbol;
    uint8_t decimals;
} units[] = {
#define X(name, symbol, decimals) {symbol, decimals},
    CUP_UNITS(X)
#undef X
};
_Static_assert(COUNT(units) == CUP_UNIT_COUNT, "one row a unit");

const char *cup_unit_symbol(uint8_t unit)
{
    return unit < COUNT(units) ? units[unit].symbol : "";
}

uint8_t cup_unit_decimals(uint8_t unit)
{
    return unit < COUNT(units) ? units[unit].decimals : 0;
}
