/* The log port: a recorded day. CSV with a header `t_ms` and names of sensors
 * and sources; a cell is one sample, empty is "not sampled", `-` is "no
 * answer", `x0a2f` are bytes as they came. A column `clock_s` says, where it is
 * not empty, what the clock on the wall shows from that row on. */
#ifndef CUPLATCH_PORTS_LOG_H
#define CUPLATCH_PORTS_LOG_H

#include <stdio.h>

#include "../common/onlooker.h"

struct cup_log;

/* Opens a log for a plan with names. Null when it cannot be read; `wrong` of
 * `size` bytes then says where and why. */
struct cup_log *cup_log_open(const char *path, const struct cup_plan *plan,
                             char *wrong, size_t size);
void cup_log_close(struct cup_log *log);

/* Plays the next row into the site: first a pass every scan since the row
 * before, then what the row holds, then its own pass. Returns false at the
 * end of the log, or when a row is wrong: then cup_log_wrong() says why. */
bool cup_log_play(struct cup_log *log, const struct cup_site *site,
                  const struct cup_sink *sink);

/* Sets the clock on the wall, in s since the year 1970 began, at the first row,
 * whatever the log says. Before the first row is played. */
void cup_log_clock(struct cup_log *log, uint32_t clock_s);

/* Whether it has a column for the clock. */
bool cup_log_has_clock(const struct cup_log *log);

/* From now on tells what each row holds, and each pass of a row. */
void cup_log_watch(struct cup_log *log, const struct cup_onlooker *watch);

/* What was wrong with the last row; null when nothing was. */
const char *cup_log_wrong(const struct cup_log *log);

/* Rows played, and the ms that they span: over one wrap, or over many. */
size_t cup_log_rows(const struct cup_log *log);
uint64_t cup_log_span_ms(const struct cup_log *log);

#endif
