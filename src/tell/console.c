/* Answers people at a serial line. One file, though a long one: small boards
 * that are not optimized as a whole would pay for every call between two. */
#include "cuplatch/console.h"

#include "texts.h"

/* The longest answer: two names, a word for the state and a sentence. */
#define LINE_SIZE (2 * CUP_NAME_MAX + 32 + CUP_SENTENCE_SIZE)

/* An answer under way. */
struct answer {
    const struct cup_site *site;
    const struct cup_printer *printer;
    char text[LINE_SIZE];
    size_t used;
};

static void add(struct answer *answer, CUP_FLASH char *text)
{
    for (; *text && answer->used + 1 < sizeof(answer->text); text++)
        answer->text[answer->used++] = *text;
    answer->text[answer->used] = '\0';
}

static void add_value(struct answer *answer, int32_t value, uint8_t unit)
{
    answer->used += cup_say_value(answer->text + answer->used,
                                  sizeof(answer->text) - answer->used,
                                  answer->site->plan, value, unit);
}

static void send(struct answer *answer)
{
    answer->printer->line(answer->printer->self, answer->text);
    answer->used = 0;
}

static void add_name(struct answer *answer, cup_index thing)
{
    add(answer, cup_thing_name(answer->site->plan, thing));
    add(answer, CUP_TEXT(" "));
}

/* What may be asked */

#if CUP_USES_VOLUMES
/* What a tank holds. */
static void add_litres(struct answer *answer, cup_index i)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    if (i < plan->sensor_count)
        return;
    CUP_FLASH struct cup_tank *tank = cup_tank_of(plan, i);
    struct cup_reading reading =
        cup_site_reading(answer->site, cup_thing_sensor(plan, i));
    if (tank->form == CUP_TANK_FLOATS || !tank->volume)
        return;
    add_value(answer, cup_tank_volume_ml(tank, reading.value), CUP_UNIT_LITRE);
    add(answer, CUP_TEXT(" "));
}
#endif

#if CUP_USES_SPANS
/* What a level may be, where that is not its number alone. */
static void add_span(struct answer *answer, cup_index i)
{
    cup_value low;
    cup_value high;
    uint8_t why = cup_site_span(answer->site, i, &low, &high);
    if (why == CUP_REASON_NONE)
        return;
    add(answer, CUP_TEXT(", may be "));
    add_value(answer, low, CUP_UNIT_PERCENT);
    add(answer, CUP_TEXT(" to "));
    add_value(answer, high, CUP_UNIT_PERCENT);
    add(answer, CUP_TEXT(": "));
    add(answer, cup_span_words(why));
}
#endif

static void add_level(struct answer *answer, cup_index i)
{
    struct cup_reading reading = cup_site_reading(answer->site, i);
    add_name(answer, i);
    if (cup_usable(reading)) {
        add_value(answer, cup_site_shown(answer->site, i), reading.unit);
        add(answer, CUP_TEXT(" "));
        CUP_WHERE(VOLUMES, add_litres(answer, i);)
    }
    add(answer, cup_quality_code(reading.quality));
    if (reading.reason != CUP_REASON_NONE) {
        add(answer, CUP_TEXT(": "));
        add(answer, cup_reason_code(reading.reason));
    }
    CUP_WHERE(SPANS, add_span(answer, i);)
}

static void ask_levels(struct answer *answer)
{
    for (cup_index i = 0; i < cup_pump_thing(answer->site->plan, 0); i++) {
        add_level(answer, i);
        send(answer);
    }
}

/* Of a pump or a duty, as a thing, why it is as it is; of any other its level.
 */
static void add_why(struct answer *answer, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    cup_index pump = (cup_index)(thing - cup_pump_thing(plan, 0));
    cup_index duty = (cup_index)(pump - plan->pump_count);
    char *text = answer->text + answer->used;
    size_t room = sizeof(answer->text) - answer->used;
    if (thing < cup_pump_thing(plan, 0))
        add_level(answer, thing);
    else
        answer->used += pump < plan->pump_count
                            ? cup_say_why(text, room, answer->site, pump)
                            : cup_say_why_duty(text, room, answer->site, duty);
}

#if CUP_USES_SPEEDS
/* " at 70.00 %" of an output that is driven in part. */
static void add_place(struct answer *answer, cup_index pump)
{
    uint16_t place = cup_site_place(answer->site, pump, NULL);
    if (!cup_site_runs(answer->site, pump) || place == CUP_TRAVEL_OPEN)
        return;
    add(answer, CUP_TEXT(" at "));
    add_value(answer, place, CUP_UNIT_PERCENT);
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
        add_name(answer, cup_pump_thing(plan, i));
        add(answer, cup_pump_code(off ? CUP_PUMP_OFF : (uint8_t)shows));
        if (pump->mode != CUP_MODE_AUTO && !off) {
            add(answer, CUP_TEXT(" ("));
            add(answer, cup_mode_code(pump->mode));
            add(answer, CUP_TEXT(")"));
        }
        CUP_WHERE(SPEEDS, add_place(answer, i);)
        add(answer, CUP_TEXT(": "));
        add_why(answer, cup_pump_thing(plan, i));
        send(answer);
    }
}

