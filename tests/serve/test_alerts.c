/* Who is called, for what, and what is taken back: without a controller, a
 * modem or a clock to wait for. */
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../../serve/alerts/alerts.h"
#include "../../serve/alerts/queue.h"
#include "../harness/harness.h"

static char beside[100];
static struct alerts alerts;
static json_t *told;
static struct link_ear ear;
static json_int_t number;

static void take(void *self, json_t *alert)
{
    (void)self;
    json_array_append_new(told, alert);
}

static void open_all(void)
{
    alerts_open(&alerts, take, NULL, beside);
    ear = alerts_ear(&alerts, "plot");
}

static void hear(const char *text)
{
    json_error_t error;
    json_t *line = json_loads(text, 0, &error);
    if (CHECK(line != NULL))
        ear.heard(ear.self, line);
    json_decref(line);
}

static void begin(const char *name)
{
    snprintf(beside, sizeof(beside), "/tmp/cup_alerts.%s.%d", name,
             (int)getpid());
    told = json_array();
    number = 0;
    open_all();
    ear.up(ear.self, true);
    hear("{\"site\":{\"id\":\"plot-17\",\"name\":\"The plot\",\"run\":\"r1\","
         "\"things\":[{\"name\":\"low\",\"kind\":\"alert\","
         "\"say\":\"Fetch water.\"}]}}");
}

static void close_all(void)
{
    alerts_close(&alerts);
}

static void end(void)
{
    char path[140];
    close_all();
    json_decref(told);
    snprintf(path, sizeof(path), "%s.standing", beside);
    unlink(path);
}

/* An event that came just now. */
static void happen(const char *kind, const char *of, const char *reason)
{
    char text[400];
    snprintf(text, sizeof(text),
             "{\"event\":{\"number\":%d,\"kind\":\"%s\",\"of\":\"%s\","
             "\"reason\":\"%s\",\"why\":\"%s because\"}}",
             (int)++number, kind, of, reason, of);
    hear(text);
}

/* What was told since, a word each: "harm low", "over help low". */
static const char *told_since(void)
{
    static char text[400];
    size_t i;
    size_t used = 0;
    json_t *alert;
    *text = '\0';
    json_array_foreach(told, i, alert)
    {
        used += (size_t)snprintf(
            text + used, sizeof(text) - used, "%s%s%s %s", used ? ", " : "",
            json_is_true(json_object_get(alert, "over")) ? "over " : "",
            json_string_value(json_object_get(alert, "rank")),
            json_string_value(json_object_get(alert, "label")));
    }
    json_array_clear(told);
    return text;
}

static const char *last(const char *key)
{
    const json_t *alert = json_array_get(told, json_array_size(told) - 1);
    const char *text = json_string_value(json_object_get(alert, key));
    return text ? text : "";
}

CASE(each_thing_is_told_when_it_comes_and_when_it_is_over)
{
    begin("things");
    happen("alert", "low", "alert-below");
    CHECK_TEXT(last("to_do"), "Fetch water.");
    CHECK_TEXT(last("what"), "low because");
    CHECK_TEXT(last("site_name"), "The plot");
    happen("over", "low", "alert-below");
    happen("leak", "header", "leak");
    happen("alert", "kale_bed", "kept-off");
    CHECK(strstr(last("to_do"), "keeps it off") != NULL);
    happen("alert", "lift", "still-off");
    happen("trip", "lift", "no-fall");
    happen("trip", "lift", "no-fall"); /* the same thing */
    happen("lock", "lift", "locked");
    happen("clear", "lift", "cleared");
    happen("over", "kale_bed", "kept-off");
    happen("stop", "lift", "frost-cold");
    happen("stop", "lift", "above-stop");
    happen("over", "lift", "no-such-thing"); /* nobody was told of it */
    CHECK_TEXT(told_since(),
               "help low, over help low, harm header, help kale bed, choice "
               "lift, help lift, help lift, over help lift, over help kale "
               "bed, harm lift");
    end();
}

CASE(a_loose_wire_calls_nobody_at_once_and_one_that_stays_does)
{
    int64_t now = (int64_t)time(NULL);
    begin("wire");
    happen("quality", "soil", "reading-lost");
    alerts_look(&alerts, now + 60);
    happen("quality", "soil", "readable");
    alerts_look(&alerts, now + 600);
    CHECK_TEXT(told_since(), "");
    happen("quality", "soil", "reading-lost");
    happen("quality", "soil", "meanwhile");
    alerts_look(&alerts, now + 600);
    alerts_look(&alerts, now + 900);
    CHECK_TEXT(told_since(), "help soil");
    happen("quality", "soil", "readable");
    CHECK_TEXT(told_since(), "over help soil");
    end();
}

CASE(a_controller_that_is_gone_is_told_of_and_taken_back_over_a_start)
{
    int64_t now = (int64_t)time(NULL);
    begin("gone");
    ear.up(ear.self, false);
    alerts_look(&alerts, now + ALERTS_GONE_S - 10);
    CHECK_TEXT(told_since(), "");
    alerts_look(&alerts, now + ALERTS_GONE_S + 10);
    alerts_look(&alerts, now + INT64_C(3) * ALERTS_GONE_S);
    CHECK_TEXT(last("kind"), "gone");
    CHECK_TEXT(told_since(), "help The plot");
    close_all();
    open_all();
    alerts_look(&alerts, now + ALERTS_GONE_S + 10);
    CHECK_TEXT(told_since(), "");
    ear.up(ear.self, true);
    CHECK_TEXT(told_since(), "over help plot");
    end();
}

