/* Runs and blocks of pumps, and what was worth a flag, as spans of time: from
 * the events that a rehearsal left. */
#ifndef CUPLATCH_CLI_PICTURE_SPANS_H
#define CUPLATCH_CLI_PICTURE_SPANS_H

#include <jansson.h>
#include <stddef.h>

enum span_kind { SPAN_RUN, SPAN_BLOCK, SPAN_FLAG, SPAN_KINDS };

#define SPAN_WHY_SIZE 24
struct span_of {
    double from_s, to_s;
    int row; /* the pump's, in the order of site.json; -1: of something else */
    enum span_kind kind;
    char why[SPAN_WHY_SIZE]; /* of a block: its reason */
};

struct spans {
    struct span_of *list;
    size_t count, size;
    int rows;
};

/* Reads DIR/events.jsonl; a file that is not there has no events. What still
 * stands at the end ends then. */
void spans_read(struct spans *spans, const char *dir, const json_t *site,
                double end_s);
void spans_free(struct spans *spans);

#endif
