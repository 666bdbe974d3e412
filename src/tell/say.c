/* Sentences for people, made of the numbers of a cause. */
#include "cuplatch/say.h"

/* Marks a reason whose numbers are in the unit of the thing it is about. */
#define CUP_UNIT_THING CUP_UNIT_COUNT

static const struct {
    const char *text;
    const char *over;
    uint8_t unit;
} reasons[] = {
#define X(name, code, unit, text, over) {text, over, CUP_UNIT_##unit},
    CUP_REASONS(X)
#undef X
};

/* A text that grows up to its size and is cut there, always ended. */
struct page {
    char *text;
    size_t size;
    size_t used;
};

static void put(struct page *page, char letter)
{
    if (page->used + 1 < page->size)
        page->text[page->used++] = letter;
    if (page->size > 0)
        page->text[page->used] = '\0';
}

static void put_text(struct page *page, const char *text)
{
    while (*text)
        put(page, *text++);
}

/* At least `digits` digits, with a point before the last `decimals`. */
static void put_number(struct page *page, uint32_t number, uint8_t decimals)
{
    char digits[12];
    uint8_t count = 0;
    while (number > 0 || count <= decimals) {
        digits[count++] = (char)('0' + number % 10);
        number /= 10;
    }
    while (count > 0) {
        if (count == decimals)
            put(page, '.');
        put(page, digits[--count]);
    }
}

/* Below a minute: "42 s", "1.5 s", "350 ms". */
static void put_short(struct page *page, uint32_t ms)
{
    if (ms > 0 && ms < 1000) {
        put_number(page, ms, 0);
        put_text(page, " ms");
        return;
    }
    bool whole = ms % 1000 == 0 || ms > 10000;
    put_number(page, whole ? ms / 1000 : ms / 100, whole ? 0 : 1);
    put_text(page, " s");
}

/* "2h 30m", "7m": the two largest parts that matter. */
static void put_duration(struct page *page, uint32_t ms)
{
    static const struct {
        uint32_t ms;
        char letter;
    } parts[] = {{86400000, 'd'}, {3600000, 'h'}, {60000, 'm'}, {1000, 's'}};
    if (ms < 60000) {
        put_short(page, ms);
        return;
    }
    uint8_t first = 0;
    while (ms < parts[first].ms)
        first++;
    put_number(page, ms / parts[first].ms, 0);
    put(page, parts[first].letter);
    uint32_t rest = ms % parts[first].ms / parts[first + 1].ms;
    if (rest == 0)
        return;
    put(page, ' ');
    put_number(page, rest, 0);
    put(page, parts[first + 1].letter);
}

static void put_value(struct page *page, int32_t value, uint8_t unit)
{
    uint32_t size = value < 0 ? 0 - (uint32_t)value : (uint32_t)value;
    if (value < 0)
        put(page, '-');
    if (unit == CUP_UNIT_SECOND) {
        put_duration(page, size);
        return;
    }
    put_number(page, size, cup_unit_decimals(unit));
    if (*cup_unit_symbol(unit))
        put(page, ' ');
    put_text(page, cup_unit_symbol(unit));
}

size_t cup_say_value(char *text, size_t size, int32_t value, uint8_t unit)
{
    struct page page = {text, size, 0};
    put_value(&page, value, unit);
    return page.used;
}

const char *cup_thing_name(CUP_FLASH struct cup_plan *plan, cup_index thing)
{
    if (thing == CUP_NONE)
        return "site";
    if (!plan->names || thing >= cup_things(plan))
        return "?";
    return plan->names[thing];
}

uint8_t cup_cause_unit(CUP_FLASH struct cup_plan *plan,
                       const struct cup_cause *cause)
{
    if (cause->reason >= CUP_REASON_COUNT)
        return CUP_UNIT_NONE;
    uint8_t unit = reasons[cause->reason].unit;
    return unit == CUP_UNIT_THING ? cup_thing_unit(plan, cause->about) : unit;
}

/* The sentence of a reason, or of its end where that has one of its own. */
static const char *form_of(uint8_t reason, bool over)
{
    return over && *reasons[reason].over ? reasons[reason].over
                                         : reasons[reason].text;
}

bool cup_reason_shows(uint8_t reason, bool over, char part)
{
    if (reason >= CUP_REASON_COUNT)
        return false;
    for (const char *at = form_of(reason, over); *at; at++)
        if (at[0] == '%' && at[1] == part)
            return true;
    return false;
}

static void put_cause(struct page *page, CUP_FLASH struct cup_plan *plan,
                      cup_index of, const struct cup_cause *cause, bool over)
{
    uint8_t unit = cup_cause_unit(plan, cause);
    const char *form = form_of(cause->reason, over);
    for (; *form; form++) {
        if (*form != '%') {
            put(page, *form);
            continue;
        }
        form++;
        if (*form == 'a')
            put_text(page, cup_thing_name(plan, cause->about));
        else if (*form == 'o')
            put_text(page, cup_thing_name(plan, of));
        else
            put_value(page, *form == 'v' ? cause->value : cause->limit, unit);
    }
}

size_t cup_say_cause(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     cup_index of, const struct cup_cause *cause, bool over)
{
    struct page page = {text, size, 0};
    put_text(&page, "");
    if (cause->reason >= CUP_REASON_COUNT)
        return 0;
    put_cause(&page, plan, of, cause, over);
    return page.used;
}

