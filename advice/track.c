/* Lists that grow, found in by halves. */
#include "track.h"

#include <stdlib.h>

#include "middle.h"

/* Room for one more. */
static void *grow(void *list, size_t count, size_t *size, size_t each)
{
    if (count < *size)
        return list;
    *size = *size * 2 + 64;
    list = realloc(list, *size * each);
    if (!list)
        abort();
    return list;
}

void track_add(struct track *track, uint32_t at_s, int32_t value)
{
    if (track->count > 0 && track->list[track->count - 1].at_s == at_s)
        track->count--;
    track->list =
        grow(track->list, track->count, &track->size, sizeof(*track->list));
    track->list[track->count++] = (struct track_point){at_s, value};
}

void track_free(struct track *track)
{
    free(track->list);
    *track = (struct track){.list = NULL};
}

size_t track_from(const struct track *track, uint32_t at_s)
{
    size_t low = 0;
    size_t high = track->count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (track->list[middle].at_s < at_s)
            low = middle + 1;
        else
            high = middle;
    }
    return low;
}

void track_calm(const struct track *track, size_t neighbours,
                struct track *calm)
{
    int32_t near[2 * TRACK_NEIGHBOURS_MOST + 1];
    for (size_t i = 0; i < track->count; i++) {
        size_t count = 0;
        size_t from = i > neighbours ? i - neighbours : 0;
        for (size_t p = from; p < track->count && p <= i + neighbours; p++)
            near[count++] = track->list[p].value;
        track_add(calm, track->list[i].at_s, middle_of(near, count));
    }
}

bool track_at(const struct track *track, uint32_t at_s, uint32_t old_s,
              int32_t *value)
{
    size_t next = track_from(track, at_s + 1);
    if (next == 0 || at_s - track->list[next - 1].at_s > old_s)
        return false;
    *value = track->list[next - 1].value;
    return true;
}

void runs_begin(struct runs *runs, uint32_t at_s, int duty)
{
    runs_end(runs, at_s);
    runs->list =
        grow(runs->list, runs->count, &runs->size, sizeof(*runs->list));
    runs->list[runs->count++] = (struct run){at_s, UINT32_MAX, duty};
}

void runs_end(struct runs *runs, uint32_t at_s)
{
    if (runs->count > 0 && runs->list[runs->count - 1].to_s == UINT32_MAX)
        runs->list[runs->count - 1].to_s = at_s;
}

void runs_free(struct runs *runs)
{
    free(runs->list);
    *runs = (struct runs){.list = NULL};
}

bool runs_rest(const struct runs *runs, uint32_t from_s, uint32_t to_s)
{
    size_t low = 0; /* the first that ended at the beginning, or later */
    size_t high = runs->count;
    while (low < high) {
        size_t middle = low + (high - low) / 2;
        if (runs->list[middle].to_s < from_s)
            low = middle + 1;
        else
            high = middle;
    }
    return low == runs->count || runs->list[low].from_s > to_s;
}

void numbers_add(struct numbers *numbers, double number)
{
    numbers->list = grow(numbers->list, numbers->count, &numbers->size,
                         sizeof(*numbers->list));
    numbers->list[numbers->count++] = number;
}

void numbers_free(struct numbers *numbers)
{
    free(numbers->list);
    *numbers = (struct numbers){.list = NULL};
}

static int by_size(const void *a, const void *b)
{
    double one = *(const double *)a;
    double two = *(const double *)b;
    return (one > two) - (one < two);
}

double numbers_part(struct numbers *numbers, double part)
{
    if (numbers->count == 0)
        return 0;
    qsort(numbers->list, numbers->count, sizeof(*numbers->list), by_size);
    return numbers->list[(size_t)((double)(numbers->count - 1) * part + 0.5)];
}
