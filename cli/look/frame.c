/* Levels, scales and sentences as lines. */
#include "frame.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../common/json_in.h"
#include "cuplatch/say.h"

#define SCALE 25

/* What was heard */

/* Members of members are taken over one by one: what comes is what changed. */
static void merge(json_t *into, const json_t *changes)
{
    const char *name;
    json_t *value;
    json_object_foreach((json_t *)changes, name, value)
    {
        json_t *old = json_object_get(into, name);
        if (json_is_object(old) && json_is_object(value))
            json_object_update(old, value);
        else
            json_object_set(into, name, value);
    }
}

static void clock_text(double t, char *text, size_t size, const char *form)
{
    time_t clock = (time_t)t;
    struct tm tm;
    *text = '\0';
    if (t > 0 && gmtime_r(&clock, &tm))
        strftime(text, size, form, &tm);
}

static void take_event(struct heard *heard, const json_t *event)
{
    char at[16];
    const char *by = text_in(event, "by");
    clock_text(number_in(event, "t"), at, sizeof(at), "%H:%M");
    memmove(heard->news + 1, heard->news,
            sizeof(heard->news) - sizeof(heard->news[0]));
    snprintf(heard->news[0], sizeof(heard->news[0]), "%s %s %s: %s%s%s", at,
             text_in(event, "of"), text_in(event, "kind"),
             text_in(event, "why"), *by ? ", by " : "", by);
}

void heard_take(struct heard *heard, const json_t *line)
{
    json_t *site = json_object_get(line, "site");
    const json_t *now = json_object_get(line, "now");
    const json_t *event = json_object_get(line, "event");
    if (site) {
        json_decref(heard->site);
        json_decref(heard->now);
        heard->site = json_incref(site);
        heard->now = json_object();
    }
    if (now && heard->now)
        merge(heard->now, now);
    if (event)
        take_event(heard, event);
}

void heard_free(struct heard *heard)
{
    json_decref(heard->site);
    json_decref(heard->now);
}

/* Lines */

static void add(struct frame *frame, int width, enum frame_look look,
                const char *text)
{
    if (frame->count == FRAME_LINES_MOST)
        return;
    struct frame_line *line = &frame->lines[frame->count++];
    int columns = 0;
    size_t used = 0;
    line->look = look;
    for (; *text && used < sizeof(line->text) - 4; text++) {
        columns += (*text & 0xC0) != 0x80;
        if (columns > width)
            break;
        line->text[used++] = *text;
    }
    line->text[used] = '\0';
}

static const json_t *thing_of(const struct heard *heard, const char *name)
{
    size_t i;
    json_t *thing;
    json_array_foreach(json_object_get(heard->site, "things"), i, thing)
    {
        if (strcmp(text_in(thing, "name"), name) == 0)
            return thing;
    }
    return NULL;
}

static const json_t *part(const struct heard *heard, const char *what,
                          const char *name)
{
    return json_object_get(json_object_get(heard->now, what), name);
}

/* A number as people read it, in the units that the site shows. */
static void value_text(const struct heard *heard, double number,
                       const char *symbol, char *text, size_t size)
{
    const struct cup_plan shown = {
        .us = strcmp(text_in(heard->site, "units"), "us") == 0};
    uint8_t unit = 0;
    while (unit < CUP_UNIT_COUNT - 1 &&
           strcmp(cup_unit_symbol(unit), symbol) != 0)
        unit++;
    double steps = number * pow(10, cup_unit_decimals(unit));
    cup_say_value(text, size, &shown, (int32_t)lround(steps), unit);
}

/* "61.20 %", or what is the matter with it. */
static void level_text(const struct heard *heard, const json_t *level,
                       char *text, size_t size)
{
    const json_t *value = json_object_get(level, "value");
    const char *quality = text_in(level, "quality");
    if (!json_is_number(value)) {
        snprintf(text, size, "%s", *quality ? quality : "?");
        return;
    }
    value_text(heard, json_number_value(value), text_in(level, "unit"), text,
               size);
    if (strcmp(quality, "good") != 0)
        snprintf(text + strlen(text), size - strlen(text), " %s", quality);
}

