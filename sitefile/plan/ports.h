/* Every port that a site file names, and who has it. */
#ifndef CUPLATCH_SITEFILE_PORTS_H
#define CUPLATCH_SITEFILE_PORTS_H

#include "../inside.h"

/* A port that somebody has, and the length of its text. `part` is which of
 * several of one thing it is: a lamp of a bar, 1 what shuts a vent. */
struct taken {
    const char *text;
    size_t length;
    struct place place;
    const struct thing *who;
    enum cup_port_use use;
    uint8_t part;
};

struct ports {
    const struct cup_file *file;
    struct taken *list;
    size_t count;
};

/* In the order of the file. Free it with ports_free(). */
struct ports ports_of(const struct cup_file *file);
void ports_free(struct ports *ports);

#endif
