/* One line in, one pass, one line out. A line is read whole and found right
 * before any of it counts, so that a line in error changes nothing. */
#include "lines.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/text.h"
#include "../common/json.h"
#include "../common/table.h"
#include "inside.h"
#include "reader.h"

/* Takes the values of a line that was found right. */
static void take_raws(struct lines *lines, json_t *raws)
{
    const char *name;
    json_t *value;
    cup_index thing;
    json_object_foreach(raws, name, value)
    {
        if (lines_button(lines->site->plan, name, &thing))
            lines->closed[thing] = json_integer_value(value) == 1;
        if (!lines_find(lines->site->plan, name, &thing))
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
                (uint8_t)((unsigned)lines_hex(hex[0]) << 4 |
                          (unsigned)lines_hex(hex[1]));
    }
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
           lines_fail(lines, "the journal does not fit the site");
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
    const struct cup_plan *plan = lines->site->plan;
    bool bar = lamp < plan->bar_count;
    json_object_set_new(lines->lamps, plan->names[cup_things(plan) + lamp],
                        bar ? json_integer(lit)
                            : json_string(cup_pattern_code(lit)));
}

static bool closed(void *self, cup_index button)
{
    return ((struct lines *)self)->closed[button];
}

static const struct cup_port_table table = {.now_ms = now_ms,
                                            .sample = sample,
                                            .drive = drive,
                                            .supply = supply,
                                            .move = move,
                                            .light = light,
                                            .bytes = bytes,
                                            .closed = closed,
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
    json_t *json = json_pack(
        "{s:I, s:o, s:o, s:I, s:o}", "t_ms", (json_int_t)lines->told_ms, "out",
        cup_json_outputs(lines->site), "levels", cup_json_levels(lines->site),
        "wait_ms", (json_int_t)cup_site_wait(lines->site), "events",
        lines->events);
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

/* What its words would do is judged once what was kept has been read. */
static bool begin_line(struct lines *lines, json_t *json,
                       const struct line *line)
{
    json_t *words = json_object_get(json, "tell");
    lines->word_count = 0;
    return open_journal(lines, line->t_ms) &&
           (!words || lines_judge_words(lines, words));
}

static void take_line(struct lines *lines, const char *text, size_t length,
                      FILE *out)
{
    struct line line = {0};
    json_error_t error;
    json_t *json = json_loadb(text, length, JSON_REJECT_DUPLICATES, &error);
    if (!json)
        lines_fail(lines, "not JSON: %s (column %d)", error.text, error.column);
    if (json && lines_judge(lines, json, &line) &&
        begin_line(lines, json, &line))
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
    free(lines->closed);
}

static bool make_answers(struct lines *lines, size_t count)
{
    lines->answers = calloc(count + 1, sizeof(*lines->answers));
    lines->closed =
        calloc(lines->site->plan->button_count + 1u, sizeof(*lines->closed));
    for (size_t i = 0; lines->answers && i < count; i++) {
        lines->answers[i].sample.reject = CUP_REASON_NO_ANSWER;
        lines->answers[i].bytes = malloc(BYTES_MOST);
        if (!lines->answers[i].bytes)
            return false;
    }
    return lines->answers && lines->closed;
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