/* What would end it, where the sentence does not say so by itself. */
static const char *end_of(uint8_t reason)
{
    static const struct {
        uint8_t reason;
        const char *text;
    } ends[] = {
        {CUP_REASON_READING_LOST, ", until it answers"},
        {CUP_REASON_NO_READING, ", until it answers"},
        {CUP_REASON_SOURCE_LOST, ", until it answers"},
        {CUP_REASON_SOURCE_UNKNOWN, ", until it answers"},
        {CUP_REASON_DESTINATION_LOST, ", until it answers"},
        {CUP_REASON_DESTINATION_UNKNOWN, ", until it answers"},
        {CUP_REASON_SUPPLY_LOST, ", until it answers"},
        {CUP_REASON_SUPPLY_UNKNOWN, ", until it answers"},
        {CUP_REASON_NOT_FRESH, ", until it answers"},
        {CUP_REASON_CANNOT_DRIVE, ", until it obeys"},
        {CUP_REASON_SHARES_FAILED, ", until it obeys"},
        {CUP_REASON_DAY_TIME, ", until the day is over"},
        {CUP_REASON_DAY_VOLUME, ", until the day is over"},
        {CUP_REASON_DAY_STARTS, ", until the day is over"},
        {CUP_REASON_DOSES_OUT, ", until past stop or cleared"},
        {CUP_REASON_AT_ONCE, ", until one stops"},
        {CUP_REASON_GROUP_FULL, ", until one stops"},
        {CUP_REASON_BUSY, ", until that is done"},
        {CUP_REASON_ROUTE_SHUT, ", until it opens"},
        {CUP_REASON_NO_DUTY, ": it runs by hand only"},
        {CUP_REASON_OFF, ", until auto or hand"},
        {CUP_REASON_HOLD, ", until go"},
        {CUP_REASON_ROUTE, ", until that is done"},
        {CUP_REASON_HAND_OVER, ", until auto looks afresh"},
    };
    for (size_t i = 0; i < sizeof(ends) / sizeof(ends[0]); i++)
        if (ends[i].reason == reason)
            return ends[i].text;
    return "";
}

/* The mark at the other end of a guard's band; false when the reason has no
 * such end. */
static bool guard_end(const struct cup_site *site, cup_index pump,
                      uint8_t reason, int32_t *end)
{
    if (pump >= site->plan->pump_count)
        return false;
    CUP_FLASH struct cup_guard *guard =
        cup_guard_of(&site->plan->pumps[pump], reason);
    if (!guard || (reason != CUP_REASON_SOURCE_LOW &&
                   reason != CUP_REASON_DESTINATION_FULL &&
                   reason != CUP_REASON_SUPPLY_LOW))
        return false;
    *end = guard->clear;
    return true;
}

/* The same for the marks of a duty. */
static bool duty_end(const struct cup_site *site, cup_index duty,
                     const struct cup_cause *cause, int32_t *end)
{
    if (duty >= site->plan->duty_count ||
        cause->about != site->plan->duties[duty].keep)
        return false;
    bool started = cause->reason == CUP_REASON_BELOW_START ||
                   cause->reason == CUP_REASON_ABOVE_START;
    bool stopped = cause->reason == CUP_REASON_BELOW_STOP ||
                   cause->reason == CUP_REASON_ABOVE_STOP ||
                   cause->reason == CUP_REASON_FAR_FULL;
    *end = cup_site_mark(site, duty, started);
    return started || stopped;
}

static void put_end(struct page *page, const struct cup_site *site,
                    cup_index pump, cup_index duty,
                    const struct cup_cause *cause)
{
    int32_t end;
    if (!guard_end(site, pump, cause->reason, &end) &&
        !duty_end(site, duty, cause, &end)) {
        put_text(page, end_of(cause->reason));
        return;
    }
    put_text(page, cause->value < end ? ", until above " : ", until below ");
    put_value(page, end, cup_cause_unit(site->plan, cause));
}

static size_t say_why(char *text, size_t size, const struct cup_site *site,
                      cup_index of, cup_index pump, cup_index duty,
                      const struct cup_cause *cause)
{
    struct page page = {text,
                        size < CUP_SENTENCE_SIZE ? size : CUP_SENTENCE_SIZE, 0};
    put_text(&page, "");
    put_cause(&page, site->plan, of, cause, false);
    put_end(&page, site, pump, duty, cause);
    return page.used;
}

size_t cup_say_why(char *text, size_t size, const struct cup_site *site,
                   cup_index pump)
{
    struct cup_cause cause = cup_site_why(site, pump);
    if (pump >= site->plan->pump_count)
        return 0;
    return say_why(text, size, site, cup_pump_thing(site->plan, pump), pump,
                   site->pumps[pump].duty, &cause);
}

size_t cup_say_why_duty(char *text, size_t size, const struct cup_site *site,
                        cup_index duty)
{
    struct cup_cause cause = cup_site_why_duty(site, duty);
    if (duty >= site->plan->duty_count)
        return 0;
    return say_why(text, size, site, cup_duty_thing(site->plan, duty),
                   site->plan->pump_count, duty, &cause);
}
