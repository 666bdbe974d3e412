/* Numbers and sentences of a site, by name. */
#include "view.h"

#include <stdio.h>
#include <string.h>

#include "../ports/common/json.h"
#include "cuplatch/console.h"
#include "cuplatch/say.h"

/* What does not change */

static json_t *thing_of(const struct cup_plan *plan, cup_index i,
                        const char *kind)
{
    return json_pack("{s:s, s:s}", "name", cup_thing_name(plan, i), "kind",
                     kind);
}

static json_t *measured(const struct cup_plan *plan, cup_index i)
{
    bool tank = i >= plan->sensor_count;
    json_t *thing = thing_of(plan, i, tank ? "tank" : "sensor");
    json_object_set_new(thing, "unit",
                        json_string(cup_unit_symbol(cup_thing_unit(plan, i))));
    if (tank && cup_tank_of(plan, i)->sensor != CUP_NONE)
        json_object_set_new(
            thing, "sensor",
            json_string(cup_thing_name(plan, cup_tank_of(plan, i)->sensor)));
    return thing;
}

static json_t *duty_of(const struct cup_site *site, cup_index i)
{
    const struct cup_plan *plan = site->plan;
    const struct cup_duty *duty = &plan->duties[i];
    json_t *thing = thing_of(plan, cup_duty_thing(plan, i), "duty");
    json_object_set_new(
        thing, "pump",
        json_string(cup_thing_name(plan, cup_pump_thing(plan, duty->pump))));
    if (!duty->turn) {
        uint8_t unit = cup_thing_unit(plan, duty->keep);
        json_object_set_new(thing, "keep",
                            json_string(cup_thing_name(plan, duty->keep)));
        json_object_set_new(
            thing, "start",
            cup_json_value(cup_site_mark(site, i, false), unit));
        json_object_set_new(thing, "stop",
                            cup_json_value(cup_site_mark(site, i, true), unit));
    }
    return thing;
}

static void add_named(json_t *things, const struct cup_plan *plan,
                      cup_index first, cup_index count, const char *kind)
{
    for (cup_index i = 0; i < count; i++)
        json_array_append_new(things,
                              thing_of(plan, (cup_index)(first + i), kind));
}

static json_t *pump_thing(const struct cup_plan *plan, cup_index i,
                          const int32_t *flows)
{
    json_t *thing = thing_of(plan, cup_pump_thing(plan, i), "pump");
    if (flows && flows[i] > 0)
        json_object_set_new(thing, "flow",
                            cup_json_value(flows[i], CUP_UNIT_FLOW));
    return thing;
}

/* With what its file wants said. */
static json_t *alert_thing(const struct cup_plan *plan, cup_index i)
{
    json_t *thing = thing_of(plan, cup_alert_thing(plan, i), "alert");
    if (plan->alerts[i].say)
        json_object_set_new(thing, "say", json_string(plan->alerts[i].say));
    return thing;
}

static json_t *things_of(const struct cup_site *site, const int32_t *flows)
{
    const struct cup_plan *plan = site->plan;
    json_t *things = json_array();
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++)
        json_array_append_new(things, measured(plan, i));
    for (cup_index i = 0; i < plan->pump_count; i++)
        json_array_append_new(things, pump_thing(plan, i, flows));
    for (cup_index i = 0; i < plan->duty_count; i++)
        json_array_append_new(things, duty_of(site, i));
    add_named(things, plan, cup_source_thing(plan, 0), plan->source_count,
              "source");
    add_named(things, plan, cup_day_thing(plan, 0), plan->day_count, "day");
    for (cup_index i = 0; i < plan->alert_count; i++)
        json_array_append_new(things, alert_thing(plan, i));
    return things;
}