static void ask_duties(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        add_name(answer, cup_duty_thing(plan, i));
        add(answer, cup_site_asks(answer->site, i)
                        ? CUP_TEXT("asks: ")
                        : CUP_TEXT("does not ask: "));
        add_why(answer, cup_duty_thing(plan, i));
        send(answer);
    }
}

static void ask_days(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->day_count; i++) {
        add_name(answer, cup_day_thing(plan, i));
        add(answer, cup_site_is_day(answer->site, i) ? CUP_TEXT("day")
                                                     : CUP_TEXT("night"));
        send(answer);
    }
}

static void ask_settings(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    for (cup_index i = 0; i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        int32_t value = cup_site_setting(answer->site, i);
        uint8_t unit = cup_setting_unit(plan, i);
        add(answer, cup_thing_name(plan, cup_duty_thing(plan, one->duty)));
        add(answer, CUP_TEXT("."));
        add(answer, cup_setting_code(plan, i));
        add(answer, CUP_TEXT(" "));
        add_value(answer, value, unit);
        if (value != cup_setting_written(plan, i)) {
            add(answer, CUP_TEXT(", the file says "));
            add_value(answer, cup_setting_written(plan, i), unit);
        }
        send(answer);
    }
    if (plan->setting_count == 0) {
        add(answer, CUP_TEXT("nothing may be changed: no duty has change ="));
        send(answer);
    }
}

/* Whatever stands: alerts of the file, trips, blocks, lost sensors, watches. */
static unsigned tell_alerts(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->alert_count; i++) {
        CUP_FLASH struct cup_alert *alert = &plan->alerts[i];
        if (!answer->site->alerts[i].latch.on)
            continue;
        found++;
        add_name(answer, cup_alert_thing(plan, i));
        add(answer, cup_thing_name(plan, alert->about));
        cup_value mark = CUP_TOLD(&alert->latch, start);
        add(answer, mark < CUP_TOLD(&alert->latch, stop) ? CUP_TEXT(" below ")
                                                         : CUP_TEXT(" above "));
        add_value(answer, mark, cup_thing_unit(plan, alert->about));
        if (alert->say) {
            add(answer, CUP_TEXT(": "));
            add(answer, alert->say);
        }
        send(answer);
    }
    return found;
}

/* Whether a pump is kept off by a fault or a guard, or runs past its stop by
 * hand; then its word is added. */
static bool add_trouble(struct answer *answer, cup_index pump)
{
    const struct cup_pump_state *state = &answer->site->pumps[pump];
    enum cup_pump_show shows = cup_pump_shows(state);
    if (cup_pump_is(state, CUP_PUMP_PAST_STOP)) {
        add_name(answer, cup_pump_thing(answer->site->plan, pump));
        add(answer, CUP_TEXT("is past its stop: "));
        return true;
    }
    if (shows != CUP_PUMP_TRIPPED && shows != CUP_PUMP_BLOCKED)
        return false;
    add_name(answer, cup_pump_thing(answer->site->plan, pump));
    add(answer, cup_pump_code((uint8_t)shows));
    add(answer, CUP_TEXT(": "));
    return true;
}

/* Pumps, and duties that gave up. */
static unsigned tell_pumps(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->pump_count + plan->duty_count; i++) {
        bool stands = i < plan->pump_count
                          ? add_trouble(answer, i)
                          : cup_site_gave_up(answer->site,
                                             (cup_index)(i - plan->pump_count));
        if (!stands)
            continue;
        found++;
        add_why(answer, cup_pump_thing(plan, i));
        send(answer);
    }
    return found;
}

#if CUP_USES_SEVERAL
/* Probes that stray from the others of their place. */
static unsigned tell_strays(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        CUP_FLASH struct cup_several *several = plan->sensors[i].several;
        for (uint8_t p = 0; several && p < several->count; p++) {
            if (!(answer->site->severals[several->own].strays & 1u << p))
                continue;
            found++;
            add_level(answer, several->of[p]);
            add(answer, CUP_TEXT(", strays from the others: "));
            add_level(answer, i);
            send(answer);
        }
    }
    return found;
}
#endif

static unsigned tell_sensors(struct answer *answer)
{
    unsigned found = 0;
    CUP_WHERE(SEVERAL, found = tell_strays(answer);)
    for (cup_index i = 0; i < answer->site->plan->sensor_count; i++) {
        struct cup_reading reading = cup_site_reading(answer->site, i);
        if (reading.quality != CUP_QUALITY_LOST)
            continue;
        found++;
        add_name(answer, i);
        add(answer, CUP_TEXT("lost: nothing good for "));
        add_value(answer, (int32_t)cup_site_age_ms(answer->site, i),
                  CUP_UNIT_SECOND);
        send(answer);
    }
    return found;
}

