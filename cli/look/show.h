/* What is shown of sensors and tanks: a table, a line, or JSON. */
#ifndef CUPLATCH_CLI_LOOK_SHOW_H
#define CUPLATCH_CLI_LOOK_SHOW_H

#include <stdbool.h>
#include <stdio.h>

#include "../../ports/common/onlooker.h"
#include "cuplatch/site.h"

enum look_how { LOOK_ON_SCREEN, LOOK_PLAINLY, LOOK_JSON };

/* A look under way: which sensors and tanks, in the order of things, and how
 * they are shown. */
struct look {
    const struct cup_site *site;
    struct cup_onlooker watch;
    bool *chosen;
    enum look_how how;
    uint32_t passes;
    uint32_t t_ms;
    uint64_t gone_ms; /* since the first pass */
};

/* Sensors and tanks: all that can be looked at. */
cup_index look_count(const struct look *look);

/* Whether something was heard of one, or of one that it is made of. */
bool look_hears(const struct look *look, cup_index i);

/* One, as a line; all that are chosen, on the screen or as text. */
void look_show(const struct look *look, cup_index i);
void look_show_screen(const struct look *look);
void look_show_table(const struct look *look, FILE *out);

#endif
