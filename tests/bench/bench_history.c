/* So many seconds of fifty things, each of which says something else every
 * second, into a history in memory: bench_history FILE SECONDS [EVERY], a
 * second of every so many. With "read" in the place of a number it tells how
 * long it takes to have the last month of one thing out of the file, in ms, and
 * how many rows that are. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../history/read.h"
#include "../../serve/past/taker.h"

#define THINGS 50
#define FROM INT64_C(1933761600)
#define MONTH_S (INT64_C(30) * 24 * 3600)

static json_t *site(void)
{
    json_t *things = json_array();
    for (int i = 0; i < THINGS; i++) {
        char name[20];
        snprintf(name, sizeof(name), "thing_%d", i);
        json_array_append_new(things, json_pack("{s:s, s:s, s:s}", "name", name,
                                                "kind", "sensor", "unit", "%"));
    }
    return json_pack("{s:{s:s, s:s, s:s, s:o}}", "site", "id", "bench", "name",
                     "Bench", "run", "1", "things", things);
}

static json_t *now(int second)
{
    json_t *levels = json_object();
    for (int i = 0; i < THINGS; i++) {
        char name[20];
        snprintf(name, sizeof(name), "thing_%d", i);
        json_object_set_new(levels, name,
                            json_pack("{s:f, s:s, s:i, s:i}", "value",
                                      50 + 20 * sin(second / 9000.0 + i),
                                      "quality", "good", "samples", second,
                                      "rejects", second / 20));
    }
    return json_pack("{s:{s:I, s:o}}", "now", "utc",
                     (json_int_t)(FROM + second), "levels", levels);
}

static int write_seconds(const char *path, int seconds, int every)
{
    char said[4400];
    struct history *history =
        history_open(path, HISTORY_WRITE, said, sizeof(said));
    if (!history || !history_begin(history))
        return 1;
    struct taker *taker = taker_open(history);
    json_t *line = site();
    bool done = taker_line(taker, line, FROM);
    json_decref(line);
    for (int s = 0; done && s < seconds; s += every) {
        line = now(s);
        done = taker_line(taker, line, FROM + s);
        json_decref(line);
    }
    done = done && history_commit(history);
    taker_close(taker);
    history_close(history);
    return !done;
}

static void count(void *self, const struct history_level *row)
{
    (void)row;
    ++*(long *)self;
}

static double ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (double)at.tv_sec * 1000 + (double)at.tv_nsec / 1e6;
}

static int read_month(const char *path)
{
    char said[4400];
    long rows = 0;
    struct history_span span;
    struct history *history =
        history_open(path, HISTORY_READ, said, sizeof(said));
    if (!history || !history_whole(history, 1, &span))
        return 1;
    double began = ms();
    span.from = span.to - MONTH_S;
    if (!history_levels(history, 1, span, count, &rows))
        return 1;
    printf("%.1f %ld\n", ms() - began, rows);
    history_close(history);
    return 0;
}

int main(int argc, char **argv)
{
    if (argc < 3)
        return 2;
    if (strcmp(argv[2], "read") == 0)
        return read_month(argv[1]);
    return write_seconds(argv[1], atoi(argv[2]), argc > 3 ? atoi(argv[3]) : 1);
}
