/* Sentences for people, made of the numbers of a cause. */
#include "cuplatch/say.h"
#include "show.h"
#include "texts.h"

/* Marks a reason whose numbers are in the unit of the thing it is about. */
#define CUP_UNIT_THING CUP_UNIT_COUNT
/* The same; of a tank it is the unit of its depth. */
#define CUP_UNIT_CHANGE (CUP_UNIT_COUNT + 1)

static CUP_FLASH uint8_t units[] = {
#define X(name, code, unit, text, over) CUP_UNIT_##unit,
    CUP_REASONS(X)
#undef X
};

/* A text that grows up to its size and is cut there, always ended. */
struct page {
    char *text;
    size_t size;
    size_t used;
    bool us; /* in which units */
};

static struct page page_of(char *text, size_t size,
                           CUP_FLASH struct cup_plan *plan)
{
    (void)plan;
    return (struct page){text, size, 0, CUP_IF(US, plan && plan->us)};
}

static void put(struct page *page, char letter)
{
    if (page->used + 1 < page->size)
        page->text[page->used++] = letter;
    if (page->size > 0)
        page->text[page->used] = '\0';
}

static void put_text(struct page *page, CUP_FLASH char *text)
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
        put_text(page, CUP_TEXT(" ms"));
        return;
    }
    bool whole = ms % 1000 == 0 || ms > 10000;
    put_number(page, whole ? ms / 1000 : ms / 100, whole ? 0 : 1);
    put_text(page, CUP_TEXT(" s"));
}

