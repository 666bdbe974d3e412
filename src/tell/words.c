/* Steering words as a person types them: `lift hand 5m`, `site hold`,
 * `kale.start 30%`, `site clock 2031-04-02T06:00:00`. One file, though a long
 * one: boards that are not optimized as a whole pay for calls between two. */
#include <string.h>

#include "cuplatch/say.h"
#include "texts.h"

/* One word of a line, as a part of it. */
struct token {
    const char *start;
    size_t length;
};

static bool next_token(const char **text, struct token *token)
{
    const char *at = cup_skip_blanks(*text);
    token->start = at;
    while (*at && !cup_is_blank(*at))
        at++;
    token->length = (size_t)(at - token->start);
    *text = at;
    return token->length > 0;
}

static bool is_word(const struct token *token, CUP_FLASH char *word)
{
    const char *at = token->start;
    return cup_take_word(&at, word) && at == token->start + token->length;
}

/* The number of the code that a word is, of a list of so many; `count` when it
 * is none of them. */
static uint8_t find_code(const struct token *token,
                         CUP_FLASH char *(*code)(uint8_t), uint8_t count)
{
    uint8_t i = 0;
    while (i < count && !is_word(token, code(i)))
        i++;
    return i;
}

static uint32_t unit_ms(const char **at)
{
    static CUP_FLASH struct {
        char name[3];
        uint32_t ms;
    } lengths[] = {
        {"ms", 1}, {"s", 1000}, {"m", 60000}, {"h", 3600000}, {"d", 86400000}};
    for (size_t i = 0; i < sizeof(lengths) / sizeof(lengths[0]); i++)
        if (cup_take_word(at, lengths[i].name))
            return lengths[i].ms;
    return 0;
}

/* "90s", "1h30m": whole numbers with units, up to CUP_TIME_MAX_MS; else 0. */
static uint32_t read_duration(const struct token *token)
{
    const char *at = token->start;
    uint64_t total = 0;
    while (at < token->start + token->length) {
        uint64_t number = 0;
        const char *digits = at;
        while (*at >= '0' && *at <= '9' && number <= CUP_TIME_MAX_MS)
            number = number * 10 + (uint64_t)(*at++ - '0');
        uint32_t ms = at == digits ? 0 : unit_ms(&at);
        total += number * ms;
        if (ms == 0 || total > CUP_TIME_MAX_MS)
            return 0;
    }
    return (uint32_t)total;
}

/* Numbers with a unit */

/* How a unit may be written, and how many of the library's steps it is: a
 * power of ten times `steps`. */
static CUP_FLASH struct {
    char text[6];
    uint8_t unit;
    uint32_t steps;
} written[] = {
    {"%", CUP_UNIT_PERCENT, 100},
    {"mm", CUP_UNIT_MM, 10},
    {"cm", CUP_UNIT_MM, 100},
    {"m", CUP_UNIT_MM, 10000},
    {"C", CUP_UNIT_CELSIUS, 100},
    {"Pa", CUP_UNIT_PASCAL, 1},
    {"kPa", CUP_UNIT_PASCAL, 1000},
    {"mbar", CUP_UNIT_PASCAL, 100},
    {"bar", CUP_UNIT_PASCAL, 100000},
    {"V", CUP_UNIT_VOLT, 1000},
    {"mV", CUP_UNIT_VOLT, 1},
    {"A", CUP_UNIT_AMPERE, 1000000},
    {"mA", CUP_UNIT_AMPERE, 1000},
    {"L/min", CUP_UNIT_FLOW, 1000},
    {"uS/cm", CUP_UNIT_CONDUCTIVITY, 1},
    {"mg/kg", CUP_UNIT_NUTRIENT, 1},
};

