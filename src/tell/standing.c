/* What stands: what a person has to know of, each on a line. */
#include "answer.h"

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
        cup_answer_name(answer, cup_alert_thing(plan, i));
        cup_answer_add(answer, cup_thing_name(plan, alert->about));
        cup_value mark = CUP_TOLD(&alert->latch, start);
        cup_answer_add(answer, mark < CUP_TOLD(&alert->latch, stop)
                                   ? CUP_TEXT(" below ")
                                   : CUP_TEXT(" above "));
        cup_answer_value(answer, mark, cup_thing_unit(plan, alert->about));
        if (alert->say) {
            cup_answer_add(answer, CUP_TEXT(": "));
            cup_answer_add(answer, alert->say);
        }
        cup_answer_send(answer);
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
        cup_answer_name(answer, cup_pump_thing(answer->site->plan, pump));
        cup_answer_add(answer, CUP_TEXT("is past its stop: "));
        return true;
    }
    if (shows != CUP_PUMP_TRIPPED && shows != CUP_PUMP_BLOCKED)
        return false;
    cup_answer_name(answer, cup_pump_thing(answer->site->plan, pump));
    cup_answer_add(answer, cup_pump_code((uint8_t)shows));
    cup_answer_add(answer, CUP_TEXT(": "));
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
        cup_answer_why(answer, cup_pump_thing(plan, i));
        cup_answer_send(answer);
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
            cup_answer_level(answer, several->of[p]);
            cup_answer_add(answer, CUP_TEXT(", strays from the others: "));
            cup_answer_level(answer, i);
            cup_answer_send(answer);
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
        cup_answer_name(answer, i);
        cup_answer_add(answer, CUP_TEXT("lost: nothing good for "));
        cup_answer_value(answer, (int32_t)cup_site_age_ms(answer->site, i),
                         CUP_UNIT_SECOND);
        cup_answer_send(answer);
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
        cup_answer_name(answer, plan->watches[i].about);
        cup_answer_add(answer, text_of_watch(plan->watches[i].kind));
        cup_answer_send(answer);
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
        cup_answer_name(answer, cup_tank_thing(plan, i));
        cup_answer_add(
            answer, CUP_TEXT("nobody can tell what it holds: look in, and say "
                             "how full it is"));
        cup_answer_send(answer);
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
    cup_answer_value(answer, (int32_t)ms, CUP_UNIT_SECOND);
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
    cup_answer_add(answer, CUP_TEXT("since "));
    add_length(answer, since, false);
    if (left > 0) {
        cup_answer_add(answer, CUP_TEXT(", for "));
        add_length(answer, left, true);
        cup_answer_add(answer, CUP_TEXT(" more"));
    }
    cup_answer_send(answer);
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
                cup_answer_add(answer, CUP_TEXT("site on hold "));
            else {
                cup_answer_name(answer, cup_pump_thing(plan, row));
                cup_answer_add(answer, CUP_TEXT("switched off "));
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
        cup_answer_name(answer, cup_duty_thing(plan, i));
        cup_answer_add(answer, CUP_TEXT("has asked for "));
        add_length(answer,
                   cup_elapsed(answer->site->pass->clock_ms, state->since_ms),
                   false);
        cup_answer_add(answer, CUP_TEXT(": "));
        cup_answer_why(answer, cup_pump_thing(plan, plan->duties[i].pump));
        cup_answer_send(answer);
    }
    return found;
}
#endif

unsigned cup_answer_standing(struct answer *answer)
{
    return CUP_IF(CHOICES, tell_choices(answer) + tell_waits(answer)) +
           tell_alerts(answer) + tell_pumps(answer) + tell_sensors(answer) +
           tell_watches(answer) + CUP_IF(SPANS, tell_blind(answer));
}

unsigned cup_console_alerts(const struct cup_site *site,
                            const struct cup_printer *printer)
{
    struct answer answer = {.site = site, .printer = printer};
    return cup_answer_standing(&answer);
}
