/* Rows of a raw log in the making: what the log port plays again. */
#ifndef CUPLATCH_PORTS_ROWS_H
#define CUPLATCH_PORTS_ROWS_H

#include "cuplatch/site.h"

/* The longest row. One that would be longer is two. */
#define CUP_ROW_MOST 32768

struct cup_rows;

/* For a plan with names. It aborts where there is no memory. */
struct cup_rows *cup_rows_make(const struct cup_plan *plan);
void cup_rows_free(struct cup_rows *rows);

/* The first line of a file, without its end: "t_ms,clock_s,NAME,...": sensors,
 * then sources. */
const char *cup_rows_head(const struct cup_rows *rows);

/* What the clock on the wall shows from now on, in s since the year 1970
 * began. */
void cup_rows_clock(struct cup_rows *rows, uint32_t clock_s);

/* A sample of a sensor, or the bytes of a sensor or source, by its number as a
 * thing; no bytes are no answer. A second one of the same before the row ends
 * would be lost: false, and nothing is taken, until the row has been ended. */
bool cup_rows_sample(struct cup_rows *rows, cup_index sensor,
                     struct cup_sample sample);
bool cup_rows_bytes(struct cup_rows *rows, cup_index thing,
                    const uint8_t *bytes, size_t count);

/* Ends the row of a pass: its text without an end, `length` bytes of it, good
 * until the next call; null when nothing was heard. The first is there in any
 * case. */
const char *cup_rows_end(struct cup_rows *rows, uint32_t t_ms, size_t *length);

#endif