#if CUP_USES_US
/* US units: so many steps are `steps` / `by`, counted from `zero`. */
static CUP_FLASH struct {
    char text[8];
    uint8_t unit;
    uint8_t zero;
    uint16_t by;
    int32_t steps;
} abroad[] = {
    {"in", CUP_UNIT_MM, 0, 1, 254},
    {"ft", CUP_UNIT_MM, 0, 1, 3048},
    {"F", CUP_UNIT_CELSIUS, 32, 9, 500},
    {"psi", CUP_UNIT_PASCAL, 0, 1000, 6894757},
    {"gal/min", CUP_UNIT_FLOW, 0, 1000, 3785412},
};

/* A number of such a unit, so many `parts`, to the nearest step; false when it
 * is none of that unit. */
static bool read_abroad(const struct token *end, uint8_t unit, int64_t number,
                        int32_t parts, int32_t *value)
{
    for (size_t i = 0; i < sizeof(abroad) / sizeof(abroad[0]); i++) {
        if (abroad[i].unit != unit || !is_word(end, abroad[i].text))
            continue;
        int64_t all = number - abroad[i].zero * (int64_t)parts;
        int64_t by = (int64_t)parts * abroad[i].by;
        all *= abroad[i].steps;
        all = (all + (all < 0 ? -by : by) / 2) / by;
        *value = (int32_t)all;
        return all >= -INT32_MAX && all <= INT32_MAX;
    }
    return false;
}
#endif

/* Steps of the unit that a token ends in; 0 when it is none of that unit. */
static uint32_t steps_of(const struct token *end, uint8_t unit)
{
    for (size_t i = 0; i < sizeof(written) / sizeof(written[0]); i++)
        if (written[i].unit == unit && is_word(end, written[i].text))
            return written[i].steps;
    return 0;
}

/* Digits, a point and digits: their number, and how many came after the
 * point. */
static const char *take_digits(const char *at, uint64_t *number,
                               uint32_t *parts)
{
    bool point = false;
    *number = 0;
    *parts = 1;
    for (; (*at >= '0' && *at <= '9') || (*at == '.' && !point); at++) {
        if (*at == '.') {
            point = true;
            continue;
        }
        if (*number > INT32_MAX || *parts > 100000)
            return NULL;
        *number = *number * 10 + (uint64_t)(*at - '0');
        if (point)
            *parts *= 10;
    }
    return at;
}

/* "-3.5C", "30%": a quantity of that unit, to its steps exactly. */
static bool read_quantity(const struct token *token, uint8_t unit,
                          int32_t *value)
{
    bool minus = *token->start == '-';
    uint64_t number;
    uint32_t parts;
    const char *first = token->start + minus;
    const char *at = take_digits(first, &number, &parts);
    if (!at || at == first)
        return false;
    struct token end = {at, (size_t)(token->start + token->length - at)};
    CUP_WHERE(US, {
        int64_t signed_number = minus ? -(int64_t)number : (int64_t)number;
        if (number <= INT32_MAX &&
            read_abroad(&end, unit, signed_number, (int32_t)parts, value))
            return true;
    })
    uint32_t steps = steps_of(&end, unit);
    if (steps == 0 || number * steps % parts != 0 ||
        number * steps / parts > INT32_MAX)
        return false;
    *value = (int32_t)(number * steps / parts);
    if (minus)
        *value = -*value;
    return true;
}

/* Settings */

static uint8_t find_field(const struct token *token)
{
    return is_word(token, CUP_TEXT("flood"))
               ? CUP_FIELD_RUN
               : find_code(token, cup_field_code, CUP_FIELD_COUNT);
}

/* "kale.start" into the number of that setting. */
static CUP_FLASH char *find_setting(CUP_FLASH struct cup_plan *plan,
                                    const struct token *token, const char *dot,
                                    cup_index *setting)
{
    struct token who = {token->start, (size_t)(dot - token->start)};
    struct token what = {dot + 1, token->length - who.length - 1};
    uint8_t field = find_field(&what);
    if (field == CUP_FIELD_COUNT)
        return CUP_TEXT(
            "expected start, stop, dose, soak, for or every after the dot");
    for (cup_index i = 0; i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        cup_index thing = cup_duty_thing(plan, one->duty);
        if (one->field == field && is_word(&who, cup_thing_name(plan, thing))) {
            *setting = i;
            return NULL;
        }
    }
    return CUP_TEXT(
        "no duty may change that: see its change = in the site file");
}