/* Each with its word, such as kale.start. */
static json_t *settings_of(const struct cup_site *site)
{
    const struct cup_plan *plan = site->plan;
    json_t *settings = json_array();
    for (cup_index i = 0; i < plan->setting_count; i++) {
        const struct cup_setting *one = &plan->settings[i];
        uint8_t unit = cup_setting_unit(plan, i);
        char word[2 * CUP_NAME_MAX];
        snprintf(word, sizeof(word), "%s.%s",
                 cup_thing_name(plan, cup_duty_thing(plan, one->duty)),
                 cup_setting_code(plan, i));
        json_array_append_new(
            settings,
            json_pack("{s:s, s:s, s:o, s:o, s:o, s:o}", "word", word, "unit",
                      cup_unit_symbol(unit), "value",
                      cup_json_value(cup_site_setting(site, i), unit), "least",
                      cup_json_value(one->low, unit), "most",
                      cup_json_value(one->high, unit), "file",
                      cup_json_value(cup_setting_written(plan, i), unit)));
    }
    return settings;
}

json_t *view_site(const struct cup_site *site, const struct view_about *about,
                  const char *run)
{
    char print[9];
    snprintf(print, sizeof(print), "%08lx",
             (unsigned long)site->plan->fingerprint);
    json_t *json = json_pack(
        "{s:s, s:s, s:s, s:i, s:s, s:s, s:o, s:o}", "name", about->name, "id",
        about->id, "units", site->plan->us ? "us" : "metric", "protocol", 1,
        "fingerprint", print, "run", run, "things",
        things_of(site, about->flows), "settings", settings_of(site));
    if (about->zone)
        json_object_set_new(json, "zone", json_string(about->zone));
    return json;
}

const char *view_duty(const struct cup_site *site,
                      const struct cup_event *event)
{
    const struct cup_plan *plan = site->plan;
    cup_index first = cup_pump_thing(plan, 0);
    if (event->kind != CUP_KIND_START || event->of < first ||
        event->of >= first + plan->pump_count)
        return NULL;
    const struct cup_pump_state *pump = &site->pumps[event->of - first];
    if (pump->mode != CUP_MODE_AUTO || pump->duty >= plan->duty_count)
        return NULL;
    return cup_thing_name(plan, cup_duty_thing(plan, pump->duty));
}

/* What does */

/* What a tank holds, in ml; -1 where that is not known. */
static int32_t litres_of(const struct cup_site *site, cup_index thing)
{
    const struct cup_tank *tank = cup_tank_of(site->plan, thing);
    if (tank->form == CUP_TANK_FLOATS || !tank->volume)
        return -1;
    struct cup_reading reading = cup_site_reading(site, tank->sensor);
    return cup_usable(reading) ? cup_tank_volume_ml(tank, reading.value) : -1;
}

/* Levels as everywhere, a tank's litres, and how many samples came of a sensor,
 * and were rejected. */
static json_t *levels_of(const struct cup_site *site, const uint32_t *samples)
{
    const struct cup_plan *plan = site->plan;
    json_t *levels = cup_json_levels(site);
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++) {
        json_t *level = json_object_get(levels, cup_thing_name(plan, i));
        unsigned rejects = 0;
        if (i >= plan->sensor_count) {
            int32_t ml = litres_of(site, i);
            if (ml >= 0)
                json_object_set_new(level, "litres",
                                    cup_json_value(ml, CUP_UNIT_LITRE));
            continue;
        }
        for (int r = 0; r < CUP_REJECTS; r++)
            rejects += site->tallies[i].rejected[r];
        json_object_set_new(level, "samples", json_integer(samples[i]));
        json_object_set_new(level, "rejects", json_integer(rejects));
    }
    return levels;
}

static json_t *pump_of(const struct cup_site *site, cup_index i)
{
    char why[CUP_SENTENCE_SIZE];
    const struct cup_pump_state *pump = &site->pumps[i];
    uint32_t left_ms =
        cup_pump_left(&site->plan->pumps[i], pump, site->pass->clock_ms,
                      site->plan->boot_wait_ms);
    cup_say_why(why, sizeof(why), site, i);
    json_t *json = json_pack("{s:s, s:s, s:s}", "is",
                             cup_pump_code((uint8_t)cup_pump_shows(pump)),
                             "switch", cup_mode_code(pump->mode), "why", why);
    if (left_ms != UINT32_MAX)
        json_object_set_new(json, "left_s", json_integer(left_ms / 1000));
    return json;
}

