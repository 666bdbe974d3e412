/* Plays scenario tables through a site file, the site and a port. */
#include "scenario.h"

#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../ports/common/table.h"
#include "../../sitefile/sitefile.h"
#include "cuplatch/console.h"
#include "cuplatch/journal.h"
#include "flash.h"
#include "harness.h"
#include "world.h"

struct play {
    struct cup_file *file;
    const struct cup_plan *plan;
    struct cup_site site;
    struct cup_sample *answers;
    bool *pins;
    bool *failing;
    uint16_t *places;
    void *state;
    struct flash flash;
    struct cup_store store;
    struct cup_journal journal;
    char answer[CUP_SENTENCE_SIZE + 60];
    uint32_t now_ms;
    uint32_t before_ms;
    char events[1000];
};

static uint32_t now_ms(void *self)
{
    return ((struct play *)self)->now_ms;
}

static struct cup_sample sample(void *self, cup_index sensor)
{
    return ((struct play *)self)->answers[sensor];
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    struct play *play = self;
    if (play->failing[pump])
        return CUP_ERROR_PORT;
    play->pins[pump] = high;
    return CUP_OK;
}

static enum cup_error move(void *self, cup_index pump, uint16_t place_pct100,
                           int way)
{
    struct play *play = self;
    play->places[pump] = place_pct100;
    CHECK(way >= -1 && way <= 1);
    return CUP_OK;
}

static enum cup_error supply(void *self, cup_index which, bool on)
{
    (void)self, (void)which, (void)on;
    return CUP_OK;
}

static void tell(void *self, const struct cup_event *event)
{
    struct play *play = self;
    size_t used = strlen(play->events);
    snprintf(play->events + used, sizeof(play->events) - used, "%s%s %s %s",
             used ? ", " : "", cup_thing_name(play->plan, event->of),
             cup_kind_code(event->kind), cup_reason_code(event->cause.reason));
}

static uint64_t time_of(const char *text)
{
    static const struct {
        const char *name;
        uint64_t ms;
    } units[] = {
        {"ms", 1}, {"s", 1000}, {"m", 60000}, {"h", 3600000}, {"d", 86400000}};
    uint64_t total = 0;
    char *at = (char *)text;
    while (*at) {
        uint64_t number = strtoull(at, &at, 10);
        size_t length = strspn(at, "msdh");
        for (size_t i = 0; i < sizeof(units) / sizeof(units[0]); i++)
            if (strlen(units[i].name) == length &&
                strncmp(at, units[i].name, length) == 0)
                total += number * units[i].ms;
        at += length;
        at += strspn(at, " ");
    }
    return total;
}

static int find(const struct play *play, const char *name, cup_index from,
                cup_index to)
{
    for (cup_index i = from; i < to; i++)
        if (strcmp(cup_thing_name(play->plan, i), name) == 0)
            return i - from;
    printf("no such name: %s\n", name);
    abort();
}

static void set_raw(struct play *play, const char *text)
{
    char *copy = strdup(text ? text : "");
    char *rest = copy;
    char *word;
    while ((word = strtok_r(rest, " ", &rest))) {
        char *value = strchr(word, '=');
        *value++ = '\0';
        int i = find(play, word, 0, play->plan->sensor_count);
        play->answers[i] = (struct cup_sample){0};
        if (*value == '-')
            play->answers[i].reject = CUP_REASON_NO_ANSWER;
        else
            play->answers[i].raw = (int32_t)strtol(value, NULL, 10);
    }
    free(copy);
}

static void steer(struct play *play, const char *text)
{
    char *copy = strdup(text ? text : "");
    char *rest = copy;
    char *words;
    while ((words = strtok_r(rest, ",", &rest))) {
        struct cup_word word;
        CHECK_TEXT(cup_read_word(play->plan, words, &word) ? "wrong" : "right",
                   "right");
        CHECK_INT(cup_site_steer(&play->site, play->now_ms, &word), CUP_OK);
    }
    free(copy);
}