static CUP_FLASH char *read_change(CUP_FLASH struct cup_plan *plan,
                                   const struct token *name,
                                   const struct token *token,
                                   struct cup_change *change)
{
    const char *dot = memchr(name->start, '.', name->length);
    CUP_FLASH char *wrong =
        dot ? find_setting(plan, name, dot, &change->setting)
            : CUP_TEXT("expected NAME.KEY and a value");
    if (wrong)
        return wrong;
    uint8_t unit = cup_setting_unit(plan, change->setting);
    if (unit == CUP_UNIT_SECOND) {
        change->value = (int32_t)read_duration(token);
        return change->value > 0 ? NULL
                                 : CUP_TEXT("expected a time, such as 45s");
    }
    return read_quantity(token, unit, &change->value)
               ? NULL
               : CUP_TEXT("expected a number with its unit, such as 30%");
}

static CUP_FLASH char *read_changes(CUP_FLASH struct cup_plan *plan,
                                    const char *text, struct cup_word *word)
{
    struct token name;
    struct token value;
    word->verb = CUP_VERB_SET;
    while (next_token(&text, &name)) {
        if (!next_token(&text, &value))
            return CUP_TEXT("a setting needs a value, such as: kale.start 30%");
        if (word->change_count == CUP_CHANGES_MOST)
            return CUP_TEXT("at most two settings at a time");
        CUP_FLASH char *wrong = read_change(plan, &name, &value,
                                            &word->changes[word->change_count]);
        if (wrong)
            return wrong;
        word->change_count++;
    }
    return NULL;
}

/* The clock */

/* A number of so many digits, and what must follow it; -1 when it is not so. */
static int clock_part(const char **at, int digits, char then)
{
    int number = 0;
    for (; digits > 0; digits--, ++*at) {
        if (**at < '0' || **at > '9')
            return -1;
        number = number * 10 + (**at - '0');
    }
    if (then && *(*at)++ != then)
        return -1;
    return number;
}

/* Days from 1 March 0000 by the Gregorian rule: a year that begins in March
 * has its leap day last, and its months 31 30 31 30 31 in turn. */
static uint32_t days_since_1970(int year, int month, int day)
{
    int y = month > 2 ? year : year - 1;
    int m = (month + 9) % 12;
    int days = 365 * y + y / 4 - y / 100 + y / 400 + (153 * m + 2) / 5 + day;
    return (uint32_t)(days - 719469);
}

static int days_of(int year, int month)
{
    static CUP_FLASH uint8_t days[] = {31, 28, 31, 30, 31, 30,
                                       31, 31, 30, 31, 30, 31};
    bool leap = year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
    return days[month - 1] + (month == 2 && leap);
}

/* What a clock's numbers may be, and what follows each of them. */
enum { YEAR, MONTH, DAY, HOUR, MINUTE, SECOND, PARTS };
static CUP_FLASH struct {
    int16_t low;
    int16_t high;
    uint8_t digits;
    char then;
} parts[PARTS] = {{2020, 2099, 4, '-'}, {1, 12, 2, '-'}, {1, 31, 2, 'T'},
                  {0, 23, 2, ':'},      {0, 59, 2, ':'}, {0, 59, 2, '\0'}};

/* "2031-04-02T06:00:00" into s since 1970; 0 when it is none. */
static uint32_t read_clock(const struct token *token)
{
    int numbers[PARTS];
    const char *at = token->start;
    for (int i = 0; i < PARTS; i++) {
        numbers[i] = clock_part(&at, parts[i].digits, parts[i].then);
        if (numbers[i] < parts[i].low || numbers[i] > parts[i].high)
            return 0;
    }
    if (at != token->start + token->length ||
        numbers[DAY] > days_of(numbers[YEAR], numbers[MONTH]))
        return 0;
    return days_since_1970(numbers[YEAR], numbers[MONTH], numbers[DAY]) *
               UINT32_C(86400) +
           (uint32_t)(numbers[HOUR] * 3600 + numbers[MINUTE] * 60 +
                      numbers[SECOND]);
}

