/* What a history does while this machine's clock is not set: nothing is dated
 * by it, and nothing is folded; and all of it once it is set. */
#include <event2/event.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../../history/history.h"
#include "../../history/read.h"
#include "../../ports/common/wall.h"
#include "../../serve/past/past.h"
#include "../harness/harness.h"

/* In place of the kernel's word. */
static bool right;

bool wall_is_right(void)
{
    return right;
}

/* A controller that is asked again. */
struct end {
    struct link link;
    int agains;
};

static void again(struct link *link)
{
    ((struct end *)link)->agains++;
}

static char path[100];
static struct event_base *base;
static struct past *past;
static struct link_ear ear;
static struct end end;

static void begin(bool trusts_clock)
{
    const struct past_config config = {
        .file = path, .minutes_s = 86400, .trusts_clock = trusts_clock};
    snprintf(path, sizeof(path), "/tmp/cup_clock.%d.db", (int)getpid());
    unlink(path);
    base = event_base_new();
    past = past_open(base, &config);
    ear = past_ear(past, "keeper", false);
    end = (struct end){.link = {.there = true, .again = again}};
    past_link(past, &ear, &end.link);
}

static void finish(void)
{
    past_close(past);
    event_base_free(base);
}

static void hear(json_t *line)
{
    ear.heard(ear.self, line);
    json_decref(line);
}

static void say_site(void)
{
    char run[70];
    ear.up(ear.self, true);
    (void)ear.since(ear.self, "keeper", run);
    hear(json_pack("{s:{s:s, s:s, s:s, s:[{s:s, s:s, s:s}]}}", "site", "id",
                   "keeper", "name", "Keeper", "run", "r1", "things", "name",
                   "header", "kind", "tank", "unit", "%"));
}

/* Event `number`; `utc` 0: it says no time of its own. */
static void say_event(int number, int64_t utc)
{
    json_t *event =
        json_pack("{s:i, s:i, s:s, s:s, s:s, s:s}", "number", number, "t_ms", 5,
                  "kind", "boot", "of", "site", "reason", "power-on", "why",
                  "the controller started");
    if (utc > 0)
        json_object_set_new(event, "utc", json_integer((json_int_t)utc));
    hear(json_pack("{s:o}", "event", event));
}

static void count(void *self, const char *of, const struct history_event *event)
{
    (void)of, (void)event;
    ++*(int *)self;
}

/* How many events are kept. */
static int events(void)
{
    char said[200];
    int found = 0;
    struct history *history =
        history_open(path, HISTORY_READ, said, sizeof(said));
    if (!history)
        return -1;
    (void)history_events(history, 1, (struct history_span){0, INT64_MAX / 4},
                         count, &found);
    history_close(history);
    return found;
}

CASE(nothing_is_dated_by_a_clock_that_is_not_set)
{
    right = false;
    begin(false);
    say_site();
    say_event(0, 1900000000);
    say_event(1, 0); /* nobody knows when that was, nor what comes after it */
    say_event(2, 1900000060);
    struct timeval soon = {.tv_sec = 2};
    event_base_loopexit(base, &soon);
    event_base_dispatch(base);
    CHECK_INT(end.agains, 0);
    right = true; /* the time server was reached */
    event_base_loopexit(base, &soon);
    event_base_dispatch(base);
    CHECK_INT(end.agains, 1);
    /* it comes again, and says what it was asked for */
    char run[70];
    ear.up(ear.self, false);
    ear.up(ear.self, true);
    CHECK_INT(ear.since(ear.self, "keeper", run), 0);
    say_event(1, 0);
    say_event(2, 1900000060);
    finish();
    CHECK_INT(events(), 3);
    unlink(path);
}

CASE(one_that_is_trusted_dates_at_once)
{
    right = false;
    begin(true);
    say_site();
    say_event(0, 0);
    say_event(1, 0);
    finish();
    CHECK_INT(end.agains, 0);
    CHECK_INT(events(), 2);
    unlink(path);
}
