/* Words from outside on their way: which go on, to whom, and what is answered.
 * The controller at the other end is a list of lines. */
#include <event2/event.h>
#include <string.h>
#include <time.h>

#include "../../serve/words/words.h"
#include "../harness/harness.h"

/* The last line, and how many there were. */
struct end {
    struct link link;
    json_t *line;
    int lines;
};

static void take(struct link *link, json_t *line)
{
    struct end *end = (struct end *)link;
    json_decref(end->line);
    end->line = line;
    end->lines++;
}

/* What came of it. */
struct heard {
    enum words_end end;
    char why[120];
    int times;
};

static void hear(void *self, enum words_end end, json_t *answer)
{
    struct heard *heard = self;
    const char *error = json_string_value(json_object_get(answer, "error"));
    heard->end = end;
    snprintf(heard->why, sizeof(heard->why), "%s", error ? error : "");
    heard->times++;
    json_decref(answer);
}

static struct event_base *base;
static struct words_desk *desk;
static struct end end;

static void begin(bool trusts_clock)
{
    base = event_base_new();
    desk = words_open(base, NULL, NULL, trusts_clock);
    end = (struct end){.link = {.there = true, .say = take}};
}

static void finish(void)
{
    words_close(desk);
    json_decref(end.line);
    event_base_free(base);
}

static void say_as(struct heard *heard, const char *by, const char *id,
                   int64_t ago_s, const char *kind, const char *word)
{
    const struct words_from from = {
        .site = "keeper", .by = by, .answer = hear, .self = heard};
    json_t *body = json_pack("{s:s, s:I, s:[s]}", "id", id, "t",
                             (json_int_t)(time(NULL) - ago_s), kind, word);
    words_say(desk, &end.link, &from, body);
    json_decref(body);
}

static void say(struct heard *heard, const char *id, int64_t ago_s,
                const char *word)
{
    say_as(heard, "mara", id, ago_s, "tell", word);
}

static const char *said(const char *key)
{
    const char *text = json_string_value(json_object_get(end.line, key));
    return text ? text : "";
}

CASE(a_word_goes_to_its_controller_and_its_answer_back)
{
    struct heard heard = {.times = 0};
    begin(true);
    say(&heard, "one", 0, "lift auto");
    CHECK_INT(end.lines, 1);
    CHECK_TEXT(said("by"), "mara");
    CHECK_TEXT(
        json_string_value(json_array_get(json_object_get(end.line, "tell"), 0)),
        "lift auto");
    CHECK_INT(heard.times, 0);
    json_int_t number = json_integer_value(json_object_get(end.line, "id"));
    /* what another says under its number is nobody's */
    struct end other = {.link = {.there = true, .say = take}};
    json_t *answer = json_pack("{s:I, s:b}", "id", number, "done", 1);
    words_answered(desk, &other.link, answer);
    CHECK_INT(heard.times, 0);
    words_answered(desk, &end.link, answer);
    CHECK_INT(heard.times, 1);
    CHECK_INT(heard.end, WORDS_DONE);
    words_answered(desk, &end.link, answer); /* once */
    CHECK_INT(heard.times, 1);
    json_decref(answer);
    finish();
}

CASE(what_is_old_or_known_does_not_count_but_what_only_stops_does)
{
    struct heard heard = {.times = 0};
    begin(true);
    say(&heard, "one", WORDS_OLD_S + 5, "lift auto");
    CHECK_INT(heard.end, WORDS_LATE);
    say(&heard, "two", -WORDS_OLD_S - 5, "lift auto");
    CHECK_INT(heard.end, WORDS_LATE);
    CHECK_INT(end.lines, 0);
    say(&heard, "three", 0, "lift auto");
    CHECK_INT(end.lines, 1);
    say(&heard, "three", 0, "lift auto");
    CHECK_INT(heard.end, WORDS_LATE);
    CHECK_INT(end.lines, 1);
    say(&heard, "four", 1000000, "lift off");
    say(&heard, "four", 1000000, "site hold");
    CHECK_INT(end.lines, 3);
    say_as(&heard, "mara", "five", 1000000, "ask", "levels");
    CHECK_INT(end.lines, 4);
    CHECK(words_stop("lift off") && words_stop("site hold"));
    CHECK(!words_stop("lift offer") && !words_stop("site go") &&
          !words_stop("off") && !words_stop("lift auto off"));
    finish();
}

CASE(what_has_not_the_shape_is_said_so)
{
    static const char *const wrong[] = {
        "{}",
        "{\"id\": 5, \"t\": 0, \"tell\": [\"lift off\"]}",
        "{\"id\": \"a\", \"tell\": [\"lift off\"]}",
        "{\"id\": \"a\", \"t\": \"now\", \"tell\": [\"lift off\"]}",
        "{\"id\": \"a\", \"t\": 0, \"tell\": []}",
        "{\"id\": \"a\", \"t\": 0, \"tell\": \"lift off\"}",
        "{\"id\": \"a\", \"t\": 0, \"tell\": [\"\"]}",
        "{\"id\": \"a\", \"t\": 0, \"tell\": [\"lift\\noff\"]}",
        "{\"id\": \"a\", \"t\": 0, \"tell\": [\"lift off\", 7]}",
        "{\"id\": \"\", \"t\": 0, \"tell\": [\"lift off\"]}",
        "[]"};
    begin(true);
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++) {
        struct heard heard = {.times = 0};
        const struct words_from from = {
            .by = "mara", .answer = hear, .self = &heard};
        json_t *body = json_loads(wrong[i], 0, NULL);
        harness_at("%s", wrong[i]);
        CHECK(body != NULL);
        words_say(desk, &end.link, &from, body);
        CHECK_INT(heard.end, WORDS_WRONG);
        CHECK(*heard.why != '\0');
        json_decref(body);
    }
    harness_at(NULL);
    CHECK_INT(end.lines, 0);
    finish();
}

CASE(nobody_there_and_too_many)
{
    struct heard heard = {.times = 0};
    char id[20];
    begin(true);
    end.link.there = false;
    say(&heard, "one", 0, "lift auto");
    CHECK_INT(heard.end, WORDS_AWAY);
    end.link.there = true;
    say(&heard, "one", 0, "lift auto"); /* it had not counted */
    CHECK_INT(end.lines, 1);
    for (int i = 1; i < WORDS_WAITING; i++) {
        snprintf(id, sizeof(id), "more.%d", i);
        say(&heard, id, 0, "lift auto");
    }
    CHECK_INT(end.lines, WORDS_WAITING);
    CHECK_INT(heard.times, 1);
    say(&heard, "last", 0, "lift auto");
    CHECK_INT(heard.end, WORDS_BUSY);
    CHECK_INT(end.lines, WORDS_WAITING);
    finish(); /* and who waits is told so */
    CHECK_INT(heard.times, 2 + WORDS_WAITING);
    CHECK_INT(heard.end, WORDS_SILENT);
}

CASE(whoever_calls_himself_what_is_plain_letters)
{
    struct heard heard = {.times = 0};
    begin(true);
    say_as(&heard, "mara\033[2J\n\xC3\xA9", "one", 0, "tell", "lift auto");
    CHECK_TEXT(said("by"), "mara?[2J???");
    say_as(&heard,
           "somebody of a very long name that goes on and on and on and on",
           "two", 0, "tell", "lift auto");
    CHECK_INT(strlen(said("by")), 39);
    finish();
}
