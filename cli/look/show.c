/* A row of each, for whoever prints it. */
#include "show.h"

#include <curses.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#include "../../ports/common/json.h"
#include "../common/cli.h"
#include "cuplatch/say.h"

/* What is shown of a sensor or a tank. */
struct row {
    char raw[24];
    char latest[32]; /* of a tank, how much is in it */
    char value[32];
    char moves[32];   /* where the value is while it is not yet steady; or "" */
    char may_be[100]; /* of a tank, where that is not its value; or "" */
    char age[24];
    char rejects[160]; /* of a tank, the room that is left */
    const char *quality;
    const char *reason;
    uint16_t spread;
    uint8_t samples;
};

/* Sensors and tanks: all that can be looked at. */
cup_index look_count(const struct look *look)
{
    return cup_pump_thing(look->site->plan, 0);
}

static bool is_tank(const struct look *look, cup_index i)
{
    return i >= look->site->plan->sensor_count;
}

static uint16_t spread_of(const struct cup_site *site, cup_index i)
{
    const struct cup_sensor *sensor = &site->plan->sensors[i];
    return cup_window_spread(&site->sensors[i].window,
                             site->cells + sensor->cells);
}

static void list_rejects(const struct cup_tally_state *tally, char *text,
                         size_t size)
{
    size_t used = 0;
    *text = '\0';
    for (uint8_t i = 0; i < CUP_REJECTS && used < size; i++)
        if (tally->rejected[i] > 0)
            used += (size_t)snprintf(text + used, size - used, "%s%u %s",
                                     used ? ", " : "", tally->rejected[i],
                                     cup_reason_code((uint8_t)(i + 1)));
}

/* The raw value as the sensor gave it; frames show what they decoded to. */
static bool raw_of(const struct look *look, cup_index i, int32_t *raw)
{
    const struct cup_sensor *sensor = &look->site->plan->sensors[i];
    const struct cup_sensor_state *state = &look->site->sensors[i];
    const struct cup_seen *watched = &look->watch.sensors[i];
    bool decoded =
        cup_form_is_bytes(sensor->form) || sensor->source != CUP_NONE;
    *raw = decoded ? state->latest + sensor->offset : watched->sample.raw;
    if (decoded)
        return cup_usable(state->reading);
    if (sensor->several)
        return false; /* it is not asked itself */
    return watched->sample.reject == CUP_REASON_NONE;
}

/* What a tank holds and what it has room for, in ml; false where that cannot be
 * told. */
static bool volume_of(const struct look *look, cup_index i, int32_t *holds,
                      int32_t *room)
{
    struct cup_reading reading = cup_site_reading(look->site, i);
    *holds = tank_holds(look->site->plan, i, reading.value);
    *room = tank_holds(look->site->plan, i, CUP_TANK_FULL) - *holds;
    return cup_usable(reading) && *holds >= 0;
}

static void fill_tank(const struct look *look, cup_index i, struct row *row)
{
    int32_t holds;
    int32_t room;
    char text[24];
    if (!volume_of(look, i, &holds, &room))
        return;
    const struct cup_plan *plan = look->site->plan;
    cup_say_value(row->latest, sizeof(row->latest), plan, holds,
                  CUP_UNIT_LITRE);
    cup_say_value(text, sizeof(text), plan, room, CUP_UNIT_LITRE);
    snprintf(row->rejects, sizeof(row->rejects), "room for %s", text);
}

/* What the level of a tank may be, and why; "" where it is its number, and
 * while this look is too young to tell. */
static void fill_span(const struct look *look, cup_index i, struct row *row)
{
    char low[16];
    char high[16];
    cup_value least;
    cup_value most;
    uint8_t why = cup_site_span(look->site, i, &least, &most);
    if (why == CUP_REASON_NONE || why == CUP_REASON_NO_READING)
        return;
    const struct cup_plan *plan = look->site->plan;
    cup_say_value(low, sizeof(low), plan, least, CUP_UNIT_PERCENT);
    cup_say_value(high, sizeof(high), plan, most, CUP_UNIT_PERCENT);
    snprintf(row->may_be, sizeof(row->may_be), "between %s and %s: %s", low,
             high, cup_span_words(why));
}