/* The power comes back: nothing is left but the journal. */
static void reboot(struct play *play)
{
    struct cup_sink sink = {tell, play};
    CHECK_INT(cup_site_bind(&play->site, play->plan, play->state,
                            cup_site_size(play->plan)),
              CUP_OK);
    memset(play->pins, 0, play->plan->pump_count * sizeof(*play->pins));
    play->before_ms = play->now_ms;
    if (play->plan->keys)
        CHECK_INT(cup_journal_open(&play->journal, &play->site, play->now_ms,
                                   &play->store, &sink),
                  CUP_OK);
}

static void keep_line(void *self, const char *text)
{
    struct play *play = self;
    snprintf(play->answer, sizeof(play->answer), "%s", text);
}

/* "?pump sentence" */
static void ask_why(struct play *play, const char *text)
{
    char line[100] = "ask why ";
    struct cup_printer printer = {keep_line, play};
    size_t name = strcspn(text, " ");
    strncat(line, text, name);
    CHECK(cup_console_line(&play->site, play->now_ms, line, &printer));
    CHECK(strlen(play->answer) <= CUP_SENTENCE_MAX);
    CHECK_TEXT(play->answer, text + name + 1);
}

/* "!not pump hand 5m": a word that must be refused. */
static void refuse(struct play *play, const char *text)
{
    struct cup_word word;
    CHECK(!cup_read_word(play->plan, text, &word));
    CHECK(cup_site_steer(&play->site, play->now_ms, &word) != CUP_OK);
}

/* "!spoil 0 3": anything is in the slots 0 and 1 of the journal, or the copies
 * 2 to 4 of what people chose. */
static void spoil(struct play *play, const char *numbers)
{
    const struct cup_store *store = &play->store;
    for (; *numbers; numbers++) {
        if (*numbers == ' ')
            continue;
        const uint32_t part = (uint32_t)(*numbers - '0');
        const uint32_t size =
            part < store->slots ? store->slot_size : store->record_size;
        const uint32_t at = part < store->slots
                                ? part * size
                                : store->slots * store->slot_size +
                                      (part - store->slots) * size;
        for (uint32_t i = 0; i < size; i++)
            play->flash.bytes[at + i] = (uint8_t)(at + i * i * 7 + 1);
    }
}

/* What only the test can do; false when the words are for the site. */
static bool act(struct play *play, const char *text)
{
    if (!text || *text != '!')
        return text && *text == '?';
    if (strcmp(text, "!reboot") == 0) {
        reboot(play);
        return true;
    }
    if (strncmp(text, "!spoil ", 7) == 0) {
        spoil(play, text + 7);
        return true;
    }
    if (strncmp(text, "!not ", 5) == 0) {
        refuse(play, text + 5);
        return true;
    }
    cup_index first = cup_pump_thing(play->plan, 0);
    int pump = find(play, text + 6, first,
                    cup_pump_thing(play->plan, play->plan->pump_count));
    play->failing[pump] = text[1] == 'f';
    return true;
}

static void check_out(const struct play *play, const char *text)
{
    char got[200] = "";
    size_t used = 0;
    for (cup_index i = 0; text && i < play->plan->pump_count; i++) {
        const char *name =
            cup_thing_name(play->plan, cup_pump_thing(play->plan, i));
        bool on = play->pins[i] != play->plan->pumps[i].active_low;
        if (play->plan->pumps[i].positional) {
            used += (size_t)snprintf(
                got + used, sizeof(got) - used, "%s%s=%d.%02d", i ? " " : "",
                name, play->places[i] / 100, play->places[i] % 100);
            continue;
        }
        if (!play->failing[i])
            CHECK_INT(on, cup_site_runs(&play->site, i));
        used += (size_t)snprintf(got + used, sizeof(got) - used, "%s%s=%d",
                                 i ? " " : "", name, on);
    }
    if (text)
        CHECK_TEXT(got, text);
}

static void pass(struct play *play)
{
    static const struct cup_port_table table = {.now_ms = now_ms,
                                                .sample = sample,
                                                .drive = drive,
                                                .supply = supply,
                                                .move = move,
                                                .tell = tell};
    struct cup_port port = {&table, play};
    uint32_t to_ms = play->now_ms;
    uint32_t left;
    while ((left = cup_site_warming(&play->site, play->before_ms)) <
           to_ms - play->before_ms) {
        play->now_ms = play->before_ms += left;
        CHECK_INT(cup_port_ask(&port, &play->site, play->now_ms), CUP_OK);
    }
    play->now_ms = play->before_ms = to_ms;
    bool fails = false;
    for (cup_index i = 0; i < play->plan->pump_count; i++)
        fails |= play->failing[i];
    CHECK_INT(cup_journal_pass(&play->journal, &play->site, &port),
              fails ? CUP_ERROR_PORT : CUP_OK);
    CHECK_INT(play->site.pass->journal, CUP_JOURNAL_WORKS);
}