/* "2h 30m", "7m": the two largest parts that matter. */
static void put_duration(struct page *page, uint32_t ms)
{
    static CUP_FLASH struct {
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

static void put_leaning(struct page *page, int32_t value, uint8_t unit,
                        enum cup_lean lean)
{
    struct cup_shown shown = cup_show(value, unit, page->us, lean);
    if (shown.minus)
        put(page, '-');
    if (unit == CUP_UNIT_SECOND) {
        put_duration(page, shown.number);
        return;
    }
    put_number(page, shown.number, shown.decimals);
    if (*shown.symbol)
        put(page, ' ');
    put_text(page, shown.symbol);
}

static void put_value(struct page *page, int32_t value, uint8_t unit)
{
    put_leaning(page, value, unit, CUP_LEAN_NEAREST);
}

size_t cup_say_value(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     int32_t value, uint8_t unit)
{
    struct page page = page_of(text, size, plan);
    put_value(&page, value, unit);
    return page.used;
}

size_t cup_say_number(char *text, size_t size, bool us, int32_t value,
                      uint8_t unit)
{
    struct page page = {text, size, 0, us};
    put_value(&page, value, unit);
    return page.used;
}

CUP_FLASH char *cup_thing_name(CUP_FLASH struct cup_plan *plan, cup_index thing)
{
    if (thing == CUP_NONE)
        return CUP_TEXT("site");
    if (!plan->names || thing >= cup_things(plan))
        return CUP_TEXT("?");
    return plan->names[thing];
}

uint8_t cup_unit_of_change(uint8_t unit)
{
    return unit == CUP_UNIT_CELSIUS ? CUP_UNIT_KELVIN : unit;
}

uint8_t cup_cause_unit(CUP_FLASH struct cup_plan *plan,
                       const struct cup_cause *cause)
{
    if (cause->reason >= CUP_REASON_COUNT)
        return CUP_UNIT_NONE;
    uint8_t unit = units[cause->reason];
    if (unit < CUP_UNIT_COUNT)
        return unit;
    uint8_t of = cup_thing_unit(plan, cause->about);
    if (unit == CUP_UNIT_THING)
        return of;
    if (cause->about >= plan->sensor_count)
        return CUP_UNIT_MM;
    return cup_unit_of_change(of);
}

/* The sentence of a reason; after its end comes the one for when it is over. */
#define AS_FIELD(name, code, unit, text, over)                                 \
    char of_##name[sizeof(text "\0" over)];
#define AS_SENTENCES(name, code, unit, text, over) text "\0" over,
CUP_TEXTS_OF(static, sentence_of, CUP_REASONS(AS_FIELD),
             CUP_REASONS(AS_SENTENCES), CUP_REASONS(CUP_TEXT_START))

/* Whether a reason is one of a guard's. */
static bool is_guards(uint8_t reason)
{
    return cup_guard_kind(reason) < CUP_GUARD_COUNT;
}

/* The sentence of a reason, or of its end where that has one of its own. All
 * guards say the same of a reading that is missing. */
static CUP_FLASH char *form_of(uint8_t reason, bool over)
{
    if (is_guards(reason) && cup_guard_says(reason) == CUP_GUARD_LOST)
        reason = CUP_REASON_READING_LOST;
    if (is_guards(reason) && cup_guard_says(reason) == CUP_GUARD_UNKNOWN)
        reason = CUP_REASON_NO_READING;
    CUP_FLASH char *text = sentence_of(reason);
    CUP_FLASH char *at = text;
    while (over && *at)
        at++;
    return over && at[1] ? at + 1 : text;
}

/* Whether an event tells that its cause has ended. */
static bool has_ended(const struct cup_event *event)
{
    return event->kind == CUP_KIND_CLEAR || event->kind == CUP_KIND_OVER;
}

/* Whether a letter stands for a value with its way: "rose 3.0 mm". */
static bool is_way(char letter)
{
    return letter == 'r' || letter == 'f';
}

bool cup_event_shows(const struct cup_event *event, char part)
{
    uint8_t reason = event->cause.reason;
    if (reason >= CUP_REASON_COUNT)
        return false;
    for (CUP_FLASH char *at = form_of(reason, has_ended(event)); *at; at++)
        if (at[0] == '%' && (at[1] == part || (part == 'v' && is_way(at[1]))))
            return true;
    return false;
}

/* A change, which may be the other way than was hoped for. */
static void put_way(struct page *page, int32_t value, bool up, uint8_t unit)
{
    put_text(page, (value >= 0) == up ? CUP_TEXT("rose ") : CUP_TEXT("fell "));
    put_value(page, value < 0 ? cup_minus(0, value) : value, unit);
}

/* The value of a cause, or its limit. */
static void put_side(struct page *page, const struct cup_cause *cause,
                     bool value, uint8_t unit)
{
    enum cup_lean lean = CUP_LEAN_NEAREST;
    if (cause->value != cause->limit &&
        cup_shown_alike(cause->value, cause->limit, unit, page->us))
        lean = (cause->value > cause->limit) == value ? CUP_LEAN_UP
                                                      : CUP_LEAN_DOWN;
    put_leaning(page, value ? cause->value : cause->limit, unit, lean);
}

static void put_cause(struct page *page, CUP_FLASH struct cup_plan *plan,
                      cup_index of, const struct cup_cause *cause, bool over)
{
    uint8_t unit = cup_cause_unit(plan, cause);
    CUP_FLASH char *form = form_of(cause->reason, over);
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
        else if (is_way(*form))
            put_way(page, cause->value, *form == 'r', unit);
        else
            put_side(page, cause, *form == 'v', unit);
    }
}

size_t cup_say_cause(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     cup_index of, const struct cup_cause *cause, bool over)
{
    struct page page = page_of(text, size, plan);
    put_text(&page, CUP_TEXT(""));
    if (cause->reason >= CUP_REASON_COUNT)
        return 0;
    put_cause(&page, plan, of, cause, over);
    return page.used;
}

size_t cup_say_event(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     const struct cup_event *event)
{
    return cup_say_cause(text, size, plan, event->of, &event->cause,
                         has_ended(event));
}

/* What would end it, where the sentence does not say so by itself. */
#define ENDS(X)                                                                \
    X(ITSELF, "")                                                              \
    X(ANSWERS, ", until it answers steadily")                                  \
    X(OBEYS, ", until it obeys")                                               \
    X(NEXT_DAY, ", until the day is over")                                     \
    X(CLEARED, ", until it is, or cleared")                                    \
    X(ONE_STOPS, ", until one stops")                                          \
    X(DONE, ", until that is done")                                            \
    X(OPENS, ", until it opens")                                               \
    X(BY_HAND, ": it runs by hand only")                                       \
    X(STEERED, ", until auto or hand")                                         \
    X(GO, ", until go")

enum end {
#define X(name, text) END_##name,
    ENDS(X)
#undef X
};
CUP_OWN_TEXTS(text_of_end, ENDS)

static CUP_FLASH char *end_of(uint8_t reason)
{
    static CUP_FLASH struct {
        uint8_t reason;
        uint8_t end;
    } ends[] = {
        {CUP_REASON_READING_LOST, END_ANSWERS},
        {CUP_REASON_NO_READING, END_ANSWERS},
        {CUP_REASON_NOT_FRESH, END_ANSWERS},
        {CUP_REASON_CANNOT_DRIVE, END_OBEYS},
        {CUP_REASON_SHARES_FAILED, END_OBEYS},
        {CUP_REASON_DAY_TIME, END_NEXT_DAY},
        {CUP_REASON_DAY_VOLUME, END_NEXT_DAY},
        {CUP_REASON_DAY_STARTS, END_NEXT_DAY},
        {CUP_REASON_DOSES_OUT, END_CLEARED},
        {CUP_REASON_DOSES_DAY, END_CLEARED},
        {CUP_REASON_AT_ONCE, END_ONE_STOPS},
        {CUP_REASON_GROUP_FULL, END_ONE_STOPS},
        {CUP_REASON_BUSY, END_DONE},
        {CUP_REASON_ROUTE, END_DONE},
        {CUP_REASON_ROUTE_SHUT, END_OPENS},
        {CUP_REASON_NO_DUTY, END_BY_HAND},
        {CUP_REASON_OFF, END_STEERED},
        {CUP_REASON_DUTY_OFF, END_STEERED},
        {CUP_REASON_HOLD, END_GO},
    };
    if (is_guards(reason) && cup_guard_says(reason) >= CUP_GUARD_LOST)
        return text_of_end(END_ANSWERS);
    for (size_t i = 0; i < sizeof(ends) / sizeof(ends[0]); i++)
        if (ends[i].reason == reason)
            return text_of_end(ends[i].end);
    return text_of_end(END_ITSELF);
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
    if (!guard || cup_guard_says(reason) != CUP_GUARD_PAST)
        return false;
    *end = CUP_TOLD(guard, clear);
    return true;
}

/* The mark of a duty that would end what its cause says; false when the cause
 * is not of its marks. */
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
    put_text(page, cause->value < end ? CUP_TEXT(", until above ")
                                      : CUP_TEXT(", until below "));
    put_value(page, end, cup_cause_unit(site->plan, cause));
}

static size_t say_why(char *text, size_t size, const struct cup_site *site,
                      cup_index of, cup_index pump, cup_index duty,
                      const struct cup_cause *cause)
{
    struct page page = page_of(
        text, size < CUP_SENTENCE_SIZE ? size : CUP_SENTENCE_SIZE, site->plan);
    put_text(&page, CUP_TEXT(""));
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
