/* A history keeps what was said of levels, runs and events, whatever becomes of
 * its writer, its disk and its file. */
#include <math.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../history/gather.h"
#include "../../history/outbox.h"
#include "../../history/read.h"
#include "../../serve/past/taker.h"
#include "../harness/harness.h"

/* Noon of a day in April, 2031. */
#define NOON INT64_C(1933761600)
#define HOURS INT64_C(3600)
#define DAYS INT64_C(86400)

static char path[100];

static void begin(const char *name)
{
    snprintf(path, sizeof(path), "/tmp/cup_history.%s.%d", name, (int)getpid());
    unlink(path);
}

static void end(void)
{
    char command[400];
    snprintf(command, sizeof(command), "rm -rf %s %s-* %s.broken*", path, path,
             path);
    CHECK_INT(system(command), 0);
}

static struct history *open_history(void)
{
    char said[4400];
    struct history *history =
        history_open(path, HISTORY_WRITE, said, sizeof(said));
    CHECK_TEXT(said, "");
    if (!CHECK(history != NULL))
        exit(1);
    return history;
}

static const struct history_thing soil = {.name = "kale_soil",
                                          .kind = "sensor",
                                          .unit = "%",
                                          .steps = 100,
                                          .start = NAN,
                                          .stop = NAN};
static const struct history_thing lift = {.name = "lift",
                                          .kind = "pump",
                                          .steps = 1,
                                          .start = NAN,
                                          .stop = NAN,
                                          .flow = 12};

static struct gather *open_gather(struct history *history)
{
    CHECK(history_begin(history));
    int64_t site = history_site(history, "keeper", "Keeper", NULL, false);
    CHECK_INT(site, 1);
    struct gather *gather = gather_open(history, site);
    CHECK(gather_thing(gather, &soil));
    CHECK(gather_thing(gather, &lift));
    return gather;
}

/* Everything that was written of the first thing, added up. */
struct sums {
    int rows;
    double seconds, sum, least, most, lost_s;
    uint64_t samples, rejects;
    int64_t first, last;
};

static void add(void *self, const struct history_level *row)
{
    struct sums *sums = self;
    if (sums->rows++ == 0)
        sums->first = row->at;
    CHECK(row->at >= sums->last);
    sums->last = row->at + row->seconds;
    sums->samples += row->samples;
    sums->rejects += row->rejects;
    if (isnan(row->mean)) {
        sums->lost_s += row->seconds;
        return;
    }
    CHECK(row->least <= row->mean && row->mean <= row->most);
    sums->sum += row->mean * row->seconds;
    sums->seconds += row->seconds;
    sums->least = fmin(sums->least, row->least);
    sums->most = fmax(sums->most, row->most);
}

static struct sums sums_of(struct history *history)
{
    struct sums sums = {.least = 1e9, .most = -1e9};
    struct history_span all = {0, INT64_MAX / 2};
    CHECK(history_levels(history, 1, all, add, &sums));
    return sums;
}

static bool say(struct gather *gather, int64_t at, double value)
{
    const struct gather_level level = {.value = value,
                                       .quality = "good",
                                       .samples = 2,
                                       .rejects = at % 10 == 0};
    return gather_level(gather, 0, at, &level);
}

CASE(minutes_that_are_alike_are_one_row_and_nothing_is_lost_by_it)
{
    begin("alike");
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    double sum = 0;
    /* six hours: still, then falling, with a spike of one second in between */
    for (int s = 0; s < 6 * 3600; s++) {
        double value = s < 3 * 3600 ? 50.25 : 50.25 - (s - 3 * 3600) / 720.0;
        if (s == 4000)
            value = 61.5;
        sum += value;
        CHECK(say(gather, NOON + s, value));
    }
    CHECK(gather_until(gather, NOON + 6 * HOURS));
    CHECK(gather_gap(gather));
    CHECK(history_commit(history));
    struct sums sums = sums_of(history);
    CHECK(sums.rows >= 6 && sums.rows < 40);
    CHECK_INT(sums.first, NOON);
    CHECK_INT(sums.last, NOON + 6 * HOURS);
    CHECK(fabs(sums.seconds - 6 * 3600) < 0.5);
    CHECK(fabs(sums.sum / sums.seconds - sum / (6 * 3600)) < 0.01);
    CHECK(fabs(sums.most - 61.5) < 0.01);
    CHECK(fabs(sums.least - (50.25 - (3 * 3600 - 1) / 720.0)) < 0.01);
    CHECK_INT(sums.samples, 12 * HOURS);
    CHECK_INT(sums.rejects, 6 * HOURS / 10);
    gather_close(gather);
    history_close(history);
    end();
}

