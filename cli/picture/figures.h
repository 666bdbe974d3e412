/* What a rehearsal left in a folder, read once and thinned to what a picture
 * can show: some 1200 columns, each with the mean, the least and the most of
 * its minutes. Memory does not grow with the days. */
#ifndef CUPLATCH_CLI_PICTURE_FIGURES_H
#define CUPLATCH_CLI_PICTURE_FIGURES_H

#include <jansson.h>
#include <stdbool.h>

#define BINS_MOST 1200

struct bin {
    double sum, low, high;
    unsigned count; /* 0: a gap */
};

/* A table that was read: bins of its columns, one after the other, and the last
 * number in each. */
struct table {
    char **names;
    int columns;
    struct bin *bins;
    double *last;
};

struct figures {
    json_t *site;
    double from_s; /* of the clock */
    double span_s;
    double bin_s;
    int bins;
    struct table levels;
    struct table truth; /* without columns when nobody knew it */
};

/* Reads a folder. Returns an exit code; what is wrong was told. In any case
 * figures_free() it. */
int figures_read(struct figures *figures, const char *dir);
void figures_free(struct figures *figures);

/* A column by its name; -1 when there is none. */
int table_column(const struct table *table, const char *name);
const struct bin *table_bin(const struct figures *figures,
                            const struct table *table, int column, int bin);

#endif