/* What a level that may be something else is; "" where it is its number. */
static void span_text(const struct heard *heard, const json_t *level,
                      char *text, size_t size)
{
    char low[24];
    char high[24];
    uint8_t why = 0;
    const char *unsure = text_in(level, "unsure");
    *text = '\0';
    if (!*unsure)
        return;
    while (why < CUP_REASON_COUNT && strcmp(cup_reason_code(why), unsure) != 0)
        why++;
    value_text(heard, number_in(level, "low"), text_in(level, "unit"), low,
               sizeof(low));
    value_text(heard, number_in(level, "high"), text_in(level, "unit"), high,
               sizeof(high));
    snprintf(text, size, "between %s and %s: %s", low, high,
             cup_span_words(why));
}

/* Where the scale of a duty begins and ends: of per cent all of it, of what
 * else its marks with as much again on either side. */
static void ends_of(const json_t *duty, const char *unit, double *low,
                    double *high)
{
    double start = number_in(duty, "start");
    double stop = number_in(duty, "stop");
    double more = fabs(stop - start);
    *low = 0;
    *high = 100;
    if (strcmp(unit, "%") == 0)
        return;
    *low = fmin(start, stop) - (more > 0 ? more : 1);
    *high = fmax(start, stop) + (more > 0 ? more : 1);
}

static int place_on(double value, double low, double high)
{
    double share = high > low ? (value - low) / (high - low) : 0;
    int at = (int)lround(share * (SCALE - 1));
    return at < 0 ? 0 : at >= SCALE ? SCALE - 1 : at;
}

/* A line with a notch at each mark, and the level on it. */
static void scale_text(const json_t *duty, const json_t *level, char *text)
{
    double low;
    double high;
    const json_t *value = json_object_get(level, "value");
    ends_of(duty, text_in(level, "unit"), &low, &high);
    int start = place_on(number_in(duty, "start"), low, high);
    int stop = place_on(number_in(duty, "stop"), low, high);
    int at = json_is_number(value)
                 ? place_on(json_number_value(value), low, high)
                 : -1;
    for (int i = 0; i < SCALE; i++)
        text += snprintf(text, 4, "%s",
                         i == at                   ? "●"
                         : i == start || i == stop ? "┴"
                                                   : "─");
}

/* Where what a duty keeps may be something else, and why. */
static void add_span(struct frame *frame, const struct heard *heard, int width,
                     const char *keep)
{
    char what[120];
    char text[200];
    span_text(heard, part(heard, "levels", keep), what, sizeof(what));
    if (!*what)
        return;
    snprintf(text, sizeof(text), "%-16s %-16s %s", "", "", what);
    add(frame, width, LOOK_PLAIN, text);
}

/* The chosen one can be told something. */
static void add_pump(struct frame *frame, const struct heard *heard, int width,
                     const char *name, bool chosen)
{
    char text[400];
    const json_t *pump = part(heard, "pumps", name);
    const char *mode = text_in(pump, "switch");
    bool hand =
        strcmp(mode, "auto") != 0 && strcmp(mode, text_in(pump, "is")) != 0;
    snprintf(text, sizeof(text), "%s %-14s %s%s%s%s  %s", chosen ? ">" : " ",
             name, text_in(pump, "is"), hand ? " (" : "", hand ? mode : "",
             hand ? ")" : "", text_in(pump, "why"));
    if (chosen)
        frame->chosen = frame->count;
    bool runs = strcmp(text_in(pump, "is"), "running") == 0;
    add(frame, width,
        chosen ? LOOK_CHOSEN
        : runs ? LOOK_RUNS
               : LOOK_PLAIN,
        text);
}

static void add_duty(struct frame *frame, const struct heard *heard, int width,
                     const json_t *duty)
{
    char text[600];
    char level[60] = "";
    char scale[4 * SCALE + 1] = "";
    const char *keep = text_in(duty, "keep");
    const char *name = text_in(duty, "name");
    const json_t *asks = part(heard, "duties", name);
    if (*keep) {
        level_text(heard, part(heard, "levels", keep), level, sizeof(level));
        scale_text(duty, part(heard, "levels", keep), scale);
        snprintf(text, sizeof(text), "%-16s %-16s %s  %s", name, keep, scale,
                 level);
    } else
        snprintf(text, sizeof(text), "%-16s %s", name, text_in(asks, "why"));
    add(frame, width, LOOK_TITLE, text);
    if (*keep)
        add_span(frame, heard, width, keep);
}

static void add_standing(struct frame *frame, const struct heard *heard,
                         int width)
{
    size_t i;
    json_t *line;
    const json_t *standing = json_object_get(heard->now, "standing");
    json_array_foreach(standing, i, line)
    {
        char text[300];
        snprintf(text, sizeof(text), "! %s",
                 json_is_string(line) ? json_string_value(line) : "");
        add(frame, width, LOOK_ALERT, text);
    }
    if (json_array_size(standing) == 0)
        add(frame, width, LOOK_DIM, "all is well");
}

