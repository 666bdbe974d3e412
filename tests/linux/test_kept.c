/* What is kept on disk: the ring of events stays bounded and survives being cut
 * short; the journal is written by a process, and what is not yet written is
 * known. */
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

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