/* Words */

/* A pump, or a duty. */
static bool find_target(CUP_FLASH struct cup_plan *plan,
                        const struct token *token, struct cup_word *word)
{
    cup_index most = plan->pump_count;
    if (CUP_USES_CHOICES || word->verb == CUP_VERB_CLEAR)
        most = (cup_index)(most + plan->duty_count);
    for (cup_index i = 0; i < most; i++)
        if (is_word(token, cup_thing_name(plan, cup_pump_thing(plan, i)))) {
            word->target = i;
            return true;
        }
    return false;
}

#if CUP_USES_TURNS
static bool is_turn(CUP_FLASH struct cup_plan *plan, cup_index target)
{
    if (target >= plan->pump_count &&
        plan->duties[target - plan->pump_count].turn)
        return true;
    return false;
}
#endif

static CUP_FLASH char *read_target(CUP_FLASH struct cup_plan *plan,
                                   const struct token *who,
                                   struct cup_word *word)
{
    bool for_site = word->verb >= CUP_VERB_HOLD && word->verb != CUP_VERB_SKIP;
    if (is_word(who, CUP_TEXT("site")))
        return for_site ? NULL
                        : CUP_TEXT("the site takes hold, go, quiet or clock");
    if (!find_target(plan, who, word))
        return CUP_IF_ELSE(CHOICES,
                           CUP_TEXT("there is no pump or duty of that name"),
                           CUP_TEXT("there is no pump of that name"));
    if (word->verb == CUP_VERB_SKIP &&
        !CUP_IF(TURNS, is_turn(plan, word->target)))
        return CUP_TEXT("only a flood or a timed duty has a next to skip");
    return for_site ? CUP_IF_ELSE(
                          CHOICES,
                          CUP_TEXT("a pump or a duty takes hand, off, auto or "
                                   "clear, and one that is timed skip"),
                          CUP_TEXT("a pump takes hand, off, auto or clear"))
                    : NULL;
}

static CUP_FLASH char *read_number(const char **text, struct cup_word *word)
{
    struct token number;
    bool more = next_token(text, &number);
    if (word->verb == CUP_VERB_HAND) {
        word->number = more ? read_duration(&number) : 0;
        return word->number > 0 ? NULL
                                : CUP_TEXT("hand needs a time with its unit, "
                                           "such as: lift hand 5m");
    }
    if (word->verb != CUP_VERB_CLOCK) { /* an end of it, or none */
        word->number = more ? read_duration(&number) : 0;
        return !more || word->number > 0
                   ? NULL
                   : CUP_TEXT("expected for how long, 24d at most, such as: "
                              "kale off 2d");
    }
    word->number = more ? read_clock(&number) : 0;
    return word->number > 0 ? NULL
                            : CUP_TEXT("clock needs a time, such as: site "
                                       "clock 2031-04-02T06:00:00");
}

static bool takes_number(uint8_t verb)
{
    return verb == CUP_VERB_HAND || verb == CUP_VERB_CLOCK ||
           (CUP_USES_CHOICES &&
            (verb == CUP_VERB_OFF || verb == CUP_VERB_HOLD));
}

static CUP_FLASH char *read_steering(CUP_FLASH struct cup_plan *plan,
                                     const struct token *who, const char **text,
                                     struct cup_word *word)
{
    CUP_FLASH char *wrong = read_target(plan, who, word);
    if (!wrong && takes_number(word->verb))
        wrong = read_number(text, word);
    return wrong;
}

