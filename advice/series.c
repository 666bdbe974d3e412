/* Medians among neighbours: a spike moves none of them. */
#include "series.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "middle.h"

/* So many times the noise makes a spike; at least so many counts. */
#define SPIKE_TIMES 8
#define SPIKE_LEAST 4
/* Of rows of spikes those count that are not so rare by chance. */
#define ROWS_MOST 99
#define ROWS_RARE 2000
/* The median of absolute deviations is so much of a standard deviation. */
#define MAD_SIGMA 1.4826

void series_add(struct series *series, uint64_t at_ms, int32_t raw)
{
    if (series->count == series->size) {
        series->size = series->size * 2 + 1024;
        series->list =
            realloc(series->list, series->size * sizeof(*series->list));
        if (!series->list)
            abort();
    }
    series_miss(series, at_ms);
    series->last_ms = at_ms;
    series->list[series->count++] = (struct series_sample){at_ms, raw};
}

/* What is still silent counts, too. */
void series_miss(struct series *series, uint64_t at_ms)
{
    series->asked++;
    if (series->count > 0 && at_ms - series->last_ms > series->silent_ms)
        series->silent_ms = at_ms - series->last_ms;
}

size_t series_silences(const struct series *series, uint64_t ms)
{
    size_t count = 0;
    for (size_t i = 1; i < series->count; i++)
        count += series->list[i].at_ms - series->list[i - 1].at_ms > ms;
    return count;
}

void series_free(struct series *series)
{
    free(series->list);
    *series = (struct series){.list = NULL};
}

/* The median of a sample and its neighbours; at the ends of those there are,
 * which may be spikes for the most part. */
static int32_t median_at(const struct series *series, size_t at)
{
    int32_t near[SERIES_NEIGHBOURS] = {0};
    size_t half = SERIES_NEIGHBOURS / 2;
    size_t from = at > half ? at - half : 0;
    size_t to = at + half < series->count ? at + half + 1 : series->count;
    for (size_t i = from; i < to; i++)
        near[i - from] = series->list[i].raw;
    return middle_of(near, to - from);
}

static double noise_of(int32_t *away, size_t count)
{
    return MAD_SIGMA * middle_of(away, count);
}

static void find_same(const struct series *series, struct series_facts *facts)
{
    size_t from = 0;
    for (size_t i = 1; i < series->count; i++) {
        if (series->list[i].raw != series->list[from].raw)
            from = i;
        uint64_t span = series->list[i].at_ms - series->list[from].at_ms;
        if (span > facts->same_ms)
            facts->same_ms = span;
    }
}

/* Spikes, and the ends of everything else. */
static void find_spikes(const struct series *series, const int32_t *medians,
                        struct series_facts *facts)
{
    double far = fmax(SPIKE_TIMES * facts->noise, SPIKE_LEAST);
    size_t rows[ROWS_MOST + 1] = {0};
    size_t row = 0;
    facts->low = INT32_MAX;
    facts->high = INT32_MIN;
    size_t half = SERIES_NEIGHBOURS / 2;
    for (size_t i = half; i + half < series->count; i++) {
        int32_t raw = series->list[i].raw;
        if (fabs((double)raw - medians[i]) > far) {
            facts->spikes++;
            row += row < ROWS_MOST;
            rows[row]++;
            continue;
        }
        row = 0;
        facts->low = raw < facts->low ? raw : facts->low;
        facts->high = raw > facts->high ? raw : facts->high;
    }
    size_t few = facts->spikes / ROWS_RARE;
    for (unsigned i = 1; i <= ROWS_MOST; i++)
        if (rows[i] > few)
            facts->in_a_row = i;
}

bool series_look(const struct series *series, struct series_facts *facts)
{
    *facts = (struct series_facts){.silent_ms = series->silent_ms};
    if (series->count < SERIES_LEAST)
        return false;
    int32_t *medians = malloc(series->count * sizeof(*medians));
    int32_t *away = malloc(series->count * sizeof(*away));
    if (!medians || !away)
        abort();
    for (size_t i = 0; i < series->count; i++) {
        double off;
        medians[i] = median_at(series, i);
        off = fabs((double)series->list[i].raw - medians[i]);
        away[i] = off < INT32_MAX ? (int32_t)off : INT32_MAX;
    }
    facts->noise = noise_of(away, series->count);
    find_spikes(series, medians, facts);
    find_same(series, facts);
    facts->unanswered =
        1 - (double)series->count / (double)(series->asked ? series->asked : 1);
    facts->spiky = (double)facts->spikes / (double)series->count;
    free(medians);
    free(away);
    return true;
}
