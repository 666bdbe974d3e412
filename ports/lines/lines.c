/* One line in, one pass, one line out. A line is read whole and found right
 * before any of it counts, so that a line in error changes nothing. */
#include "lines.h"

#include <errno.h>
#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

#include "../common/json.h"
#include "../common/table.h"
#include "cuplatch/say.h"

/* What the port answers for each sensor until it is told otherwise, and the
 * same as a line under way would have it. */
struct lines {
    const struct cup_site *site;
    struct cup_sample *now;
    struct cup_sample *next;
    json_t *events;
    uint32_t t_ms;
    char wrong[300];
};

/* One line that was found right. */
struct line {
    uint32_t t_ms;
    json_t *words;
};

static bool fail(struct lines *lines, const char *form, ...)
    __attribute__((format(printf, 2, 3)));

static bool fail(struct lines *lines, const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    vsnprintf(lines->wrong, sizeof(lines->wrong), form, rest);
    va_end(rest);
    return false;
}

static bool find_sensor(const struct cup_plan *plan, const char *name,
                        cup_index *sensor)
{
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (strcmp(plan->names[i], name) == 0) {
            *sensor = i;
            return true;
        }
    return false;
}

static bool read_raw(struct lines *lines, const char *name, json_t *value)
{
    cup_index sensor;
    if (!find_sensor(lines->site->plan, name, &sensor))
        return fail(lines, "raw: there is no sensor named \"%s\"", name);
    struct cup_sample *sample = &lines->next[sensor];
    if (json_is_null(value)) {
        *sample = (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
        return true;
    }
    if (!json_is_integer(value))
        return fail(lines,
                    "raw: %s: expected a whole number, or null for no answer",
                    name);
    json_int_t raw = json_integer_value(value);
    if (raw < INT32_MIN || raw > INT32_MAX)
        return fail(lines,
                    "raw: %s: %" JSON_INTEGER_FORMAT " is more than 32 bits",
                    name, raw);
    *sample = (struct cup_sample){.raw = (int32_t)raw};
    return true;
}

static bool read_raws(struct lines *lines, json_t *raws)
{
    const char *name;
    json_t *value;
    if (!json_is_object(raws))
        return fail(lines, "raw: expected an object of sensor names");
    json_object_foreach(raws, name,
                        value) if (!read_raw(lines, name, value)) return false;
    return true;
}

static bool check_words(struct lines *lines, json_t *words)
{
    size_t i;
    json_t *text;
    struct cup_word word;
    if (!json_is_array(words))
        return fail(lines, "tell: expected a list of steering words");
    json_array_foreach(words, i, text)
    {
        if (!json_is_string(text))
            return fail(lines, "tell: expected text, such as \"lift off\"");
        const char *said = json_string_value(text);
        const char *wrong = cup_read_word(lines->site->plan, said, &word);
        if (!wrong && cup_site_may(lines->site, &word))
            wrong = "longer than the pump's hand_limit";
        if (wrong)
            return fail(lines, "tell: %.80s: %s", said, wrong);
    }
    return true;
}

static bool read_time(struct lines *lines, json_t *value, uint32_t *t_ms)
{
    json_int_t time = json_integer_value(value);
    if (!json_is_integer(value) || time < 0 || time > UINT32_MAX)
        return fail(lines, "t_ms: expected a whole number from 0 to %" PRIu32,
                    UINT32_MAX);
    *t_ms = (uint32_t)time;
    return true;
}

static bool check_keys(struct lines *lines, json_t *json)
{
    const char *key;
    json_t *value;
    json_object_foreach(json, key, value) if (
        strcmp(key, "t_ms") != 0 && strcmp(key, "raw") != 0 &&
        strcmp(key, "tell") !=
            0) return fail(lines,
                           "unknown key \"%s\": expected t_ms, raw or tell",
                           key);
    return true;
}

static bool read_line(struct lines *lines, json_t *json, struct line *line)
{
    size_t count = lines->site->plan->sensor_count;
    memcpy(lines->next, lines->now, count * sizeof(*lines->now));
    if (!json_is_object(json))
        return fail(lines, "expected an object such as {\"t_ms\": 0, "
                           "\"raw\": {}}");
    json_t *raws = json_object_get(json, "raw");
    line->words = json_object_get(json, "tell");
    return check_keys(lines, json) &&
           read_time(lines, json_object_get(json, "t_ms"), &line->t_ms) &&
           (!raws || read_raws(lines, raws)) &&
           (!line->words || check_words(lines, line->words));
}

/* The port */

static uint32_t now_ms(void *self)
{
    return ((struct lines *)self)->t_ms;
}

static struct cup_sample sample(void *self, cup_index sensor)
{
    return ((struct lines *)self)->now[sensor];
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    (void)self, (void)pump, (void)high;
    return CUP_OK;
}

static void tell(void *self, const struct cup_event *event)
{
    struct lines *lines = self;
    json_array_append_new(lines->events,
                          cup_json_event(lines->site->plan, event));
}

static const struct cup_port_table table = {
    .now_ms = now_ms, .sample = sample, .drive = drive, .tell = tell};

/* A pass */

static void answer(struct lines *lines, FILE *out)
{
    json_t *json =
        json_pack("{s:I, s:o, s:o, s:o}", "t_ms", (json_int_t)lines->t_ms,
                  "out", cup_json_outputs(lines->site), "levels",
                  cup_json_levels(lines->site), "events", lines->events);
    cup_json_line(out, json);
    lines->events = json_array();
}

static void steer(struct lines *lines, json_t *words)
{
    size_t i;
    json_t *text;
    json_array_foreach(words, i, text)
    {
        struct cup_word word;
        if (cup_read_word(lines->site->plan, json_string_value(text), &word) ||
            cup_site_steer(lines->site, lines->t_ms, &word))
            abort(); /* check_words() let it through */
    }
}

static void step(struct lines *lines, const struct line *line, FILE *out)
{
    struct cup_port port = {&table, lines};
    struct cup_sample *next = lines->next;
    lines->next = lines->now;
    lines->now = next;
    lines->t_ms = line->t_ms;
    steer(lines, line->words);
    if (cup_port_pass(&port, lines->site) == CUP_OK)
        answer(lines, out);
}

static void take_line(struct lines *lines, const char *text, size_t length,
                      FILE *out)
{
    struct line line = {0, NULL};
    json_error_t error;
    json_t *json = json_loadb(text, length, JSON_REJECT_DUPLICATES, &error);
    if (!json)
        fail(lines, "not JSON: %s (column %d)", error.text, error.column);
    if (json && read_line(lines, json, &line))
        step(lines, &line, out);
    else
        cup_json_line(out, json_pack("{s:s}", "error", lines->wrong));
    json_decref(json);
}

static void take_all(struct lines *lines, FILE *in, FILE *out,
                     const volatile int *stop)
{
    char *text = NULL;
    size_t size = 0;
    while (!*stop) {
        ssize_t length = getline(&text, &size, in);
        if (length < 0)
            break;
        if (strspn(text, " \t\r\n") == (size_t)length)
            continue;
        take_line(lines, text, (size_t)length, out);
        fflush(out);
    }
    free(text);
}

static void shut_down(struct lines *lines, FILE *out)
{
    struct cup_sink sink = {tell, lines};
    cup_site_shut_down(lines->site, &sink);
    answer(lines, out);
    fflush(out);
}

enum cup_error cup_lines_run(const struct cup_site *site, FILE *in, FILE *out,
                             const volatile int *stop)
{
    size_t count = site->plan->sensor_count;
    struct cup_sample *samples = calloc(2 * count + 1, sizeof(*samples));
    if (!samples)
        return CUP_ERROR_SPACE;
    struct lines lines = {.site = site, .now = samples};
    lines.next = samples + count;
    lines.events = json_array();
    for (size_t i = 0; i < count; i++)
        lines.now[i].reject = CUP_REASON_NO_ANSWER;
    take_all(&lines, in, out, stop);
    shut_down(&lines, out);
    json_decref(lines.events);
    free(samples);
    return ferror(out) ? CUP_ERROR_PORT : CUP_OK;
}
