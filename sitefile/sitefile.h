/* The site file: what a grower wrote, read, checked and explained.
 *
 * Host only. Reads the whole file, finds every error in it, and when there is
 * none makes the plan that the core runs. */
#ifndef CUPLATCH_SITEFILE_H
#define CUPLATCH_SITEFILE_H

#include <stdio.h>

#include "cuplatch/site.h"

struct cup_file;

/* Reads a file. Null, with errno set, when it cannot be opened or read. What
 * is wrong with its text is told by cup_file_errors(). Free it with
 * cup_file_free(). */
struct cup_file *cup_file_read(const char *path);
void cup_file_free(struct cup_file *file);

/* Reads a site file from an open stream; `name` stands for the path in
 * messages. */
struct cup_file *cup_file_read_from(FILE *in, const char *name);

/* How many errors the file has; warnings do not count. */
size_t cup_file_errors(const struct cup_file *file);

/* Prints every error and warning, a line each, in the order of the file. */
void cup_file_problems(struct cup_file *file, FILE *out);

/* The plan, which lives as long as the file; null when there are errors. */
const struct cup_plan *cup_file_plan(const struct cup_file *file);

/* Its levels are moved by runs that are not its own, as in the record of
 * another site: each of its pumps may run at any time, and what that moves is
 * no leap. */
void cup_file_moved_by_others(struct cup_file *file);

/* The site's name; the file's path when it has none. */
const char *cup_file_name(const struct cup_file *file);

/* Where a sensor or a pump is connected ("adc:0"), by its number as a thing.
 * Null for any other. */
const char *cup_file_port(const struct cup_file *file, cup_index thing);

/* What a port is for. */
enum cup_port_use {
    CUP_AT_OUTPUT, /* a pump or a valve; `part` 1 is the line that shuts it */
    CUP_AT_SUPPLY,
    CUP_AT_SENSOR,
    CUP_AT_SOURCE,
    CUP_AT_BUTTON,
    CUP_AT_LAMP, /* a signal, or the `part`-th lamp of a bar */
    CUP_AT_PANEL
};

/* A port that the site uses.
 *   port   such as "relay:3"; empty where it is longer than any is
 *   thing  who has it, by its name
 *   line   of the file
 *   low    of a button: closed is low
 *   index  the number of the pump, supply, sensor, source, button or lamp
 *          (signals are numbered on after the bars), as in the plan */
struct cup_file_port {
    char port[32];
    const char *thing;
    int line;
    enum cup_port_use use;
    uint8_t part;
    bool low;
    cup_index index;
};

/* Every port of a file without errors, in its order; returns how many. The
 * list is the caller's, to be freed. */
size_t cup_file_ports(const struct cup_file *file, struct cup_file_port **list);

/* How late a sensor's smoothed value is, in ms: half its window, and a period.
 */
uint32_t cup_file_lag_ms(const struct cup_sensor *sensor);

/* What the file says for a key of a thing; null when it does not. */
const char *cup_file_value(const struct cup_file *file, const char *thing,
                           const char *key);

/* The raw values that a ranger reads over a tank, with a fifth to spare on
 * either side. False where no tank of the name has a ranger. Only for a file
 * without errors. */
bool cup_file_range(const struct cup_file *file, const char *tank, int *low,
                    int *high);

/* Says in plain sentences what the controller will do and will never do.
 * Only for a file without errors. */
void cup_file_explain(const struct cup_file *file, FILE *out);

#endif