/* The broker, the modem, the history: as a controller. */
CASE(what_is_gone_of_this_machine_is_told_of_and_taken_back)
{
    static const struct alerts_own modem = {"modem", "it is gone", "it is back",
                                            "Look at its card."};
    int64_t now = (int64_t)time(NULL);
    begin("own");
    alerts_own(&alerts, &modem, true);
    alerts_own(&alerts, &modem, false);
    alerts_own(&alerts, &modem, false);
    alerts_look(&alerts, now + ALERTS_GONE_S - 10);
    alerts_own(&alerts, &modem, true);
    alerts_look(&alerts, now + INT64_C(2) * ALERTS_GONE_S);
    CHECK_TEXT(told_since(), ""); /* not for long enough */
    alerts_own(&alerts, &modem, false);
    close_all();
    open_all(); /* nobody looked meanwhile: it counts anew */
    ear.up(ear.self, true);
    alerts_look(&alerts, now + INT64_C(2) * ALERTS_GONE_S);
    CHECK_TEXT(told_since(), "");
    alerts_own(&alerts, &modem, false);
    alerts_look(&alerts, now + ALERTS_GONE_S + 10);
    alerts_look(&alerts, now + INT64_C(3) * ALERTS_GONE_S);
    CHECK(strncmp(last("what"), "it is gone since ", 17) == 0);
    CHECK_TEXT(last("to_do"), "Look at its card.");
    CHECK(strncmp(last("site_name"), "The machine ", 12) == 0);
    CHECK_TEXT(told_since(), "help modem");
    close_all();
    open_all();
    ear.up(ear.self, true);
    alerts_own(&alerts, &modem, false);
    hear("{\"event\":{\"number\":7,\"kind\":\"boot\",\"of\":\"site\"}}");
    hear("{\"now\":{\"standing\":[]}}");
    alerts_look(&alerts, now + 600); /* no controller ends it */
    CHECK_TEXT(told_since(), "");
    alerts_own(&alerts, &modem, true);
    CHECK_TEXT(last("what"), "it is back");
    CHECK(json_is_string(json_object_get(json_array_get(told, 0), "to_do")));
    CHECK_TEXT(told_since(), "over help modem");
    end();
}

/* Two that go at one moment, as with a switch that both hang from, are two. */
CASE(what_goes_at_once_is_told_of_apart)
{
    static const struct alerts_own own[] = {
        {"modem", "it is gone", "it is back", "Look at its card."},
        {"broker", "it is silent", "it answers", "Look at its network."}};
    char path[120];
    size_t i;
    json_t *one;
    struct queue queue;
    begin("both");
    snprintf(path, sizeof(path), "%s.queue", beside);
    queue_open(&queue, "post", path);
    alerts_own(&alerts, &own[0], false);
    alerts_own(&alerts, &own[1], false);
    alerts_look(&alerts, (int64_t)time(NULL) + ALERTS_GONE_S + 10);
    json_array_foreach(told, i, one)
    {
        queue_add(&queue, one);
        queue_add(&queue, one); /* told once more, after a start */
    }
    CHECK_INT(json_array_size(queue.list), 2);
    queue_close(&queue);
    unlink(path);
    end();
}

/* What stood before a start of the controller, and does not any more. */
CASE(what_a_start_ended_is_taken_back)
{
    int64_t now = (int64_t)time(NULL);
    begin("start");
    happen("alert", "low", "alert-below");
    happen("boot", "site", "power-on");
    hear("{\"now\":{\"standing\":[]}}");
    alerts_look(&alerts, now + 60); /* it may not have looked yet */
    CHECK_TEXT(told_since(), "help low");
    hear("{\"now\":{\"standing\":[{\"name\":\"low\"}]}}");
    alerts_look(&alerts, now + 300);
    CHECK_TEXT(told_since(), ""); /* it stands on */
    hear("{\"now\":{\"standing\":[]}}");
    alerts_look(&alerts, now + 301);
    CHECK_TEXT(last("to_do"), "");
    CHECK_TEXT(told_since(), "over help low");
    alerts_look(&alerts, now + 302);
    CHECK_TEXT(told_since(), "");
    end();
}

/* The queue */

static json_t *alert(const char *site, const char *rank, int of, bool over)
{
    char thing[20];
    snprintf(thing, sizeof(thing), "thing %d", of);
    return json_pack("{s:s, s:s, s:s, s:i, s:b}", "site", site, "rank", rank,
                     "thing", thing, "number", of * 2 + over, "over", over);
}

static void add(struct queue *queue, json_t *one)
{
    queue_add(queue, one);
    json_decref(one);
}

CASE(no_sites_alerts_use_up_anothers_and_harm_comes_first)
{
    char path[120];
    struct queue queue;
    snprintf(path, sizeof(path), "/tmp/cup_alerts.queue.%d", (int)getpid());
    queue_open(&queue, "post", path);
    add(&queue, alert("plot", "help", 1, false));
    for (int i = 0; i < 3 * QUEUE_MOST; i++)
        add(&queue, alert("rogue", "harm", i, false));
    CHECK_INT(json_array_size(queue.list), 1 + QUEUE_SHARE);
    add(&queue, alert("plot", "help", 2, false));
    add(&queue, alert("plot", "help", 3, false));
    add(&queue, alert("plot", "help", 2, true)); /* over before it was told */
    CHECK_INT(json_array_size(queue.list), 2 + QUEUE_SHARE);
    CHECK_TEXT(
        json_string_value(json_object_get(queue_next(&queue, true), "rank")),
        "harm");
    while (queue_next(&queue, true))
        json_array_remove(queue.list, 0);
    CHECK_INT(json_array_size(queue.list), 2);
    CHECK_INT(json_integer_value(
                  json_object_get(queue_next(&queue, false), "number")),
              2);
    queue_close(&queue);
    unlink(path);
}