static bool is_kind(const json_t *thing, const char *kind)
{
    return strcmp(text_in(thing, "kind"), kind) == 0;
}

/* The duty that has a pump first; null when none has it. */
static const json_t *first_duty(const struct heard *heard, const char *pump)
{
    size_t i;
    json_t *thing;
    json_array_foreach(json_object_get(heard->site, "things"), i, thing)
    {
        if (is_kind(thing, "duty") && strcmp(text_in(thing, "pump"), pump) == 0)
            return thing;
    }
    return NULL;
}

/* Each duty with its pump under it, then pumps that no duty has. */
static void add_things(struct frame *frame, const struct heard *heard,
                       int width, int chosen)
{
    size_t i;
    json_t *thing;
    const char *pump = frame_pump(heard, chosen);
    const json_t *things = json_object_get(heard->site, "things");
    json_array_foreach(things, i, thing)
    {
        if (!is_kind(thing, "duty"))
            continue;
        const char *name = text_in(thing, "pump");
        add_duty(frame, heard, width, thing);
        if (first_duty(heard, name) == thing)
            add_pump(frame, heard, width, name,
                     pump && strcmp(pump, name) == 0);
    }
    json_array_foreach(things, i, thing)
    {
        const char *name = text_in(thing, "name");
        if (is_kind(thing, "pump") && !first_duty(heard, name))
            add_pump(frame, heard, width, name,
                     pump && strcmp(pump, name) == 0);
    }
}

/* Levels that no duty keeps, as many as fit in a line. */
static void add_levels(struct frame *frame, const struct heard *heard,
                       int width)
{
    const char *name;
    json_t *level;
    char line[4 * FRAME_WIDTH_MOST] = "";
    int used = 0;
    json_object_foreach(json_object_get(heard->now, "levels"), name, level)
    {
        char text[60];
        char may_be[120];
        char one[240];
        level_text(heard, level, text, sizeof(text));
        span_text(heard, level, may_be, sizeof(may_be));
        int length = snprintf(one, sizeof(one), "%s %s%s%s   ", name, text,
                              *may_be ? ", " : "", may_be);
        if (!is_kind(thing_of(heard, name), "tank") &&
            strcmp(text_in(level, "quality"), "lost") != 0)
            continue;
        if (used + length > width) {
            add(frame, width, LOOK_PLAIN, line);
            used = 0;
        }
        used += snprintf(line + used, sizeof(line) - (size_t)used, "%s", one);
    }
    if (used > 0)
        add(frame, width, LOOK_PLAIN, line);
}

const char *frame_pump(const struct heard *heard, int chosen)
{
    size_t i;
    json_t *thing;
    const json_t *things = json_object_get(heard->site, "things");
    json_array_foreach(things, i, thing)
    {
        const char *name = text_in(thing, "pump");
        if (is_kind(thing, "duty") && first_duty(heard, name) == thing &&
            chosen-- == 0)
            return name;
    }
    json_array_foreach(things, i, thing)
    {
        const char *name = text_in(thing, "name");
        if (is_kind(thing, "pump") && !first_duty(heard, name) && chosen-- == 0)
            return name;
    }
    return NULL;
}

void frame_draw(struct frame *frame, const struct heard *heard, int width,
                int chosen)
{
    char at[32];
    char text[300];
    if (width > FRAME_WIDTH_MOST)
        width = FRAME_WIDTH_MOST;
    frame->count = 0;
    frame->chosen = -1;
    clock_text(number_in(heard->now, "t"), at, sizeof(at), "%d %b %Y %H:%M");
    snprintf(text, sizeof(text), "%-*s%s", width - (int)strlen(at),
             text_in(heard->site, "name"), at);
    add(frame, width, LOOK_TITLE, text);
    add_standing(frame, heard, width);
    add_levels(frame, heard, width);
    add(frame, width, LOOK_PLAIN, "");
    add_things(frame, heard, width, chosen);
    add(frame, width, LOOK_PLAIN, "");
    for (int i = 0; i < FRAME_NEWS; i++)
        if (*heard->news[i])
            add(frame, width, LOOK_DIM, heard->news[i]);
    if (heard->gone)
        add(frame, width, LOOK_ALERT, "! the controller went away");
}