CASE(what_nobody_heard_is_a_gap_and_what_is_lost_is_no_level)
{
    static const struct gather_level lost = {.value = NAN, .quality = "lost"};
    begin("gap");
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    CHECK(say(gather, NOON, 40));
    CHECK(gather_level(gather, 0, NOON + 600, &lost));
    CHECK(gather_until(gather, NOON + 900));
    CHECK(gather_gap(gather));
    CHECK(say(gather, NOON + 7200, 41));
    CHECK(gather_until(gather, NOON + 7500));
    CHECK(say(gather, NOON - 100, 12)); /* a clock that went back */
    CHECK(gather_until(gather, NOON + 7800));
    CHECK(gather_gap(gather));
    CHECK(history_commit(history));
    struct sums sums = sums_of(history);
    CHECK(fabs(sums.seconds - 1200) < 61);
    CHECK(fabs(sums.lost_s - 300) < 61);
    CHECK(fabs(sums.most - 41) < 0.01);
    gather_close(gather);
    history_close(history);
    end();
}

static bool take(struct taker *taker, const char *form, int64_t at, int count)
{
    char text[300];
    snprintf(text, sizeof(text), form, (long long)at, count);
    json_t *line = json_loads(text, 0, NULL);
    bool done = CHECK(line != NULL) && taker_line(taker, line, at);
    json_decref(line);
    return done;
}

CASE(a_controller_that_comes_back_is_counted_on_and_no_minute_twice)
{
    static const char site[] =
        "{\"site\": {\"id\": \"keeper\", \"name\": \"Keeper\", \"things\":"
        " [{\"name\": \"soil\", \"kind\": \"sensor\", \"unit\": \"%%\"}]}}";
    static const char now[] =
        "{\"now\": {\"utc\": %lld, \"levels\": {\"soil\": {\"value\": 40,"
        " \"quality\": \"good\", \"samples\": %d, \"rejects\": 0}}}}";
    begin("back");
    struct history *history = open_history();
    CHECK(history_begin(history));
    struct taker *taker = taker_open(history);
    /* a thousand came before anybody listened */
    CHECK(take(taker, site, NOON, 0) && take(taker, now, NOON, 1000));
    CHECK(take(taker, now, NOON + 200, 1010));
    CHECK(taker_gone(taker));
    taker_close(taker); /* ten seconds later another takes over */
    taker = taker_open(history);
    CHECK(take(taker, site, NOON, 0) && take(taker, now, NOON + 210, 1011));
    CHECK(take(taker, now, NOON + 600, 1030) && taker_gone(taker));
    struct sums sums = sums_of(history);
    CHECK_INT(sums.samples, 10 + 19);
    CHECK(fabs(sums.seconds - 600) < 1);
    CHECK_INT(sums.last, NOON + 600);
    taker_close(taker);
    CHECK(history_commit(history));
    history_close(history);
    end();
}

/* Days of a level that wanders, committed each hour. */
static void write_days(struct history *history, int days)
{
    struct gather *gather = open_gather(history);
    for (int s = 0; s < days * 86400; s += 20) {
        CHECK(say(gather, NOON + s, 50 + 20 * sin(s / 9000.0)));
        if (s % 3600 == 0)
            CHECK(history_commit(history) && history_begin(history));
    }
    CHECK(gather_until(gather, NOON + days * DAYS));
    CHECK(gather_gap(gather));
    CHECK(history_commit(history));
    gather_close(gather);
}

CASE(old_minutes_become_hours_that_say_the_same)
{
    bool more = true;
    int folds = 0;
    begin("fold");
    struct history *history = open_history();
    write_days(history, 5);
    struct sums before = sums_of(history);
    while (more && folds++ < 20)
        CHECK(history_fold(history, NOON + 3 * DAYS, 0, &more));
    struct sums after = sums_of(history);
    CHECK(folds > 2 && folds < 6);
    CHECK(after.rows < before.rows);
    CHECK(fabs(after.seconds - before.seconds) < 1);
    CHECK(fabs(after.sum - before.sum) / before.seconds < 0.01);
    CHECK(fabs(after.least - before.least) < 1e-6);
    CHECK(fabs(after.most - before.most) < 1e-6);
    CHECK_INT(after.samples, before.samples);
    CHECK_INT(after.rejects, before.rejects);
    /* one that is too large loses its oldest minutes, never its hours */
    for (int i = 0; i < 20; i++)
        CHECK(history_fold(history, NOON, 1, &more));
    struct sums least = sums_of(history);
    CHECK(least.rows < after.rows);
    CHECK_INT(least.first, after.first);
    history_close(history);
    end();
}

/* Runs and events */

