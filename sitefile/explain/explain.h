/* Plain sentences, shared by the files that write them. */
#ifndef CUPLATCH_SITEFILE_EXPLAIN_H
#define CUPLATCH_SITEFILE_EXPLAIN_H

#include "../inside.h"

/* A value as a grower wrote it: "34 %", not "34.00 %". */
struct said {
    char text[40];
};
struct said explain_say(const struct cup_plan *plan, int32_t value,
                        uint8_t unit);
struct said explain_say_ms(uint32_t ms);

const char *explain_name(const struct cup_plan *plan, cup_index thing);

/* What each of these will do; in explain_duty.c. */
void explain_duty(const struct cup_file *file, cup_index i, FILE *out);
void explain_day(const struct cup_plan *plan, cup_index i, FILE *out);
void explain_alert(const struct cup_plan *plan, cup_index i, FILE *out);
void explain_shown(const struct cup_file *file, FILE *out);
void explain_watches(const struct cup_plan *plan, FILE *out);

/* How often the journal is written, and how long a flash lasts. */
void explain_journal(const struct cup_plan *plan, FILE *out);

#endif
