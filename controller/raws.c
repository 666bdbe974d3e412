/* Rows for the writer, in a new file each day. */
#include "raws.h"

#include <stdlib.h>
#include <time.h>

#include "../ports/log/rows.h"

#define TELL_S 60

struct raws {
    const struct cup_site *site;
    struct writer *writer;
    struct cup_rows *rows;
    int day;        /* of the year, of the file under way; -1: none is */
    unsigned lost;  /* and not yet told */
    time_t tried_s; /* when a file was begun last */
    time_t told_s;
};

struct raws *raws_open(const struct cup_site *site, struct writer *writer)
{
    struct raws *raws = calloc(1, sizeof(*raws));
    if (!raws)
        abort();
    raws->site = site;
    raws->writer = writer;
    raws->rows = cup_rows_make(site->plan);
    raws->day = -1;
    return raws;
}

void raws_close(struct raws *raws)
{
    if (!raws)
        return;
    cup_rows_free(raws->rows);
    free(raws);
}

static void end_row(struct raws *raws, uint32_t t_ms)
{
    size_t length;
    const char *row = cup_rows_end(raws->rows, t_ms, &length);
    if (row && (raws->day < 0 || !writer_raw(raws->writer, row, length)))
        raws->lost++;
}

static bool take(struct raws *raws, cup_index thing, const struct reply *heard)
{
    if (heard->count > 0 || thing >= raws->site->plan->sensor_count)
        return cup_rows_bytes(raws->rows, thing, heard->bytes, heard->count);
    return cup_rows_sample(
        raws->rows, thing,
        (struct cup_sample){.raw = heard->raw, .reject = heard->reject});
}

void raws_heard(struct raws *raws, unsigned thing, const struct reply *heard,
                uint32_t t_ms)
{
    if (take(raws, (cup_index)thing, heard))
        return;
    end_row(raws, t_ms);
    (void)take(raws, (cup_index)thing, heard);
}

void raws_clock(struct raws *raws, uint32_t clock_s)
{
    cup_rows_clock(raws->rows, clock_s);
}

/* Each file can be played by itself: it begins with the clock. One that could
 * not be written is tried anew, and so is a row that is lost. */
static void begin_day(struct raws *raws, time_t now)
{
    struct tm tm;
    localtime_r(&now, &tm);
    bool again = raws->lost > 0 && now - raws->tried_s >= TELL_S;
    if (tm.tm_yday == raws->day && !again)
        return;
    raws->tried_s = now;
    raws->day = -1;
    if (!writer_raw_head(raws->writer, cup_rows_head(raws->rows)))
        return;
    raws->day = tm.tm_yday;
    if (cup_site_clock_s(raws->site) > 0)
        cup_rows_clock(raws->rows, cup_site_clock_s(raws->site));
}

unsigned raws_passed(struct raws *raws, uint32_t t_ms)
{
    time_t now = time(NULL);
    raws->lost += writer_raw_lost(raws->writer);
    begin_day(raws, now);
    end_row(raws, t_ms);
    unsigned lost = raws->lost;
    if (lost == 0 || now - raws->told_s < TELL_S)
        return 0;
    raws->told_s = now;
    raws->lost = 0;
    return lost;
}