static void take_run(void *self, const struct history_run_row *row)
{
    struct history_run_row *to = self;
    *to = *row;
    to->began_by = strcmp(row->began_by, "below-start") == 0 ? "yes" : "no";
}

static struct gather_event event(int64_t at, uint32_t ms, const char *kind,
                                 const char *reason)
{
    return (struct gather_event){.at = at,
                                 .ms = ms,
                                 .kind = kind,
                                 .of = "lift",
                                 .reason = reason,
                                 .value = NAN,
                                 .mark = NAN,
                                 .why = "because"};
}

CASE(a_run_is_as_long_as_the_site_says_even_where_its_time_wraps)
{
    struct history_run_row run = {.began = 0};
    struct history_span all = {0, INT64_MAX / 2};
    begin("runs");
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    struct gather_event starts =
        event(NOON, UINT32_MAX - 4499, "start", "below-start");
    struct gather_event stops = event(NOON + 91, 86000, "stop", "above-stop");
    CHECK(gather_event(gather, &starts));
    CHECK(gather_event(gather, &stops));
    CHECK(history_runs(history, 2, all, take_run, &run));
    CHECK(fabs(run.seconds - 90.5) < 1e-9);
    CHECK(fabs(run.litres - 18.1) < 1e-9);
    CHECK_TEXT(run.began_by, "yes");
    /* the controller died in the next: nobody knows when it ended */
    struct gather_event again =
        event(NOON + 200, 200000, "start", "below-start");
    struct gather_event boot = event(NOON + 300, 0, "boot", "power-on");
    struct gather_event late = event(NOON + 400, 100000, "stop", "above-stop");
    boot.of = "site";
    CHECK(gather_event(gather, &again) && gather_event(gather, &boot) &&
          gather_event(gather, &late));
    CHECK(history_runs(history, 2, all, take_run, &run));
    CHECK_INT(run.began, NOON + 200);
    CHECK(isnan(run.seconds));
    CHECK(history_commit(history));
    gather_close(gather);
    history_close(history);
    end();
}

CASE(a_run_under_way_is_ended_by_whoever_takes_over)
{
    struct history_run_row run = {.began = 0};
    struct history_span all = {0, INT64_MAX / 2};
    begin("over");
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    struct gather_event starts = event(NOON, 5000, "start", "below-start");
    struct gather_event stops = event(NOON + 60, 65250, "stop", "above-stop");
    CHECK(gather_event(gather, &starts));
    CHECK(say(gather, NOON, 40) && say(gather, NOON + 600, 40.1));
    CHECK(gather_save(gather));
    CHECK(history_commit(history));
    gather_close(gather); /* as if it had been killed */
    CHECK(fabs(sums_of(history).seconds - 600) < 1);
    gather = open_gather(history);
    CHECK(gather_event(gather, &stops));
    CHECK(history_runs(history, 2, all, take_run, &run));
    CHECK(fabs(run.seconds - 60.25) < 1e-9);
    CHECK(history_commit(history));
    gather_close(gather);
    history_close(history);
    end();
}

CASE(how_far_events_are_kept_is_known_again)
{
    struct history_seen seen = {"4f0c", 1203};
    begin("seen");
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    CHECK_INT(history_seen(history, 1).number, -1);
    CHECK(history_note_seen(history, 1, &seen));
    CHECK(history_commit(history));
    gather_close(gather);
    history_close(history);
    history = open_history();
    CHECK_INT(history_seen(history, 1).number, 1203);
    CHECK_TEXT(history_seen(history, 1).run, "4f0c");
    history_close(history);
    end();
}

/* What may become of the file */

/* Commits event after event, and tells of each. */
static void write_on(int told)
{
    struct history *history = open_history();
    struct gather *gather = open_gather(history);
    for (int64_t n = 1;; n++) {
        struct history_seen seen = {"run", n};
        struct gather_event one = event(NOON + n, 0, "mode", "hand");
        if (!gather_event(gather, &one) ||
            !history_note_seen(history, 1, &seen) || !history_commit(history) ||
            !history_begin(history) ||
            write(told, &n, sizeof(n)) != (ssize_t)sizeof(n))
            _exit(1);
    }
}

CASE(a_writer_that_is_killed_loses_nothing_that_was_committed)
{
    begin("killed");
    history_close(open_history());
    for (int i = 0; i < 20; i++) {
        int pipes[2];
        int64_t kept = 0;
        CHECK(pipe(pipes) == 0);
        pid_t child = fork();
        if (child == 0)
            write_on(pipes[1]);
        close(pipes[1]);
        /* it has begun, however slow this machine is just now */
        CHECK(read(pipes[0], &kept, sizeof(kept)) == (ssize_t)sizeof(kept));
        usleep(3000 * (unsigned)i);
        kill(child, SIGKILL);
        waitpid(child, NULL, 0);
        for (int64_t n; read(pipes[0], &n, sizeof(n)) == (ssize_t)sizeof(n);)
            kept = n;
        close(pipes[0]);
        struct history *history = open_history();
        CHECK(kept > 0 && history_seen(history, 1).number >= kept);
        history_close(history);
    }
    end();
}