/* The line of each row: the next after the title, or the row before, that
 * begins with its time. */
static void find_lines(const struct scenario *scenario, int *lines)
{
    char text[300], begins[80], title[200];
    bool found = false;
    size_t row = 0;
    FILE *in = fopen(scenario->file, "r");
    snprintf(title, sizeof(title), "SCENARIO(%s,", scenario->title);
    for (int line = 1;
         in && row < scenario->count && fgets(text, sizeof(text), in); line++) {
        found |= strncmp(text, title, strlen(title)) == 0;
        snprintf(begins, sizeof(begins), "{\"%s\"", scenario->rows[row].at);
        for (const char *at = text;
             found && row < scenario->count && (at = strstr(at, begins));
             at++) {
            lines[row++] = line;
            if (row < scenario->count)
                snprintf(begins, sizeof(begins), "{\"%s\"",
                         scenario->rows[row].at);
        }
    }
    if (in)
        fclose(in);
}

static void play_rows(struct play *play, const struct scenario *scenario,
                      const int *lines, uint32_t start_ms)
{
    const struct row *rows = scenario->rows;
    const size_t count = scenario->count;
    uint64_t at = 0;
    play->now_ms = start_ms;
    for (size_t i = 0; i < count; i++) {
        uint64_t to = time_of(rows[i].at);
        for (; i > 0 && at + play->plan->scan_ms < to;) {
            at += play->plan->scan_ms;
            play->now_ms = start_ms + (uint32_t)at;
            pass(play);
        }
        at = to;
        play->now_ms = start_ms + (uint32_t)at;
        harness_at("%s:%d: from %" PRIu32 ", at %s", scenario->file, lines[i],
                   start_ms, rows[i].at);
        set_raw(play, rows[i].raw);
        if (!act(play, rows[i].tell))
            steer(play, rows[i].tell);
        pass(play);
        if (rows[i].tell && *rows[i].tell == '?')
            ask_why(play, rows[i].tell + 1);
        check_out(play, rows[i].out);
        if (rows[i].events)
            CHECK_TEXT(play->events, rows[i].events);
        *play->events = '\0';
    }
    harness_at(NULL);
}

static void play_from(const struct scenario *scenario, const int *lines,
                      uint32_t start_ms)
{
    const char *text = scenario->text;
    struct play play = {0};
    FILE *in = fmemopen((void *)text, strlen(text), "r");
    play.file = cup_file_read_from(in, "site");
    fclose(in);
    play.plan = cup_file_plan(play.file);
    world_take_numbers(play.plan, text);
    if (!play.plan)
        cup_file_problems(play.file, stdout);
    if (CHECK(play.plan != NULL) && play.plan) {
        play.state = malloc(cup_site_size(play.plan));
        play.now_ms = start_ms;
        play.answers =
            calloc(play.plan->sensor_count + 1u, sizeof(*play.answers));
        play.pins = calloc(play.plan->pump_count + 1u, sizeof(*play.pins));
        play.failing =
            calloc(play.plan->pump_count + 1u, sizeof(*play.failing));
        play.places = calloc(play.plan->pump_count + 1u, sizeof(*play.places));
        play.store = flash_begin(&play.flash);
        for (cup_index i = 0; i < play.plan->sensor_count; i++)
            play.answers[i].reject = CUP_REASON_NO_ANSWER;
        reboot(&play);
        play_rows(&play, scenario, lines, start_ms);
        free(play.answers);
        free(play.pins);
        free(play.failing);
        free(play.places);
        free(play.state);
    }
    cup_file_free(play.file);
}

void scenario_play(const struct scenario *scenario)
{
    int *lines = calloc(scenario->count, sizeof(*lines));
    if (!lines)
        abort();
    find_lines(scenario, lines);
    play_from(scenario, lines, 0);
    play_from(scenario, lines, UINT32_MAX - 29999);
    free(lines);
}