static void fill_sensor(const struct look *look, cup_index i, struct row *row)
{
    struct cup_reading reading = cup_site_reading(look->site, i);
    int32_t raw;
    if (raw_of(look, i, &raw))
        snprintf(row->raw, sizeof(row->raw), "%" PRId32, raw);
    if (cup_usable(reading))
        cup_say_value(row->latest, sizeof(row->latest), look->site->plan,
                      cup_site_latest(look->site, i), reading.unit);
    row->spread = spread_of(look->site, i);
    row->samples = look->site->sensors[i].window.count;
    list_rejects(&look->site->tallies[i], row->rejects, sizeof(row->rejects));
}

static struct row row_of(const struct look *look, cup_index i)
{
    struct row row = {.raw = "-", .latest = "-", .value = "-", .age = "-"};
    struct cup_reading reading = cup_site_reading(look->site, i);
    cup_value shown = cup_site_shown(look->site, i);
    if (cup_usable(reading)) {
        cup_say_value(row.value, sizeof(row.value), look->site->plan, shown,
                      reading.unit);
        cup_say_value(row.age, sizeof(row.age), NULL,
                      (int32_t)cup_site_age_ms(look->site, i), CUP_UNIT_SECOND);
    }
    if (cup_usable(reading) && shown != reading.value)
        cup_say_value(row.moves, sizeof(row.moves), look->site->plan,
                      reading.value, reading.unit);
    row.quality = cup_quality_code(reading.quality);
    row.reason = reading.reason ? cup_reason_code(reading.reason) : "";
    if (is_tank(look, i)) {
        fill_tank(look, i, &row);
        fill_span(look, i, &row);
    } else
        fill_sensor(look, i, &row);
    return row;
}

/* The table, one line a thing, through either printer. */

static const char heading[] = "%-16s %8s %12s %12s %-5s %7s %6s %4s  %s";
#define ROW_MAX 400

static void head_line(char *text)
{
    snprintf(text, ROW_MAX, heading, "sensor", "raw", "latest", "value", "is",
             "age", "spread", "of", "rejected; room of a tank");
}

static void row_line(const struct look *look, cup_index i, char *text)
{
    char spread[12] = "";
    char samples[8] = "";
    struct row row = row_of(look, i);
    if (!is_tank(look, i)) {
        snprintf(spread, sizeof(spread), "%u", row.spread);
        snprintf(samples, sizeof(samples), "%u", row.samples);
    }
    if (*row.moves) {
        size_t used = strlen(row.rejects);
        snprintf(row.rejects + used, sizeof(row.rejects) - used,
                 "%smoves, now %s", used ? "; " : "", row.moves);
    }
    if (*row.may_be) {
        size_t used = strlen(row.rejects);
        snprintf(row.rejects + used, sizeof(row.rejects) - used, "%s%s",
                 used ? "; " : "", row.may_be);
    }
    snprintf(text, ROW_MAX, heading, cup_thing_name(look->site->plan, i),
             row.raw, row.latest, row.value, row.quality, row.age, spread,
             samples, row.rejects);
}

void look_show_screen(const struct look *look)
{
    char text[ROW_MAX];
    int line = 0;
    head_line(text);
    attron(A_BOLD);
    mvaddnstr(line++, 0, text, COLS);
    attroff(A_BOLD);
    for (cup_index i = 0; i < look_count(look); i++) {
        if (!look->chosen[i])
            continue;
        bool bad = cup_site_reading(look->site, i).quality != CUP_QUALITY_GOOD;
        row_line(look, i, text);
        if (bad)
            attron(A_REVERSE);
        move(line, 0);
        clrtoeol();
        mvaddnstr(line++, 0, text, COLS);
        attroff(A_REVERSE);
    }
    mvprintw(line + 1, 0, "pass %" PRIu32 "; end with Ctrl-C", look->passes);
    refresh();
}

void look_show_table(const struct look *look, FILE *out)
{
    char text[ROW_MAX];
    head_line(text);
    fprintf(out, "%s\n", text);
    for (cup_index i = 0; i < look_count(look); i++)
        if (look->chosen[i]) {
            row_line(look, i, text);
            fprintf(out, "%s\n", text);
        }
}

