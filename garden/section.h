/* A section of the garden file under reading: its keys, which of them were
 * used, and what is wrong with them. */
#ifndef CUPLATCH_GARDEN_SECTION_H
#define CUPLATCH_GARDEN_SECTION_H

#include <math.h>
#include <stdbool.h>

#include "../grammar/inifile.h"
#include "cuplatch/codes.h"

/* No thing has nearly so many. */
#define KEYS_MOST 64

struct section {
    struct garden *garden;
    const struct ini_section *ini;
    struct problems *problems;
    bool used[KEYS_MOST];
};

/* How little and how much a key may say, both within. */
struct span {
    double low, high;
};

/* What stands for "not given" where that is an error. */
#define NEEDED NAN

/* The entry of a key, which is used then; null when it is not given. */
const struct ini_entry *section_entry(struct section *section, const char *key);

/* Tells of an error at an entry; at the section when it is null. */
void section_wrong(struct section *section, const struct ini_entry *at,
                   const char *message);

/* A quantity in the unit's own size: mm, C, V, L/min, and a share of one for
 * per cent; `otherwise` when it is not given. What is wrong is told, and what
 * comes back then lies within the span. */
double section_quantity(struct section *section, const char *key,
                        enum cup_unit unit, double otherwise, struct span span);

/* The same of a difference, such as a swing. */
double section_change(struct section *section, const char *key,
                      enum cup_unit unit, double otherwise, struct span span);

/* A number without a unit. */
double section_number(struct section *section, const char *key,
                      double otherwise, struct span span);

/* Which of some words, ended by null, a key says; the first when it is not
 * given. */
int section_choice(struct section *section, const char *key,
                   const char *const *words);

#endif