#define WATCHES(X)                                                             \
    X(LEAK, "leaks")                                                           \
    X(STILL, "moves though its pump is off")                                   \
    X(VOLUME, "gave less than was pumped")
CUP_OWN_TEXTS(text_of_watch, WATCHES)

static unsigned tell_watches(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->watch_count; i++) {
        if (!(answer->site->watches[i].flags & CUP_WATCH_TOLD))
            continue;
        found++;
        add_name(answer, plan->watches[i].about);
        add(answer, text_of_watch(plan->watches[i].kind));
        send(answer);
    }
    return found;
}

#if CUP_USES_SPANS
/* Tanks that somebody has to look into. */
static unsigned tell_blind(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->tank_count; i++) {
        CUP_FLASH struct cup_tank *tank = &plan->tanks[i];
        if (!tank->span ||
            !cup_span_is(&answer->site->spans[tank->span_own], CUP_SPAN_HELP))
            continue;
        found++;
        add_name(answer, cup_tank_thing(plan, i));
        add(answer, CUP_TEXT("nobody can tell what it holds: look in, and say "
                             "how full it is"));
        send(answer);
    }
    return found;
}
#endif

#if CUP_USES_CHOICES
/* To whole minutes, and hours of a long time: else it would be news each
 * second.
 */
static void add_length(struct answer *answer, uint32_t ms, bool up)
{
    const uint32_t minute = UINT32_C(60000);
    const uint32_t step = ms < minute        ? 1
                          : ms < 60 * minute ? minute
                                             : 60 * minute;
    ms = (ms + (up ? step - 1 : 0)) / step * step;
    add_value(answer, (int32_t)ms, CUP_UNIT_SECOND);
}

/* "since 3d" and "for 2h more" of what a person chose. */
static void add_since(struct answer *answer,
                      const struct cup_choice_state *state)
{
    const uint32_t now = answer->site->pass->clock_ms;
    const uint32_t left = cup_choice_left(state, now);
    uint32_t since = cup_elapsed(now, state->since_ms);
    since = cup_least(since, CUP_CHOICE_DAY_MS);
    since += cup_least(state->days, 23) * CUP_CHOICE_DAY_MS;
    add(answer, CUP_TEXT("since "));
    add_length(answer, since, false);
    if (left > 0) {
        add(answer, CUP_TEXT(", for "));
        add_length(answer, left, true);
        add(answer, CUP_TEXT(" more"));
    }
    send(answer);
}

/* What people chose comes first. */
static unsigned tell_choices(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    const cup_index last = (cup_index)(plan->pump_count + plan->duty_count);
    unsigned found = 0;
    for (unsigned n = 0; n <= last; n++) {
        const cup_index row = (cup_index)(n == 0 ? last : n - 1);
        const struct cup_choice_state *state = &answer->site->choices[row];
        if (cup_choice_is(state, CUP_CHOICE_STANDS)) {
            found++;
            if (row == last)
                add(answer, CUP_TEXT("site on hold "));
            else {
                add_name(answer, cup_pump_thing(plan, row));
                add(answer, CUP_TEXT("switched off "));
            }
            add_since(answer, state);
        }
    }
    return found;
}

/* What has asked for long, and what keeps it off. */
static unsigned tell_waits(struct answer *answer)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    unsigned found = 0;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const struct cup_choice_state *state =
            &answer->site->choices[plan->pump_count + i];
        if (!cup_choice_is(state, CUP_CHOICE_KEPT_TOLD))
            continue;
        found++;
        add_name(answer, cup_duty_thing(plan, i));
        add(answer, CUP_TEXT("has asked for "));
        add_length(answer,
                   cup_elapsed(answer->site->pass->clock_ms, state->since_ms),
                   false);
        add(answer, CUP_TEXT(": "));
        add_why(answer, cup_pump_thing(plan, plan->duties[i].pump));
        send(answer);
    }
    return found;
}
#endif

static unsigned tell_standing(struct answer *answer)
{
    return CUP_IF(CHOICES, tell_choices(answer) + tell_waits(answer)) +
           tell_alerts(answer) + tell_pumps(answer) + tell_sensors(answer) +
           tell_watches(answer) + CUP_IF(SPANS, tell_blind(answer));
}

unsigned cup_console_alerts(const struct cup_site *site,
                            const struct cup_printer *printer)
{
    struct answer answer = {.site = site, .printer = printer};
    return tell_standing(&answer);
}

static void ask_alerts(struct answer *answer)
{
    if (tell_standing(answer) > 0)
        return;
    add(answer, CUP_TEXT("all is well"));
    send(answer);
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
            add_why(answer, i);
            send(answer);
            return true;
        }
    add(answer, CUP_TEXT("there is nothing of that name"));
    send(answer);
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
    add(answer, CUP_TEXT("ask levels, pumps, duties, days, alerts, settings or "
                         "why NAME"));
    send(answer);
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
    add(answer, wrong ? wrong : CUP_TEXT("done"));
    send(answer);
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
    add(&answer, CUP_TEXT("that line is too long"));
    send(&answer);
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