CASE(a_full_disk_refuses_and_keeps_what_was_there)
{
    struct rlimit before;
    begin("full");
    struct history *history = open_history();
    write_days(history, 1);
    struct sums was = sums_of(history);
    history_close(history);
    signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &before);
    struct rlimit full = {.rlim_cur = 200000, .rlim_max = before.rlim_max};
    history = open_history();
    setrlimit(RLIMIT_FSIZE, &full);
    bool kept = history_begin(history);
    for (int i = 0; kept && i < 100000; i++) {
        const struct history_event one = {.site = 1,
                                          .at = NOON + i,
                                          .kind = "alert",
                                          .reason = "high",
                                          .value = NAN,
                                          .mark = NAN,
                                          .why = "a sentence of some length"};
        kept = history_event(history, &one);
    }
    kept = kept && history_commit(history);
    CHECK(!kept);
    CHECK(*history_wrong(history) != '\0');
    CHECK(!history_is_broken(history));
    history_roll_back(history);
    setrlimit(RLIMIT_FSIZE, &before);
    struct sums after = sums_of(history);
    CHECK_INT(after.rows, was.rows);
    CHECK(history_begin(history) && history_commit(history));
    history_close(history);
    end();
}

static void write_text(const char *text)
{
    FILE *out = fopen(path, "w");
    fputs(text, out);
    fclose(out);
}

CASE(a_file_that_is_broken_is_set_aside_and_never_removed)
{
    char said[4400];
    char name[4400];
    begin("broken");
    struct history *history = open_history();
    write_days(history, 1);
    history_close(history);
    CHECK(truncate(path, 9000) == 0); /* cut in half */
    history = history_open(path, HISTORY_READ, said, sizeof(said));
    bool reads = history && history_fold(history, NOON, 0, &(bool){false});
    CHECK(!reads);
    history_close(history);
    write_text("This is a letter, and a long one at that, to whom it may "
               "concern, about a database that is none.");
    CHECK(history_open(path, HISTORY_READ, said, sizeof(said)) == NULL);
    history = history_open(path, HISTORY_WRITE, said, sizeof(said));
    CHECK(history != NULL);
    CHECK(sscanf(said, "was broken: set aside as %4300[^,]", name) == 1);
    CHECK(access(name, F_OK) == 0);
    CHECK_INT(sums_of(history).rows, 0);
    history_close(history);
    end();
}

static void do_sql(const char *sql)
{
    sqlite3 *file;
    CHECK_INT(sqlite3_open(path, &file), SQLITE_OK);
    CHECK_INT(sqlite3_exec(file, sql, NULL, NULL, NULL), SQLITE_OK);
    sqlite3_close(file);
}

static void count_message(void *self, int64_t message, const char *text)
{
    CHECK(message > 0 && strcmp(text, "{}") == 0);
    ++*(int *)self;
}

CASE(an_older_version_is_brought_forward_with_all_that_is_in_it)
{
    int messages = 0;
    begin("older");
    struct history *history = open_history();
    write_days(history, 1);
    struct sums was = sums_of(history);
    history_close(history);
    do_sql("DROP TABLE outbox; PRAGMA user_version = 1");
    history = open_history();
    CHECK_INT(sums_of(history).rows, was.rows);
    CHECK(history_begin(history) && outbox_put(history, "home", 70, "{}") &&
          history_commit(history));
    CHECK(outbox_read(history, "home", 0, 9, count_message, &messages));
    CHECK_INT(messages, 1);
    history_close(history);
    end();
}

CASE(a_newer_version_and_a_stranger_are_left_alone)
{
    char said[4400];
    begin("newer");
    history_close(open_history());
    do_sql("PRAGMA user_version = 99");
    CHECK(history_open(path, HISTORY_WRITE, said, sizeof(said)) == NULL);
    CHECK(strstr(said, "version 99, and this program knows up to 3") != NULL);
    unlink(path);
    do_sql("CREATE TABLE recipes (soup TEXT)");
    CHECK(history_open(path, HISTORY_WRITE, said, sizeof(said)) == NULL);
    CHECK_TEXT(said, "is a database of something else");
    do_sql("INSERT INTO recipes VALUES ('leek')");
    end();
    CHECK(history_open("/nowhere/at/all", HISTORY_WRITE, said, sizeof(said)) ==
          NULL);
    CHECK(*said != '\0');
}
