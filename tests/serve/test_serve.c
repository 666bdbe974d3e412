/* cuplatch-serve beside a garden that runs live: whatever becomes of it, its
 * disk and its file, what it keeps is what the controller told, once, and the
 * controller goes on. */
#include <jansson.h>
#include <math.h>
#include <sched.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/mount.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../history/read.h"
#include "../harness/harness.h"
#include "programs.h"

/* CUPLATCH_KILLS in the environment may say more. */
#define KILLS 12

static void begin(const char *name)
{
    folder_begin(name);
    FILE *out = fopen(in_dir("serve.ini"), "w");
    fprintf(out, "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n",
            in_dir("socket"), in_dir("history.db"));
    fclose(out);
}

static const char *site_file = GARDEN "/keeper.ini";

static pid_t start_garden(void)
{
    return start_garden_of(site_file, "20000");
}

/* Events of the history, held against those that the garden recorded. */
struct telling {
    FILE *record;
    long count;
    bool same;
};

static void compare(void *self, const char *of,
                    const struct history_event *event)
{
    struct telling *telling = self;
    char line[2000];
    telling->count++;
    if (!fgets(line, sizeof(line), telling->record)) {
        telling->same = false;
        return;
    }
    json_t *json = json_loads(line, 0, NULL);
    const char *kind = json_string_value(json_object_get(json, "kind"));
    const char *why = json_string_value(json_object_get(json, "why"));
    const char *named = json_string_value(json_object_get(json, "of"));
    telling->same = telling->same && kind && named &&
                    strcmp(kind, event->kind) == 0 && strcmp(named, of) == 0 &&
                    strcmp(why ? why : "", event->why ? event->why : "") == 0;
    json_decref(json);
}

static void take_site(void *self, const struct history_site_row *row)
{
    *(int64_t *)self = row->site;
}

static struct history *open_history(void)
{
    char said[4400];
    struct history *history =
        history_open(in_dir("history.db"), HISTORY_READ, said, sizeof(said));
    harness_at("%s", said);
    if (!CHECK(history != NULL))
        exit(1);
    harness_at(NULL);
    return history;
}

/* The first events of the record, in order, none twice and none left out; how
 * many. */
static long check_events(void)
{
    int64_t site = 0;
    struct history_span all = {0, INT64_MAX / 2};
    struct history *history = open_history();
    struct telling telling = {fopen(in_dir("record/events.jsonl"), "r"), 0,
                              true};
    CHECK(history_sites(history, take_site, &site));
    CHECK(history_events(history, site, all, compare, &telling));
    CHECK(telling.same);
    fclose(telling.record);
    history_close(history);
    return telling.count;
}

/* Runs whose end is not known, though it was told. */
struct runs {
    int count;
    int open;
};

static void add_run(void *self, const struct history_run_row *row)
{
    struct runs *runs = self;
    runs->count++;
    runs->open += isnan(row->seconds);
}

static struct history *reading;

static void add_pump(void *self, int64_t number,
                     const struct history_thing *thing)
{
    struct history_span all = {0, INT64_MAX / 2};
    if (strcmp(thing->kind, "pump") == 0)
        CHECK(history_runs(reading, number, all, add_run, self));
}

/* All but those that were under way at the end. */
static void check_runs(void)
{
    struct runs runs = {0, 0};
    reading = open_history();
    CHECK(history_things(reading, 1, add_pump, &runs));
    CHECK(runs.count > 20);
    CHECK(runs.open <= 3);
    history_close(reading);
}

