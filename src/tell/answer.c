/* Lines of an answer. */
#include "answer.h"

void cup_answer_add(struct answer *answer, CUP_FLASH char *text)
{
    for (; *text && answer->used + 1 < sizeof(answer->text); text++)
        answer->text[answer->used++] = *text;
    answer->text[answer->used] = '\0';
}

void cup_answer_value(struct answer *answer, int32_t value, uint8_t unit)
{
    answer->used += cup_say_value(answer->text + answer->used,
                                  sizeof(answer->text) - answer->used,
                                  answer->site->plan, value, unit);
}

void cup_answer_send(struct answer *answer)
{
    answer->printer->line(answer->printer->self, answer->text);
    answer->used = 0;
}

void cup_answer_name(struct answer *answer, cup_index thing)
{
    cup_answer_add(answer, cup_thing_name(answer->site->plan, thing));
    cup_answer_add(answer, CUP_TEXT(" "));
}

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
    cup_answer_value(answer, cup_tank_volume_ml(tank, reading.value),
                     CUP_UNIT_LITRE);
    cup_answer_add(answer, CUP_TEXT(" "));
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
    cup_answer_add(answer, CUP_TEXT(", may be "));
    cup_answer_value(answer, low, CUP_UNIT_PERCENT);
    cup_answer_add(answer, CUP_TEXT(" to "));
    cup_answer_value(answer, high, CUP_UNIT_PERCENT);
    cup_answer_add(answer, CUP_TEXT(": "));
    cup_answer_add(answer, cup_span_words(why));
}
#endif

void cup_answer_level(struct answer *answer, cup_index i)
{
    struct cup_reading reading = cup_site_reading(answer->site, i);
    cup_answer_name(answer, i);
    if (cup_usable(reading)) {
        cup_answer_value(answer, cup_site_shown(answer->site, i), reading.unit);
        cup_answer_add(answer, CUP_TEXT(" "));
        CUP_WHERE(VOLUMES, add_litres(answer, i);)
    }
    cup_answer_add(answer, cup_quality_code(reading.quality));
    if (reading.reason != CUP_REASON_NONE) {
        cup_answer_add(answer, CUP_TEXT(": "));
        cup_answer_add(answer, cup_reason_code(reading.reason));
    }
    CUP_WHERE(SPANS, add_span(answer, i);)
}

/* Of a pump or a duty, as a thing, why it is as it is; of any other its level.
 */
void cup_answer_why(struct answer *answer, cup_index thing)
{
    CUP_FLASH struct cup_plan *plan = answer->site->plan;
    cup_index pump = (cup_index)(thing - cup_pump_thing(plan, 0));
    cup_index duty = (cup_index)(pump - plan->pump_count);
    char *text = answer->text + answer->used;
    size_t room = sizeof(answer->text) - answer->used;
    if (thing < cup_pump_thing(plan, 0))
        cup_answer_level(answer, thing);
    else
        answer->used += pump < plan->pump_count
                            ? cup_say_why(text, room, answer->site, pump)
                            : cup_say_why_duty(text, room, answer->site, duty);
}
