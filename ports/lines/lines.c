/* One line in, one pass, one line out. A line is read whole and found right
 * before any of it counts, so that a line in error changes nothing. */
#include "lines.h"

#include <errno.h>
#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/text.h"
#include "../common/json.h"
#include "../common/table.h"
#include "cuplatch/console.h"
#include "cuplatch/journal.h"
#include "cuplatch/panel.h"
#include "reader.h"

/* The most bytes a line may give for one sensor. */
#define BYTES_MOST 1024
/* The most steering words of a line. */
#define WORDS_MOST 64

/* What the port answers when a sensor is asked: a number until it is told
 * otherwise, or bytes once. */
struct answer {
    struct cup_sample sample;
    uint8_t *bytes;
    size_t count;
};

/* `answers` has one for every thing; only sensors and sources have any. */
struct lines {
    const struct cup_site *site;
    struct answer *answers;
    const struct cup_onlooker *watch;
    const struct cup_store *store;
    struct cup_journal journal;
    json_t *events;
    json_t *lamps;
    struct cup_panel panel;
    json_t *answers_to_ask;
    bool journal_fails;
    uint32_t faster;  /* the site's time runs so many times */
    uint32_t told_ms; /* the time of the line, as it was told */
    uint32_t t_ms;
    bool begun;   /* a line was taken */
    void *before; /* the state before the first line, with a journal */
    struct cup_word words[WORDS_MOST];
    size_t word_count;
    char wrong[300];
};

/* One line that was found right. */
struct line {
    uint32_t t_ms;
    json_t *raws;
    json_t *asked;
    json_t *pressed;
};

static bool fail(struct lines *lines, const char *form, ...)
    __attribute__((format(printf, 2, 3)));

static bool fail(struct lines *lines, const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    vsnprintf(lines->wrong, sizeof(lines->wrong), form, rest);
    va_end(rest);
    text_mend(lines->wrong);
    return false;
}

/* Finds a sensor or a source. */
static bool find_thing(const struct cup_plan *plan, const char *name,
                       cup_index *thing)
{
    for (cup_index i = 0; i < cup_things(plan); i++)
        if ((i < plan->sensor_count || i >= cup_source_thing(plan, 0)) &&
            strcmp(plan->names[i], name) == 0) {
            *thing = i;
            return true;
        }
    return false;
}

/* Whether a thing answers with bytes, and whether it may with a number. */
static bool takes_bytes(const struct cup_plan *plan, cup_index thing)
{
    return thing >= plan->sensor_count ||
           cup_form_is_bytes(plan->sensors[thing].form);
}

static int hex_digit(char letter)
{
    const char *digits = "0123456789abcdef";
    const char *at = letter ? strchr(digits, letter | 0x20) : NULL;
    return at ? (int)(at - digits) : -1;
}

static bool is_hex(const char *text)
{
    size_t length = strlen(text);
    for (size_t i = 0; i < length; i++)
        if (hex_digit(text[i]) < 0)
            return false;
    return length % 2 == 0 && length / 2 <= BYTES_MOST;
}

static bool check_bytes(struct lines *lines, const char *name, const char *hex)
{
    return is_hex(hex) ||
           fail(lines,
                "raw: %s: expected bytes as pairs of hex digits, at most %d "
                "bytes",
                name, BYTES_MOST);
}

static bool check_number(struct lines *lines, const char *name, json_int_t raw)
{
    return (raw >= INT32_MIN && raw <= INT32_MAX) ||
           fail(lines, "raw: %s: %" JSON_INTEGER_FORMAT " is more than 32 bits",
                name, raw);
}

static bool check_raw(struct lines *lines, const char *name, json_t *value)
{
    cup_index thing;
    char known[61];
    const struct cup_plan *plan = lines->site->plan;
    if (!find_thing(plan, name, &thing))
        return fail(lines, "raw: there is no sensor named \"%s\"",
                    text_cut(known, sizeof(known), name));
    bool bytes = takes_bytes(plan, thing);
    if (json_is_null(value))
        return true;
    if (json_is_string(value) && bytes)
        return check_bytes(lines, name, json_string_value(value));
    if (json_is_integer(value) && thing < plan->sensor_count)
        return check_number(lines, name, json_integer_value(value));
    return fail(lines, "raw: %s: expected %s, or null for no answer", name,
                bytes ? "bytes as hex text" : "a whole number");
}