CASE(what_is_kept_is_what_was_told_however_often_it_is_killed)
{
    begin("killed");
    const char *more = getenv("CUPLATCH_KILLS");
    int kills = more ? atoi(more) : KILLS;
    pid_t garden = start_garden();
    srand(7);
    for (int i = 0; i < kills; i++) {
        pid_t serve = start_serve(0);
        nap(150 + rand() % 1400);
        CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    }
    pid_t serve = start_serve(0);
    CHECK(wait_log("is there"));
    nap(2500);
    CHECK_INT(finish(garden, SIGTERM), 0); /* it never noticed */
    CHECK(wait_log("went away"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    long recorded = count_lines("record/events.jsonl");
    long kept = check_events();
    check_runs();
    /* of the last second of the garden nobody could hear */
    CHECK(kept > 100 && kept >= recorded - 60);
    folder_end();
}

/* A disk of its own for the history, so large; false where this machine lets
 * nobody have one. The process has its own mounts from then on. */
static bool small_disk(const char *size)
{
    char options[40];
    snprintf(options, sizeof(options), "size=%s", size);
    if (unshare(CLONE_NEWNS) != 0 ||
        mount("none", "/", NULL, MS_REC | MS_PRIVATE, NULL) != 0)
        return false;
    mkdir(in_dir("disk"), 0700);
    return mount("small", in_dir("disk"), "tmpfs", 0, options) == 0 &&
           symlink("disk/history.db", in_dir("history.db")) == 0;
}

CASE(a_disk_that_has_room_again_is_written_on_without_a_restart)
{
    begin("disk");
    if (!small_disk("300k")) {
        printf("  no disk of its own is to be had here\n");
        folder_end();
        return;
    }
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is full; trying again"));
    CHECK_INT(mount("small", in_dir("disk"), "tmpfs", MS_REMOUNT, "size=64m"),
              0);
    nap(6000);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK(check_events() > 100);
    CHECK_INT(umount(in_dir("disk")), 0);
    folder_end();
}

CASE(a_file_that_may_not_grow_is_told_and_nothing_is_lost_by_it)
{
    begin("full");
    pid_t garden = start_garden();
    pid_t serve = start_serve(120000);
    CHECK(wait_log("disk I/O error; trying again"));
    nap(1500);
    CHECK_INT(finish(serve, SIGTERM), 0);
    serve = start_serve(0);
    nap(3500);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK(check_events() > 100);
    folder_end();
}

CASE(a_file_that_is_none_is_set_aside_and_the_events_are_asked_for_again)
{
    begin("broken");
    char none[901];
    snprintf(none, sizeof(none), "%0900d", 7);
    write_text("history.db", none);
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("set aside"));
    CHECK(wait_log("is there"));
    nap(2500);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK(check_events() > 20);
    folder_end();
}

/* Levels of a day, as they are kept. */
static void add(void *self, const struct history_level *row)
{
    double *seconds = self;
    if (!isnan(row->mean))
        *seconds += row->seconds;
}

/* Somebody removes it, or empties it, while it is in use. */
CASE(a_file_that_is_taken_away_is_begun_anew)
{
    begin("away");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is there"));
    nap(2500);
    CHECK_INT(unlink(in_dir("history.db")), 0);
    CHECK(wait_log("was taken away, or emptied"));
    bool again = false;
    for (int i = 0; i < WAIT_MS / 100 && !again; i++) {
        nap(100);
        again = access(in_dir("history.db"), R_OK) == 0;
    }
    CHECK(again);
    nap(2500);
    CHECK_INT(finish(garden, SIGTERM), 0);
    nap(1500);
    CHECK_INT(finish(serve, SIGTERM), 0);
    char said[200];
    struct history *history =
        history_open(in_dir("history.db"), HISTORY_READ, said, sizeof(said));
    struct history_span all = {0, INT64_MAX / 2};
    double seconds = 0;
    if (CHECK(history != NULL) && history) {
        CHECK(history_levels(history, 1, all, add, &seconds));
        CHECK(seconds > 3600);
        history_close(history);
    }
    folder_end();
}

CASE(levels_and_things_are_those_of_the_site)
{
    double seconds = 0;
    struct history_span all = {0, INT64_MAX / 2};
    begin("levels");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is there"));
    nap(3000);
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    struct history *history = open_history();
    CHECK(history_levels(history, 1, all, add, &seconds));
    CHECK(seconds > 6 * 3600.0);
    history_close(history);
    folder_end();
}

/* The post */

/* A garden that says all day long that its header is low, and a command that
 * says what it got into a file: it refuses while there is a "refuse", hangs
 * while there is a "hang". */
static void begin_post(void)
{
    begin("post");
    site_file = site_that_calls();
    FILE *out = fopen(in_dir("page-me"), "w");
    fprintf(out,
            "#!/bin/sh\n[ -e %s/refuse ] && exit 3\n"
            "[ -e %s/hang ] && { sleep 600 & echo $! >%s/child; wait; }\n"
            "cat >>%s/said\n",
            dir, dir, dir, dir);
    fclose(out);
    chmod(in_dir("page-me"), 0700);
    out = fopen(in_dir("serve.ini"), "a");
    fprintf(out, "\n[post]\ncommand = %s now\n", in_dir("page-me"));
    fclose(out);
}

/* Alerts in a file of JSON lines, up to a number. */
static int count_alerts(const char *name, json_int_t last)
{
    char line[4000];
    int count = 0;
    FILE *in = fopen(in_dir(name), "r");
    while (in && fgets(line, sizeof(line), in)) {
        json_t *json = json_loads(line, 0, NULL);
        const char *kind = json_string_value(json_object_get(json, "kind"));
        json_int_t number = json_integer_value(json_object_get(json, "number"));
        bool alert =
            kind && (strcmp(kind, "alert") == 0 || strcmp(kind, "trip") == 0 ||
                     strcmp(kind, "lock") == 0 || strcmp(kind, "leak") == 0);
        count += alert && number <= last;
        json_decref(json);
    }
    if (in)
        fclose(in);
    return count;
}

/* What was said: each with a higher number than the one before, of which site
 * and rank; the last number, and how many came. */
static json_int_t check_said(int *count)
{
    char line[4000];
    json_int_t last = 0;
    FILE *in = fopen(in_dir("said"), "r");
    *count = 0;
    while (in && fgets(line, sizeof(line), in)) {
        json_t *json = json_loads(line, 0, NULL);
        json_int_t number = json_integer_value(json_object_get(json, "number"));
        CHECK(number > last);
        CHECK_TEXT(json_string_value(json_object_get(json, "site")), "keeper");
        CHECK(json_string_value(json_object_get(json, "what")) != NULL);
        CHECK(json_string_value(json_object_get(json, "rank")) != NULL);
        CHECK(json_is_integer(json_object_get(json, "since")));
        last = number;
        *count += !json_is_true(json_object_get(json, "over"));
        json_decref(json);
    }
    if (in)
        fclose(in);
    return last;
}

static bool wait_said(int least)
{
    int count = 0;
    for (int i = 0; i < WAIT_MS / 50 && count < least; i++) {
        nap(50);
        check_said(&count);
    }
    return count >= least;
}

CASE(each_alert_goes_to_the_command_once_however_that_goes)
{
    int said;
    begin_post();
    write_text("refuse", "");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("ended with 3; again in 10 s"));
    nap(1500);
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    unlink(in_dir("refuse"));
    serve = start_serve(0);
    CHECK(wait_said(3)); /* those that were refused are not lost */
    write_text("hang", "");
    nap(4000);
    CHECK_INT(finish(serve, SIGTERM), 0); /* it waits for nobody */
    unlink(in_dir("hang"));
    serve = start_serve(0);
    nap(3000);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away"));
    nap(1500);
    CHECK_INT(finish(serve, SIGTERM), 0);
    json_int_t last = check_said(&said);
    CHECK(said >= 5);
    CHECK_INT(count_alerts("record/events.jsonl", last), said);
    site_file = GARDEN "/keeper.ini";
    folder_end();
}

