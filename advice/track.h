/* What a level did over days and when things ran, and questions about both. */
#ifndef CUPLATCH_ADVICE_TRACK_H
#define CUPLATCH_ADVICE_TRACK_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

/* A smoothed value, in the steps of its unit; the last of each second is kept.
 */
struct track_point {
    uint32_t at_s;
    int32_t value;
};

struct track {
    struct track_point *list;
    size_t count, size;
};

/* Runs of a pump or a valve, in order; `duty` is a thing's number, -1 nobody's.
 */
struct run {
    uint32_t from_s, to_s;
    int duty;
};

struct runs {
    struct run *list;
    size_t count, size;
};

void track_add(struct track *track, uint32_t at_s, int32_t value);
void track_free(struct track *track);

#define TRACK_NEIGHBOURS_MOST 8

/* A copy in which each value is the middle of it and its neighbours, so many of
 * them on either side. */
void track_calm(const struct track *track, size_t neighbours,
                struct track *calm);

/* What was last known at a moment, and not older than `old_s`. */
bool track_at(const struct track *track, uint32_t at_s, uint32_t old_s,
              int32_t *value);

/* The first point at a moment or later; `count` when there is none. */
size_t track_from(const struct track *track, uint32_t at_s);

/* One ended when the next begins; runs_end() of none under way does nothing. */
void runs_begin(struct runs *runs, uint32_t at_s, int duty);
void runs_end(struct runs *runs, uint32_t at_s);
void runs_free(struct runs *runs);

/* Whether nothing of these ran at any time in a span, its ends included. */
bool runs_rest(const struct runs *runs, uint32_t from_s, uint32_t to_s);

/* Numbers that are collected, then put in order. */
struct numbers {
    double *list;
    size_t count, size;
};
void numbers_add(struct numbers *numbers, double number);
void numbers_free(struct numbers *numbers);

/* The number below which so great a part of them is, 0 to 1; puts them in
 * order. 0 when there are none. */
double numbers_part(struct numbers *numbers, double part);

#endif
