/* Answers people at a serial line. */
#include "answer.h"

/* What may be asked */

static void ask_levels(struct answer *answer)
{
    for (cup_index i = 0; i < cup_pump_thing(answer->site->plan, 0); i++) {
        cup_answer_level(answer, i);
        cup_answer_send(answer);
    }
}

#if CUP_USES_SPEEDS
/* " at 70.00 %" of an output that is driven in part. */
static void add_place(struct answer *answer, cup_index pump)
{
    uint16_t place = cup_site_place(answer->site, pump, NULL);
    if (!cup_site_runs(answer->site, pump) || place == CUP_TRAVEL_OPEN)
        return;
    cup_answer_add(answer, CUP_TEXT(" at "));
    cup_answer_value(answer, place, CUP_UNIT_PERCENT);
}
#endif

static void ask_pumps(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->pump_count; i++) {
        const struct cup_pump_state *pump = &answer->site->pumps[i];
        enum cup_pump_show shows = cup_pump_shows(pump);
        bool off = pump->mode == CUP_MODE_OFF &&
                   (shows == CUP_PUMP_OFF || shows == CUP_PUMP_RESTING);
        cup_answer_name(answer, cup_pump_thing(plan, i));
        cup_answer_add(answer,
                       cup_pump_code(off ? CUP_PUMP_OFF : (uint8_t)shows));
        if (pump->mode != CUP_MODE_AUTO && !off) {
            cup_answer_add(answer, CUP_TEXT(" ("));
            cup_answer_add(answer, cup_mode_code(pump->mode));
            cup_answer_add(answer, CUP_TEXT(")"));
        }
        CUP_WHERE(SPEEDS, add_place(answer, i);)
        cup_answer_add(answer, CUP_TEXT(": "));
        cup_answer_why(answer, cup_pump_thing(plan, i));
        cup_answer_send(answer);
    }
}

static void ask_duties(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        cup_answer_name(answer, cup_duty_thing(plan, i));
        cup_answer_add(answer, cup_site_asks(answer->site, i)
                                   ? CUP_TEXT("asks: ")
                                   : CUP_TEXT("does not ask: "));
        cup_answer_why(answer, cup_duty_thing(plan, i));
        cup_answer_send(answer);
    }
}

static void ask_days(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->day_count; i++) {
        cup_answer_name(answer, cup_day_thing(plan, i));
        cup_answer_add(answer, cup_site_is_day(answer->site, i)
                                   ? CUP_TEXT("day")
                                   : CUP_TEXT("night"));
        cup_answer_send(answer);
    }
}

static void ask_settings(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        int32_t value = cup_site_setting(answer->site, i);
        uint8_t unit = cup_setting_unit(plan, i);
        cup_answer_add(answer,
                       cup_thing_name(plan, cup_duty_thing(plan, one->duty)));
        cup_answer_add(answer, CUP_TEXT("."));
        cup_answer_add(answer, cup_setting_code(plan, i));
        cup_answer_add(answer, CUP_TEXT(" "));
        cup_answer_value(answer, value, unit);
        if (value != cup_setting_written(plan, i)) {
            cup_answer_add(answer, CUP_TEXT(", the file says "));
            cup_answer_value(answer, cup_setting_written(plan, i), unit);
        }
        cup_answer_send(answer);
    }
    if (plan->setting_count == 0) {
        cup_answer_add(
            answer, CUP_TEXT("nothing may be changed: no duty has change ="));
        cup_answer_send(answer);
    }
}

static void ask_alerts(struct answer *answer)
{
    if (cup_answer_standing(answer) > 0)
        return;
    cup_answer_add(answer, CUP_TEXT("all is well"));
    cup_answer_send(answer);
}

/* Lines */

/* Whether `text` begins with a word; then it is moved past it. */
static bool eat(const char **text, CUP_FLASH char *word)
{
    const char *at = cup_skip_blanks(*text);
    if (!cup_take_word(&at, word) || (*at && !cup_is_blank(*at)))
        return false;
    *text = cup_skip_blanks(at);
    return true;
}