/* Whether a process is there, other than as what nobody has asked after yet. */
static bool runs(int pid)
{
    char path[60];
    char state = 'Z';
    snprintf(path, sizeof(path), "/proc/%d/stat", pid);
    FILE *in = fopen(path, "r");
    if (!in)
        return false;
    CHECK(fscanf(in, "%*d (%*[^)]) %c", &state) == 1);
    fclose(in);
    return state != 'Z';
}

CASE(a_command_that_hangs_is_ended_with_all_that_it_started)
{
    int said;
    int child = 0;
    begin_post();
    write_text("hang", "");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("took longer than 30 s, or was ended; again in 10 s"));
    unlink(in_dir("hang"));
    FILE *in = fopen(in_dir("child"), "r");
    CHECK(in && fscanf(in, "%d", &child) == 1 && child > 0);
    if (in)
        fclose(in);
    CHECK(!runs(child));
    CHECK(wait_said(1)); /* the same alert, after the pause */
    CHECK_INT(finish(garden, SIGTERM), 0);
    int recorded = count_alerts("record/events.jsonl", 0);
    CHECK(wait_said(recorded));
    CHECK_INT(finish(serve, SIGTERM), 0);
    check_said(&said);
    CHECK_INT(said, recorded);
    site_file = GARDEN "/keeper.ini";
    folder_end();
}

/* What --try says, and its exit code. */
static int tries(char *said, size_t size)
{
    const char *const words[] = {SERVE, in_dir("serve.ini"), "--try", NULL};
    int status = -1;
    unlink(in_dir("try.out"));
    waitpid(start(words, "try.out", 0), &status, 0);
    FILE *in = fopen(in_dir("try.out"), "r");
    size_t length = in ? fread(said, 1, size - 1, in) : 0;
    if (in)
        fclose(in);
    said[length] = '\0';
    return WIFEXITED(status) ? WEXITSTATUS(status) : -1;
}

CASE(a_trial_by_the_service_says_what_came_of_it)
{
    char said[500];
    begin_post();
    pid_t serve = start_serve(0);
    CHECK_INT(tries(said, sizeof(said)), 0);
    CHECK_TEXT(said, "post: sent\n");
    write_text("refuse", "");
    CHECK_INT(tries(said, sizeof(said)), 1);
    CHECK_TEXT(said, "post: ended with 3\n");
    CHECK_INT(finish(serve, SIGTERM), 0);
    site_file = GARDEN "/keeper.ini";
    folder_end();
}
