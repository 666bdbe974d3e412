/* The raw log of a controller: a file a day, "raw-20310402-060000.csv" by when
 * it begins in local time, of which only so many days are kept. */
#ifndef CUPLATCH_KEPT_DAYS_H
#define CUPLATCH_KEPT_DAYS_H

#include <stdbool.h>
#include <stddef.h>
#include <time.h>

struct days;

/* Makes the directory if need be. Null with errno when nothing can be written
 * into it. */
struct days *days_open(const char *dir, int keep);
void days_close(struct days *days);

/* Begins a file with this first line, and removes those that began more than
 * `keep` days before. False with errno; then rows go nowhere. */
bool days_begin(struct days *days, time_t now, const char *head);

/* Adds a row, its end is added. False when it could not be written. */
bool days_add(struct days *days, const char *row);

/* Hands to the kernel what was added; false when a row was lost by it. */
bool days_flush(struct days *days);

#endif