static void show_plain(const struct look *look, cup_index i)
{
    struct row row = row_of(look, i);
    uint64_t s = look->gone_ms / 1000;
    printf("%02" PRIu64 ":%02" PRIu64 ":%02" PRIu64 "  %s", s / 3600,
           s / 60 % 60, s % 60, cup_thing_name(look->site->plan, i));
    if (!is_tank(look, i))
        printf("  raw %s", row.raw);
    printf("  %s", row.quality);
    if (*row.reason)
        printf(" (%s)", row.reason);
    printf("  value %s", row.value);
    if (*row.moves)
        printf(", moves, now %s", row.moves);
    if (*row.may_be)
        printf(", %s", row.may_be);
    if (is_tank(look, i))
        printf("  holds %s  %s", row.latest, row.rejects);
    else
        printf("  latest %s  spread %u of %u", row.latest, row.spread,
               row.samples);
    printf("  age %s\n", row.age);
}

static json_t *rejects_json(const struct cup_tally_state *tally)
{
    json_t *rejects = json_object();
    for (uint8_t i = 0; i < CUP_REJECTS; i++)
        if (tally->rejected[i] > 0)
            json_object_set_new(rejects, cup_reason_code((uint8_t)(i + 1)),
                                json_integer(tally->rejected[i]));
    return rejects;
}

static json_t *value_json(bool known, int32_t value, uint8_t unit)
{
    return known ? cup_json_value(value, unit) : json_null();
}

static void add_sensor(const struct look *look, cup_index i, json_t *json)
{
    struct row row = row_of(look, i);
    struct cup_reading reading = cup_site_reading(look->site, i);
    int32_t raw;
    bool heard = raw_of(look, i, &raw);
    json_object_set_new(json, "raw", heard ? json_integer(raw) : json_null());
    json_object_set_new(json, "latest",
                        value_json(cup_usable(reading),
                                   cup_site_latest(look->site, i),
                                   reading.unit));
    json_object_set_new(json, "spread", json_integer(row.spread));
    json_object_set_new(json, "samples", json_integer(row.samples));
    json_object_set_new(json, "rejected",
                        rejects_json(&look->site->tallies[i]));
}

static void add_tank(const struct look *look, cup_index i, json_t *json)
{
    int32_t holds = 0;
    int32_t room = 0;
    bool known = volume_of(look, i, &holds, &room);
    json_object_set_new(json, "holds_l",
                        value_json(known, holds, CUP_UNIT_LITRE));
    json_object_set_new(json, "room_l",
                        value_json(known, room, CUP_UNIT_LITRE));
    cup_json_span(look->site, i, json);
}

static void show_json(const struct look *look, cup_index i)
{
    struct row row = row_of(look, i);
    struct cup_reading reading = cup_site_reading(look->site, i);
    bool known = cup_usable(reading);
    json_t *json = json_pack(
        "{s:I, s:s, s:o, s:s, s:s, s:o}", "t_ms", (json_int_t)look->t_ms,
        is_tank(look, i) ? "tank" : "sensor",
        cup_thing_name(look->site->plan, i), "value",
        value_json(known, cup_site_shown(look->site, i), reading.unit), "unit",
        cup_unit_symbol(reading.unit), "quality", row.quality, "age_s",
        value_json(known, (int32_t)cup_site_age_ms(look->site, i),
                   CUP_UNIT_SECOND));
    if (*row.reason)
        json_object_set_new(json, "reason", json_string(row.reason));
    if (*row.moves)
        json_object_set_new(json, "moves_at",
                            cup_json_value(reading.value, reading.unit));
    if (is_tank(look, i))
        add_tank(look, i, json);
    else
        add_sensor(look, i, json);
    cup_json_line(stdout, json);
}

/* Whether something was heard of a sensor, or of one that it is made of. */
static bool sensor_is_heard(const struct look *look, cup_index i)
{
    const struct cup_several *several = look->site->plan->sensors[i].several;
    const struct cup_seen *seen = look->watch.sensors;
    for (uint8_t p = 0; several && p < several->count; p++)
        if (seen[several->of[p]].heard)
            return true;
    return seen[i].heard;
}

/* ... or of one that a tank is told by. */
bool look_hears(const struct look *look, cup_index i)
{
    if (!is_tank(look, i))
        return sensor_is_heard(look, i);
    const struct cup_tank *tank = cup_tank_of(look->site->plan, i);
    return sensor_is_heard(look, tank->sensor) ||
           (tank->high != CUP_NONE && sensor_is_heard(look, tank->high));
}

void look_show(const struct look *look, cup_index i)
{
    if (look->how == LOOK_PLAINLY)
        show_plain(look, i);
    else if (look->how == LOOK_JSON)
        show_json(look, i);
}