/* Whether a person's choice of that row stands: pumps, duties, the site. */
static bool is_chosen(const struct cup_site *site, unsigned row)
{
    return cup_choice_is(&site->choices[row], CUP_CHOICE_STANDS);
}

/* The switch of a duty: its own, or its pump's where that is by hand for it. */
static const char *switch_of(const struct cup_site *site, cup_index i)
{
    const struct cup_plan *plan = site->plan;
    const struct cup_pump_state *pump = &site->pumps[plan->duties[i].pump];
    if (is_chosen(site, plan->pump_count + i) || pump->mode == CUP_MODE_OFF)
        return cup_mode_code(CUP_MODE_OFF);
    return cup_mode_code(pump->mode == CUP_MODE_HAND && pump->duty == i
                             ? CUP_MODE_HAND
                             : CUP_MODE_AUTO);
}

static json_t *asking(const struct cup_site *site, cup_index i)
{
    char why[CUP_SENTENCE_SIZE];
    const struct cup_plan *plan = site->plan;
    cup_say_why_duty(why, sizeof(why), site, i);
    return json_pack("{s:b, s:s, s:s, s:b}", "asks", cup_site_asks(site, i),
                     "why", why, "switch", switch_of(site, i), "held",
                     is_chosen(site, plan->pump_count + plan->duty_count));
}

static void add_line(void *self, const char *text)
{
    json_array_append_new(self, json_string(text));
}

json_t *view_now(const struct cup_site *site, const uint32_t *samples)
{
    const struct cup_plan *plan = site->plan;
    json_t *pumps = json_object();
    json_t *duties = json_object();
    json_t *days = json_object();
    json_t *standing = json_array();
    struct cup_printer printer = {add_line, standing};
    for (cup_index i = 0; i < plan->pump_count; i++)
        json_object_set_new(pumps,
                            cup_thing_name(plan, cup_pump_thing(plan, i)),
                            pump_of(site, i));
    for (cup_index i = 0; i < plan->duty_count; i++)
        json_object_set_new(duties,
                            cup_thing_name(plan, cup_duty_thing(plan, i)),
                            asking(site, i));
    for (cup_index i = 0; i < plan->day_count; i++)
        json_object_set_new(days, cup_thing_name(plan, cup_day_thing(plan, i)),
                            json_boolean(cup_site_is_day(site, i)));
    cup_console_alerts(site, &printer);
    return json_pack("{s:I, s:o, s:o, s:o, s:o, s:o, s:o}", "t",
                     (json_int_t)cup_site_clock_s(site), "levels",
                     levels_of(site, samples), "out", cup_json_outputs(site),
                     "pumps", pumps, "duties", duties, "days", days, "standing",
                     standing);
}

/* The members of an object that are other than before; null when none is. */
static json_t *changed_members(const json_t *before, json_t *now)
{
    const char *name;
    json_t *value;
    json_t *changed = json_object();
    json_object_foreach(now, name, value)
    {
        if (!json_equal(value, json_object_get(before, name)))
            json_object_set(changed, name, value);
    }
    if (json_object_size(changed) > 0)
        return changed;
    json_decref(changed);
    return NULL;
}

json_t *view_changes(const json_t *before, const json_t *now)
{
    const char *name;
    json_t *value;
    json_t *changes = json_object();
    json_object_foreach((json_t *)now, name, value)
    {
        const json_t *old = json_object_get(before, name);
        json_t *members;
        if (json_is_object(value) && old) {
            members = changed_members(old, value);
            if (members)
                json_object_set_new(changes, name, members);
        } else if (strcmp(name, "t") == 0 || !old || !json_equal(value, old))
            json_object_set(changes, name, value);
    }
    return changes;
}
