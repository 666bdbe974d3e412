/* A site file with its plan bound to a state: ready to run. */
#ifndef CUPLATCH_CONTROLLER_READY_H
#define CUPLATCH_CONTROLLER_READY_H

#include "../sitefile/sitefile.h"
#include "ending.h"

struct site {
    const char *path;
    struct cup_file *file; /* null: it could not be read, by errno */
    struct cup_site site;
    void *state;
};

/* Reads the file at `path`, which must live as long. Returns EXIT_DONE, or what
 * to exit with: what is wrong was told on stderr. Then site_close(), whatever
 * it is. */
int site_read(struct site *site, const char *path);
void site_close(struct site *site);

/* Its id: as it says, or the stem of its file; a buffer that the next call uses
 * again. */
const char *site_id(const struct site *site);

/* What the file says that a pump gives, in ml/min; 0: nothing. */
int32_t site_flow(const struct cup_file *file, const char *pump);

#endif