static bool is_name(const char *text, CUP_FLASH char *name)
{
    return cup_take_word(&text, name) && *cup_skip_blanks(text) == '\0';
}

static bool ask_why(struct answer *answer, const char *text)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < cup_duty_thing(plan, plan->duty_count); i++)
        if (is_name(text, cup_thing_name(plan, i))) {
            cup_answer_why(answer, i);
            cup_answer_send(answer);
            return true;
        }
    cup_answer_add(answer, CUP_TEXT("there is nothing of that name"));
    cup_answer_send(answer);
    return false;
}

#define QUESTIONS(X)                                                           \
    X(LEVELS, "levels", ask_levels)                                            \
    X(PUMPS, "pumps", ask_pumps)                                               \
    X(DUTIES, "duties", ask_duties)                                            \
    X(ALERTS, "alerts", ask_alerts)                                            \
    X(DAYS, "days", ask_days)                                                  \
    X(SETTINGS, "settings", ask_settings)
CUP_OWN_TEXTS(question, QUESTIONS)

static void (*CUP_FLASH asks[])(struct answer *answer) = {
#define X(name, word, asks) asks,
    QUESTIONS(X)
#undef X
};
enum { QUESTION_COUNT = sizeof(asks) / sizeof(asks[0]) };

static bool ask(struct answer *answer, const char *text)
{
    if (eat(&text, CUP_TEXT("why")))
        return ask_why(answer, text);
    for (uint8_t i = 0; i < QUESTION_COUNT; i++)
        if (is_name(text, question(i))) {
            asks[i](answer);
            return true;
        }
    cup_answer_add(
        answer, CUP_TEXT("ask levels, pumps, duties, days, alerts, settings or "
                         "why NAME"));
    cup_answer_send(answer);
    return false;
}

static bool is_question(const char *text)
{
    for (uint8_t i = 0; i < QUESTION_COUNT; i++)
        if (eat(&text, question(i)))
            return true;
    return eat(&text, CUP_TEXT("why"));
}

static bool tell(struct answer *answer, uint32_t now_ms, const char *text)
{
    struct cup_word word;
    CUP_FLASH char *wrong = cup_read_word(answer->site->plan, text, &word);
    if (!wrong) {
        enum cup_error error = cup_site_steer(answer->site, now_ms, &word);
        wrong = error ? cup_refusal_text(error, &word) : NULL;
    }
    cup_answer_add(answer, wrong ? wrong : CUP_TEXT("done"));
    cup_answer_send(answer);
    return !wrong;
}

bool cup_console_line(const struct cup_site *site, uint32_t now_ms,
                      const char *text, const struct cup_printer *printer)
{
    struct answer answer = {.site = site, .printer = printer};
    text = cup_skip_blanks(text);
    if (*text == '\0')
        return true;
    if (eat(&text, CUP_TEXT("ask")))
        return ask(&answer, text);
    if (!eat(&text, CUP_TEXT("tell")) && is_question(text))
        return ask(&answer, text);
    return tell(&answer, now_ms, text);
}

static void too_long(const struct cup_site *site,
                     const struct cup_printer *printer)
{
    struct answer answer = {.site = site, .printer = printer};
    cup_answer_add(&answer, CUP_TEXT("that line is too long"));
    cup_answer_send(&answer);
}

void cup_console_take(struct cup_console *console, const struct cup_site *site,
                      uint32_t now_ms, char byte,
                      const struct cup_printer *printer)
{
    if (byte != '\r' && byte != '\n') {
        if (console->used == CUP_CONSOLE_MOST)
            console->too_long = true;
        else
            console->text[console->used++] = byte;
        return;
    }
    console->text[console->used] = '\0';
    const char *text = console->text;
    if (console->too_long)
        too_long(site, printer);
    else if (eat(&text, CUP_TEXT("look")) && *text == '\0')
        console->looks = true;
    else
        cup_console_line(site, now_ms, console->text, printer);
    console->used = 0;
    console->too_long = false;
}