static bool check_raws(struct lines *lines, json_t *raws)
{
    const char *name;
    json_t *value;
    if (!json_is_object(raws))
        return fail(lines, "raw: expected an object of sensor names");
    json_object_foreach(raws, name,
                        value) if (!check_raw(lines, name, value)) return false;
    return true;
}

/* Takes the values of a line that was found right. */
static void take_raws(struct lines *lines, json_t *raws)
{
    const char *name;
    json_t *value;
    cup_index thing;
    json_object_foreach(raws, name, value)
    {
        if (!find_thing(lines->site->plan, name, &thing))
            continue;
        struct answer *answer = &lines->answers[thing];
        answer->count = 0;
        answer->sample = (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
        if (json_is_integer(value))
            answer->sample =
                (struct cup_sample){.raw = (int32_t)json_integer_value(value)};
        const char *hex = json_string_value(value);
        for (; hex && *hex; hex += 2)
            answer->bytes[answer->count++] =
                (uint8_t)((unsigned)hex_digit(hex[0]) << 4 |
                          (unsigned)hex_digit(hex[1]));
    }
}

static bool refuse_word(struct lines *lines, json_t *words, size_t i,
                        const char *wrong)
{
    char word[81];
    text_cut(word, sizeof(word), json_string_value(json_array_get(words, i)));
    return fail(lines, "tell: %s: %s", word, wrong);
}

/* Words are read one by one, and judged as they will stand together. */
static bool check_words(struct lines *lines, json_t *words)
{
    size_t i;
    json_t *text;
    if (!json_is_array(words))
        return fail(lines, "tell: expected a list of steering words");
    if (json_array_size(words) > WORDS_MOST)
        return fail(lines, "tell: expected at most %d words in a line",
                    WORDS_MOST);
    json_array_foreach(words, i, text)
    {
        if (!json_is_string(text))
            return fail(lines, "tell: expected text, such as \"lift off\"");
        const char *wrong = cup_read_word(
            lines->site->plan, json_string_value(text), &lines->words[i]);
        if (wrong)
            return refuse_word(lines, words, i, wrong);
    }
    lines->word_count = json_array_size(words);
    enum cup_error error =
        cup_site_may_all(lines->site, lines->words, lines->word_count, &i);
    return !error || refuse_word(lines, words, i,
                                 cup_refusal_text(error, &lines->words[i]));
}

static bool check_asked(struct lines *lines, json_t *asked)
{
    size_t i;
    json_t *text;
    if (!json_is_array(asked))
        return fail(lines, "ask: expected a list, such as [\"why lift\"]");
    json_array_foreach(asked, i, text) if (!json_is_string(text)) return fail(
        lines, "ask: expected text, such as \"why lift\"");
    return true;
}

static bool check_pressed(struct lines *lines, json_t *pressed)
{
    size_t i;
    json_t *text;
    if (!json_is_array(pressed) || lines->site->plan->panel_width == 0)
        return fail(lines, "press: expected a list of inputs, for a site that "
                           "has a panel");
    json_array_foreach(
        pressed, i,
        text) if (!json_is_string(text) ||
                  cup_read_input(json_string_value(text)) ==
                      CUP_INPUT_COUNT) return fail(lines, "press: expected "
                                                          "next, less, more "
                                                          "or keep");
    return true;
}

static bool read_time(struct lines *lines, json_t *value, uint32_t *t_ms)
{
    json_int_t time = json_integer_value(value);
    if (!json_is_integer(value) || time < 0 || time > UINT32_MAX)
        return fail(lines, "t_ms: expected a whole number from 0 to %" PRIu32,
                    UINT32_MAX);
    *t_ms = (uint32_t)time * lines->faster;
    lines->told_ms = (uint32_t)time;
    return true;
}

static bool check_keys(struct lines *lines, json_t *json)
{
    const char *key;
    json_t *value;
    char known[61];
    json_object_foreach(json, key, value) if (
        strcmp(key, "t_ms") != 0 && strcmp(key, "raw") != 0 &&
        strcmp(key, "tell") != 0 && strcmp(key, "ask") != 0 &&
        strcmp(key, "press") !=
            0) return fail(lines,
                           "unknown key \"%s\": expected t_ms, raw, tell, ask "
                           "or press",
                           text_cut(known, sizeof(known), key));
    return true;
}

static void tell(void *self, const struct cup_event *event)
{
    struct lines *lines = self;
    json_t *json = cup_json_event(lines->site->plan, event);
    json_object_set_new(json, "t_ms", json_integer(lines->told_ms));
    json_array_append_new(lines->events, json);
}

/* With the first line: what was kept is taken over, and told, since what the
 * line says is judged by it. */
static bool open_journal(struct lines *lines, uint32_t t_ms)
{
    struct cup_sink sink = {tell, lines};
    if (!lines->store || lines->journal.store)
        return true;
    return cup_journal_open(&lines->journal, lines->site, t_ms, lines->store,
                            &sink) == CUP_OK ||
           fail(lines, "the journal does not fit the site");
}

/* A first line in error is as if it had not been: the state, one piece of
 * memory from the pass on, is as it was bound. */
static void forget_first(struct lines *lines)
{
    if (lines->begun || !lines->before)
        return;
    memcpy(lines->site->pass, lines->before, cup_site_size(lines->site->plan));
    lines->journal.store = NULL;
    json_array_clear(lines->events);
}

/* Each part of a line that may be left out, and what holds it to be right. */
static const struct part {
    const char *key;
    bool (*check)(struct lines *lines, json_t *value);
    size_t at;
} parts[] = {{"raw", check_raws, offsetof(struct line, raws)},
             {"ask", check_asked, offsetof(struct line, asked)},
             {"press", check_pressed, offsetof(struct line, pressed)}};

static bool read_line(struct lines *lines, json_t *json, struct line *line)
{
    if (!json_is_object(json))
        return fail(lines, "expected an object such as {\"t_ms\": 0, "
                           "\"raw\": {}}");
    if (!check_keys(lines, json) ||
        !read_time(lines, json_object_get(json, "t_ms"), &line->t_ms))
        return false;
    for (size_t i = 0; i < sizeof(parts) / sizeof(parts[0]); i++) {
        json_t *value = json_object_get(json, parts[i].key);
        *(json_t **)((char *)line + parts[i].at) = value;
        if (value && !parts[i].check(lines, value))
            return false;
    }
    json_t *words = json_object_get(json, "tell");
    lines->word_count = 0;
    return open_journal(lines, line->t_ms) &&
           (!words || check_words(lines, words));
}

/* The port */

static uint32_t now_ms(void *self)
{
    return ((struct lines *)self)->t_ms;
}

static void note(const struct lines *lines, cup_index sensor,
                 struct cup_sample heard)
{
    if (lines->watch)
        lines->watch->sensors[sensor] = (struct cup_seen){heard, true};
}

static struct cup_sample sample(void *self, cup_index sensor)
{
    struct lines *lines = self;
    note(lines, sensor, lines->answers[sensor].sample);
    return lines->answers[sensor].sample;
}

/* Bytes were given: their value is known once they are decoded. */
static void note_bytes(const struct lines *lines, cup_index thing)
{
    const struct cup_plan *plan = lines->site->plan;
    if (thing < plan->sensor_count) {
        note(lines, thing, (struct cup_sample){.reject = CUP_REASON_NONE});
        return;
    }
    cup_index source = (cup_index)(thing - cup_source_thing(plan, 0));
    for (cup_index i = plan->sources[source].sensor; i != CUP_NONE;
         i = plan->sensors[i].sibling)
        note(lines, i, (struct cup_sample){.reject = CUP_REASON_NONE});
}

/* Bytes are given once. A form of bytes may be given a number, too. */
static size_t bytes(void *self, cup_index thing, uint8_t *to, size_t size)
{
    struct lines *lines = self;
    struct answer *answer = &lines->answers[thing];
    if (answer->count > 0 || thing >= lines->site->plan->sensor_count)
        note_bytes(lines, thing);
    size_t count = answer->count < size ? answer->count : size;
    memcpy(to, answer->bytes, count);
    memmove(answer->bytes, answer->bytes + count, answer->count - count);
    answer->count -= count;
    return count;
}

static enum cup_error supply(void *self, cup_index which, bool on)
{
    (void)self, (void)which, (void)on;
    return CUP_OK;
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    (void)self, (void)pump, (void)high;
    return CUP_OK;
}

static enum cup_error move(void *self, cup_index pump, uint16_t place_pct100,
                           int way)
{
    (void)self, (void)pump, (void)place_pct100, (void)way;
    return CUP_OK;
}

static void light(void *self, cup_index lamp, uint8_t lit)
{
    struct lines *lines = self;
    cup_index first = cup_things(lines->site->plan);
    json_object_set_new(lines->lamps, lines->site->plan->names[first + lamp],
                        json_integer(lit));
}

static const struct cup_port_table table = {.now_ms = now_ms,
                                            .sample = sample,
                                            .drive = drive,
                                            .supply = supply,
                                            .move = move,
                                            .light = light,
                                            .bytes = bytes,
                                            .tell = tell};

/* A pass */

/* Two lines, and whether they are lit. */
static json_t *show_panel(struct lines *lines)
{
    char top[CUP_PANEL_SIZE];
    char below[CUP_PANEL_SIZE];
    bool lit =
        cup_panel_show(&lines->panel, lines->site, lines->t_ms, top, below);
    return json_pack("{s:s, s:s, s:b}", "top", top, "below", below, "lit", lit);
}

static void press(struct lines *lines, json_t *pressed)
{
    for (size_t i = 0; i < json_array_size(pressed); i++)
        cup_panel_press(
            &lines->panel, lines->site, lines->t_ms,
            cup_read_input(json_string_value(json_array_get(pressed, i))));
}

static void answer(struct lines *lines, FILE *out)
{
    if (lines->watch) {
        lines->watch->passed(lines->watch->self, lines->t_ms);
        json_array_clear(lines->events);
        return;
    }
    json_t *json =
        json_pack("{s:I, s:o, s:o, s:o}", "t_ms", (json_int_t)lines->told_ms,
                  "out", cup_json_outputs(lines->site), "levels",
                  cup_json_levels(lines->site), "events", lines->events);
    if (json_object_size(lines->lamps) > 0)
        json_object_set(json, "lamps", lines->lamps);
    if (lines->site->plan->panel_width > 0)
        json_object_set_new(json, "panel", show_panel(lines));
    if (json_array_size(lines->answers_to_ask) > 0)
        json_object_set(json, "answers", lines->answers_to_ask);
    cup_json_line(out, json);
    lines->events = json_array();
    json_array_clear(lines->answers_to_ask);
}

static void take_answer(void *self, const char *text)
{
    char *whole = strdup(text);
    if (whole)
        json_array_append_new(((struct lines *)self)->answers_to_ask,
                              json_string(text_mend(whole)));
    free(whole);
}

/* Questions are answered as things stand after the pass. */
static void ask(struct lines *lines, json_t *asked)
{
    size_t i;
    json_t *text;
    struct cup_printer printer = {take_answer, lines};
    json_array_foreach(asked, i, text)
    {
        char question[CUP_CONSOLE_MOST + 5];
        snprintf(question, sizeof(question), "ask %s", json_string_value(text));
        cup_console_line(lines->site, lines->t_ms, question, &printer);
    }
}

/* Warm-ups that are over before the next line end in their own time, with
 * what was answered till then. */
static void finish_warm_ups(struct lines *lines, struct cup_port *port,
                            uint32_t t_ms)
{
    uint32_t warming;
    while ((warming = cup_site_warming(lines->site, lines->t_ms)) <
               t_ms - lines->t_ms &&
           t_ms - lines->t_ms < CUP_TIME_BACK) {
        lines->t_ms += warming;
        (void)!cup_port_ask(port, lines->site, lines->t_ms);
    }
}

/* What fails is told as an event, and tried again. */
static void pass(struct lines *lines, struct cup_port *port)
{
    if (lines->store)
        (void)!cup_journal_pass(&lines->journal, lines->site, port);
    else
        (void)!cup_port_pass(port, lines->site);
    if (lines->site->pass->journal != CUP_JOURNAL_WORKS)
        lines->journal_fails = true;
}

static void step(struct lines *lines, const struct line *line, FILE *out)
{
    struct cup_port port = {&table, lines};
    if (!lines->begun)
        lines->t_ms = line->t_ms;
    lines->begun = true;
    finish_warm_ups(lines, &port, line->t_ms);
    take_raws(lines, line->raws);
    lines->t_ms = line->t_ms;
    (void)!cup_site_steer_all(lines->site, lines->t_ms, lines->words,
                              lines->word_count, NULL); /* were judged */
    press(lines, line->pressed);
    pass(lines, &port);
    ask(lines, line->asked);
    answer(lines, out);
}

static void take_line(struct lines *lines, const char *text, size_t length,
                      FILE *out)
{
    struct line line = {0};
    json_error_t error;
    json_t *json = json_loadb(text, length, JSON_REJECT_DUPLICATES, &error);
    if (!json)
        fail(lines, "not JSON: %s (column %d)", error.text, error.column);
    if (json && read_line(lines, json, &line))
        step(lines, &line, out);
    else {
        forget_first(lines);
        cup_json_line(out, json_pack("{s:s}", "error", lines->wrong));
    }
    json_decref(json);
}

/* Takes lines until there are no more, or nobody hears the answers. */
static enum reader_got take_all(struct lines *lines, struct reader *reader,
                                FILE *out)
{
    for (;;) {
        enum reader_got got = reader_next(reader);
        if (got > READER_TOO_LONG)
            return got;
        if (got == READER_LINE &&
            strspn(reader->text, " \t\r\n") == reader->length)
            continue;
        if (got == READER_LINE)
            take_line(lines, reader->text, reader->length, out);
        else
            cup_json_line(out, json_pack("{s:s}", "error",
                                         "longer than a line may be, 1 MiB"));
        if (fflush(out) != 0 || ferror(out))
            return READER_STOPPED;
    }
}

static void shut_down(struct lines *lines, FILE *out)
{
    struct cup_sink sink = {tell, lines};
    cup_site_shut_down(lines->site, &sink);
    if (lines->journal.store && cup_journal_close(&lines->journal, lines->site))
        lines->journal_fails = true;
    answer(lines, out);
    fflush(out);
}

static void free_answers(struct lines *lines, size_t count)
{
    for (size_t i = 0; lines->answers && i < count; i++)
        free(lines->answers[i].bytes);
    free(lines->answers);
}

static bool make_answers(struct lines *lines, size_t count)
{
    lines->answers = calloc(count + 1, sizeof(*lines->answers));
    for (size_t i = 0; lines->answers && i < count; i++) {
        lines->answers[i].sample.reject = CUP_REASON_NO_ANSWER;
        lines->answers[i].bytes = malloc(BYTES_MOST);
        if (!lines->answers[i].bytes)
            return false;
    }
    return lines->answers != NULL;
}

static bool make_lines(struct lines *lines, size_t count)
{
    lines->events = json_array();
    lines->answers_to_ask = json_array();
    lines->lamps = json_object();
    if (lines->store) {
        size_t size = cup_site_size(lines->site->plan);
        lines->before = malloc(size);
        if (!lines->before)
            return false;
        memcpy(lines->before, lines->site->pass, size);
    }
    return lines->events && lines->answers_to_ask && lines->lamps &&
           make_answers(lines, count);
}

static void free_lines(struct lines *lines, size_t count)
{
    json_decref(lines->events);
    json_decref(lines->answers_to_ask);
    json_decref(lines->lamps);
    free_answers(lines, count);
    free(lines->before);
}

static enum cup_error run(struct lines *lines, FILE *in, FILE *out,
                          struct cup_lines_more *more)
{
    struct reader reader = {.in = in, .stop_fd = more->stop_fd};
    enum reader_got got = take_all(lines, &reader, out);
    more->why = got == READER_FAILED ? errno : 0;
    reader_free(&reader);
    shut_down(lines, out);
    more->failed = NULL;
    if (lines->journal_fails)
        more->failed = "the journal could not all be written";
    if (got == READER_FAILED)
        more->failed = "the lines cannot be read";
    if (ferror(out))
        more->failed = "the answers cannot be written: every output is off";
    return more->failed ? CUP_ERROR_PORT : CUP_OK;
}

enum cup_error cup_lines_run(const struct cup_site *site, FILE *in, FILE *out,
                             struct cup_lines_more *more)
{
    size_t count = cup_things(site->plan);
    struct lines lines = {
        .site = site, .watch = more->watch, .store = more->store};
    enum cup_error error = CUP_ERROR_SPACE;
    more->failed = "there is no memory for it";
    lines.faster = more->faster > 0 ? more->faster : 1;
    if (make_lines(&lines, count))
        error = run(&lines, in, out, more);
    free_lines(&lines, count);
    return error;
}