#if CUP_USES_SPANS
/* "80%", or "80 %" as people write it; from empty to full. */
static bool read_fill(const char **text, int32_t *level)
{
    struct token number;
    struct token sign;
    char joined[12];
    if (!next_token(text, &number) || number.length > sizeof(joined) - 2)
        return false;
    const char *rest = *text;
    memcpy(joined, number.start, number.length);
    joined[number.length] = '\0';
    if (next_token(&rest, &sign) && is_word(&sign, CUP_TEXT("%"))) {
        joined[number.length++] = '%';
        joined[number.length] = '\0';
        *text = rest;
    }
    number.start = joined;
    return read_quantity(&number, CUP_UNIT_PERCENT, level) && *level >= 0 &&
           *level <= CUP_TANK_FULL;
}

/* "header is 80%": what somebody saw who looked in. */
static CUP_FLASH char *read_level(CUP_FLASH struct cup_plan *plan,
                                  const struct token *who, const char **text,
                                  struct cup_word *word)
{
    int32_t level;
    for (cup_index i = 0; i < plan->tank_count; i++) {
        if (!is_word(who, cup_thing_name(plan, cup_tank_thing(plan, i))))
            continue;
        if (!read_fill(text, &level))
            return CUP_TEXT("expected how full it is, 0% to 100%, such as: "
                            "header is 80%");
        word->target = i;
        word->number = (uint32_t)level;
        return NULL;
    }
    return CUP_TEXT("there is no tank of that name");
}
#endif

static CUP_FLASH char *read_verb(CUP_FLASH struct cup_plan *plan,
                                 const char *text, struct cup_word *word)
{
    struct token who;
    struct token verb;
    if (!next_token(&text, &who) || !next_token(&text, &verb))
        return CUP_TEXT("expected a name and a word, such as: lift off");
    word->verb = find_code(&verb, cup_verb_code, CUP_VERB_COUNT);
    bool level = CUP_IF(SPANS, word->verb == CUP_VERB_IS);
    bool skip = CUP_USES_CHOICES && word->verb == CUP_VERB_SKIP;
    if (word->verb >= CUP_VERB_SET && !level && !skip)
        return CUP_TEXT("expected hand, off, auto, clear, skip, hold, go, "
                        "quiet, clock or is");
    CUP_FLASH char *wrong =
        level ? CUP_IF(SPANS, read_level(plan, &who, &text, word))
              : read_steering(plan, &who, &text, word);
    if (wrong)
        return wrong;
    return next_token(&text, &who) ? CUP_TEXT("there are words left over")
                                   : NULL;
}

CUP_FLASH char *cup_read_word(CUP_FLASH struct cup_plan *plan, const char *text,
                              struct cup_word *word)
{
    const char *at = text;
    struct token first;
    *word = (struct cup_word){.number = 0};
    if (next_token(&at, &first) && memchr(first.start, '.', first.length))
        return read_changes(plan, text, word);
    return read_verb(plan, text, word);
}

/* Why a number is out of range. */
static CUP_FLASH char *range_text(uint8_t verb)
{
    switch (verb) {
    case CUP_VERB_HAND:
        return CUP_TEXT("longer than the pump's hand_limit");
    case CUP_VERB_SET:
        return CUP_TEXT("outside what that setting may be");
    case CUP_VERB_OFF:
    case CUP_VERB_HOLD:
        return CUP_TEXT("24 days at the longest, or without an end");
    default:
        return cup_error_text(CUP_ERROR_RANGE);
    }
}

CUP_FLASH char *cup_refusal_text(enum cup_error error,
                                 const struct cup_word *word)
{
    if (error == CUP_ERROR_RANGE)
        return range_text(word->verb);
    if (error == CUP_ERROR_ORDER && word->verb == CUP_VERB_SET)
        return CUP_TEXT("would meet or cross the other number: change both at "
                        "once");
    if (error == CUP_ERROR_REFUSED && word->verb == CUP_VERB_HAND)
        return CUP_TEXT("the site is on hold: nothing runs by hand before go");
    return cup_error_text(error);
}
