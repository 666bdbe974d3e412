/* What is kept on disk: the ring of events stays bounded and survives being cut
 * short; the journal is written by a process, and what is not yet written is
 * known. */
#include <dirent.h>
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/resource.h>
#include <sys/stat.h>
#include <unistd.h>

#include "../../kept/days.h"
#include "../../kept/ring.h"
#include "../harness/harness.h"
#include "bench.h"

struct heard {
    long first;
    long last;
    long count;
    bool in_order;
};

static void hear(void *self, const char *line)
{
    struct heard *heard = self;
    long number = atol(line);
    if (heard->count++ == 0)
        heard->first = number;
    else
        heard->in_order = heard->in_order && number == heard->last + 1;
    heard->last = number;
}

static struct heard read_back(const char *beside, size_t most)
{
    struct heard heard = {.in_order = true};
    ring_read(beside, most, hear, &heard);
    return heard;
}

static long size_of_all(void)
{
    long all = 0;
    for (int i = 0; i < 8; i++) {
        char name[20] = "events";
        struct stat about;
        if (i > 0)
            snprintf(name, sizeof(name), "events.%d", i);
        if (stat(bench_path(name), &about) == 0)
            all += about.st_size;
    }
    return all;
}

CASE(the_ring_keeps_the_newest_and_stays_within_its_bound)
{
    char beside[200];
    char line[300];
    bench_make("ring");
    snprintf(beside, sizeof(beside), "%s", bench_path("journal"));
    struct ring *ring = ring_open(beside);
    CHECK(ring != NULL);
    bool added = true;
    for (long i = 0; i < 100000; i++) {
        snprintf(line, sizeof(line), "%ld %0200d", i, 0);
        added = added && ring_add(ring, line);
    }
    CHECK(added);
    CHECK(ring_sync(ring));
    ring_close(ring);
    CHECK(size_of_all() <= RING_FILES * RING_FILE_BYTES);
    CHECK(size_of_all() > (RING_FILES - 1) * RING_FILE_BYTES);
    struct heard heard = read_back(beside, 4096);
    CHECK_INT(heard.count, 4096);
    CHECK_INT(heard.last, 99999);
    CHECK(heard.in_order);
    /* over the edge of two files */
    heard = read_back(beside, 30000);
    CHECK_INT(heard.count, 30000);
    CHECK(heard.in_order);
    bench_remove();
}

CASE(a_line_that_was_cut_short_spoils_no_other)
{
    char beside[200];
    bench_make("cut");
    snprintf(beside, sizeof(beside), "%s", bench_path("journal"));
    bench_write("events", "0 whole\n1 who");
    struct ring *ring = ring_open(beside);
    CHECK(ring && ring_add(ring, "2 after"));
    ring_close(ring);
    struct heard heard = read_back(beside, 10);
    CHECK_INT(heard.count, 3);
    CHECK_INT(heard.last, 2);
    CHECK_INT(read_back(beside, 1).first, 2);
    bench_remove();
    CHECK(ring_open("/nowhere/at/all/journal") == NULL);
}

/* Days of the raw log */

static int count_files(const char *name)
{
    DIR *dir = opendir(bench_path(name));
    const struct dirent *entry;
    int count = 0;
    while (dir && (entry = readdir(dir)))
        count += *entry->d_name != '.';
    if (dir)
        closedir(dir);
    return count;
}

static bool is_there(const char *name)
{
    return access(bench_path(name), F_OK) == 0;
}

CASE(only_so_many_days_of_the_raw_log_are_kept_and_nothing_else_is_touched)
{
    struct tm noon = {.tm_year = 131,
                      .tm_mon = 3,
                      .tm_mday = 10,
                      .tm_hour = 12,
                      .tm_isdst = -1};
    char dir[200];
    bench_make("days");
    snprintf(dir, sizeof(dir), "%s", bench_path("raw"));
    bench_write("raw/raw-20310402-235959.csv", "old\n");
    bench_write("raw/raw-20310403-000000.csv", "still kept\n");
    bench_write("raw/raw-20310402-000000.csv.txt", "somebody's own\n");
    bench_write("raw/notes", "somebody's own\n");
    struct days *days = days_open(dir, 7);
    CHECK(days && days_begin(days, mktime(&noon), "t_ms,soil"));
    CHECK(days_add(days, "0,612"));
    CHECK(days_flush(days));
    days_close(days);
    days = days_open(dir, 7); /* began anew within the same second */
    CHECK(days && days_begin(days, mktime(&noon), "t_ms,soil"));
    days_close(days);
    CHECK(is_there("raw/raw-20310410-120001.csv"));
    CHECK(!is_there("raw/raw-20310402-235959.csv"));
    CHECK(is_there("raw/raw-20310403-000000.csv"));
    CHECK(is_there("raw/raw-20310410-120000.csv"));
    CHECK_INT(count_files("raw"), 5);
    bench_remove();
    CHECK(days_open("/nowhere/at/all", 7) == NULL);
}

CASE(a_raw_log_on_a_full_disk_ends_with_a_whole_row_and_goes_on_later)
{
    struct rlimit before;
    char text[400] = "";
    char row[100];
    time_t now = 1933675200;
    bench_make("full");
    struct days *days = days_open(bench_path("raw"), 7);
    signal(SIGXFSZ, SIG_IGN);
    getrlimit(RLIMIT_FSIZE, &before);
    struct rlimit full = {.rlim_cur = 100, .rlim_max = before.rlim_max};
    setrlimit(RLIMIT_FSIZE, &full);
    CHECK(days && days_begin(days, now, "t_ms,soil"));
    bool kept = true;
    int rows = 0;
    while (kept && rows++ < 40) {
        snprintf(row, sizeof(row), "%d,612", 1000 * rows);
        kept = days_add(days, row) && days_flush(days);
    }
    CHECK(!kept);
    CHECK(!days_add(days, "9,9"));
    setrlimit(RLIMIT_FSIZE, &before);
    CHECK(days_begin(days, now + 60, "t_ms,soil"));
    CHECK(days_add(days, "60000,613"));
    days_close(days);
    struct tm tm;
    strftime(row, sizeof(row), "raw/raw-%Y%m%d-%H%M%S.csv",
             localtime_r(&now, &tm));
    FILE *in = fopen(bench_path(row), "r");
    if (CHECK(in != NULL)) {
        text[fread(text, 1, sizeof(text) - 1, in)] = '\0';
        fclose(in);
    }
    CHECK(strlen(text) > 50 && text[strlen(text) - 1] == '\n');
    CHECK_INT(count_files("raw"), 2);
    bench_remove();
}
