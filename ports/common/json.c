/* Events and levels as JSON. */
#include "json.h"

#include "cuplatch/say.h"

json_t *cup_json_value(int32_t value, uint8_t unit)
{
    double scale = 1;
    for (uint8_t i = 0; i < cup_unit_decimals(unit); i++)
        scale *= 10;
    return scale > 1 ? json_real(value / scale) : json_integer(value);
}

json_t *cup_json_event(CUP_FLASH struct cup_plan *plan,
                       const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    const struct cup_cause *cause = &event->cause;
    uint8_t unit = cup_cause_unit(plan, cause);
    json_t *json = json_pack(
        "{s:I, s:s, s:s, s:s}", "t_ms", (json_int_t)event->t_ms, "kind",
        cup_kind_code(event->kind), "of", cup_thing_name(plan, event->of),
        "reason", cup_reason_code(cause->reason));
    bool value = cup_event_shows(event, 'v');
    bool limit = cup_event_shows(event, 'l');
    if (value)
        json_object_set_new(json, "value", cup_json_value(cause->value, unit));
    if (limit)
        json_object_set_new(json, "limit", cup_json_value(cause->limit, unit));
    if ((value || limit) && *cup_unit_symbol(unit))
        json_object_set_new(json, "unit", json_string(cup_unit_symbol(unit)));
    cup_say_event(why, sizeof(why), plan, event);
    json_object_set_new(json, "why", json_string(why));
    return json;
}

void cup_json_span(const struct cup_site *site, cup_index thing, json_t *level)
{
    cup_value low;
    cup_value high;
    uint8_t unit = cup_site_reading(site, thing).unit;
    uint8_t unsure = cup_site_span(site, thing, &low, &high);
    if (unsure == CUP_REASON_NONE)
        return;
    json_object_set_new(level, "low", cup_json_value(low, unit));
    json_object_set_new(level, "high", cup_json_value(high, unit));
    json_object_set_new(level, "unsure", json_string(cup_reason_code(unsure)));
}

static json_t *level(const struct cup_site *site, cup_index thing)
{
    struct cup_reading reading = cup_site_reading(site, thing);
    json_t *value =
        cup_usable(reading)
            ? cup_json_value(cup_site_shown(site, thing), reading.unit)
            : json_null();
    json_t *json = json_pack("{s:o, s:s, s:s}", "value", value, "unit",
                             cup_unit_symbol(reading.unit), "quality",
                             cup_quality_code(reading.quality));
    if (reading.reason != CUP_REASON_NONE)
        json_object_set_new(json, "reason",
                            json_string(cup_reason_code(reading.reason)));
    cup_json_span(site, thing, json);
    return json;
}

json_t *cup_json_levels(const struct cup_site *site)
{
    json_t *levels = json_object();
    cup_index count = cup_pump_thing(site->plan, 0);
    for (cup_index i = 0; i < count; i++)
        json_object_set_new(levels, cup_thing_name(site->plan, i),
                            level(site, i));
    return levels;
}

/* 1 or 0; a positional one in per cent. */
static json_t *output(const struct cup_site *site, cup_index i)
{
    if (site->plan->pumps[i].positional)
        return cup_json_value(cup_site_place(site, i, NULL), CUP_UNIT_PERCENT);
    return json_integer(cup_site_runs(site, i));
}

json_t *cup_json_outputs(const struct cup_site *site)
{
    json_t *outputs = json_object();
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        json_object_set_new(
            outputs, cup_thing_name(site->plan, cup_pump_thing(site->plan, i)),
            output(site, i));
    return outputs;
}

void cup_json_line(FILE *out, json_t *value)
{
    json_dumpf(value, out, CUP_JSON_FORMAT);
    fputc('\n', out);
    json_decref(value);
}
