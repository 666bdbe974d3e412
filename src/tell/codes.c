/* The lists of reason.h and its friends as words. */
#include "cuplatch/say.h"
#include "texts.h"

CUP_TEXTS(cup_reason_code, CUP_REASONS)
CUP_TEXTS(cup_kind_code, CUP_KINDS)
CUP_TEXTS(cup_quality_code, CUP_QUALITIES)
CUP_TEXTS(cup_pump_code, CUP_PUMP_SHOWS)
CUP_TEXTS(cup_mode_code, CUP_MODES)
CUP_TEXTS(cup_verb_code, CUP_VERBS)
CUP_TEXTS(cup_field_code, CUP_FIELDS)
CUP_TEXTS(cup_unit_symbol, CUP_UNITS)
CUP_TEXTS(cup_pattern_code, CUP_PATTERNS)
CUP_OWN_TEXTS(text_of_error, CUP_ERRORS)

CUP_FLASH char *cup_span_words(uint8_t reason)
{
    switch (reason) {
    case CUP_REASON_LEAPT:
        return CUP_TEXT("leapt, not believed yet");
    case CUP_REASON_NO_READING:
        return CUP_TEXT("not read for long enough yet");
    case CUP_REASON_READING_LOST:
        return CUP_TEXT("how warm its air is, is not known");
    case CUP_REASON_NEAR:
        return CUP_TEXT("nearer than it can measure");
    default:
        return CUP_TEXT("held");
    }
}

CUP_FLASH char *cup_error_text(enum cup_error error)
{
    return text_of_error((uint8_t)error);
}

CUP_FLASH char *cup_setting_code(CUP_FLASH struct cup_plan *plan,
                                 cup_index setting)
{
    CUP_FLASH struct cup_setting *one = &plan->settings[setting];
    if (CUP_IF(TURNS, one->field == CUP_FIELD_RUN &&
                          plan->duties[one->duty].turn->dawn))
        return CUP_TEXT("flood");
    return cup_field_code(one->field);
}

uint8_t cup_unit_decimals(uint8_t unit)
{
    static CUP_FLASH uint8_t decimals[] = {
#define X(name, symbol, decimals) decimals,
        CUP_UNITS(X)
#undef X
    };
    return unit < CUP_UNIT_COUNT ? decimals[unit] : 0;
}
