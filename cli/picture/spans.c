/* Each start finds its stop. */
#include "spans.h"

#include <limits.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../common/json_in.h"

#define ROWS_MOST 256

/* What stands for each row: since when it runs, since when it is kept off. */
struct standing {
    double since[2];
    char why[SPAN_WHY_SIZE];
};

static void add(struct spans *spans, struct span_of span)
{
    if (spans->count == spans->size) {
        spans->size = spans->size * 2 + 64;
        spans->list = realloc(spans->list, spans->size * sizeof(*spans->list));
        if (!spans->list)
            abort();
    }
    spans->list[spans->count++] = span;
}

static void end_one(struct spans *spans, struct standing *standing, int row,
                    enum span_kind kind, double s)
{
    struct span_of span = {standing->since[kind], s, row, kind, ""};
    if (standing->since[kind] < 0)
        return;
    if (kind == SPAN_BLOCK)
        memcpy(span.why, standing->why, sizeof(span.why));
    standing->since[kind] = -1;
    add(spans, span);
}

static int row_of(const json_t *site, const char *of)
{
    const json_t *pumps = json_object_get(site, "pumps");
    for (size_t i = 0; i < json_array_size(pumps) && i < ROWS_MOST; i++) {
        const char *name = json_string_value(json_array_get(pumps, i));
        if (name && strcmp(name, of) == 0)
            return (int)i;
    }
    return -1;
}

static bool is_flag(const char *kind)
{
    return strcmp(kind, "alert") == 0 || strcmp(kind, "leak") == 0 ||
           strcmp(kind, "trip") == 0 || strcmp(kind, "lock") == 0;
}

static void take(struct spans *spans, struct standing *standing,
                 const json_t *site, const json_t *event)
{
    const char *kind = text_in(event, "kind");
    double s = number_in(event, "s");
    int row = row_of(site, text_in(event, "of"));
    if (is_flag(kind))
        add(spans, (struct span_of){s, s, row, SPAN_FLAG, ""});
    if (row < 0)
        return;
    standing += row;
    if (strcmp(kind, "start") == 0)
        standing->since[SPAN_RUN] = s;
    if (strcmp(kind, "stop") == 0)
        end_one(spans, standing, row, SPAN_RUN, s);
    if (strcmp(kind, "block") == 0) {
        end_one(spans, standing, row, SPAN_BLOCK, s);
        standing->since[SPAN_BLOCK] = s;
        snprintf(standing->why, sizeof(standing->why), "%s",
                 text_in(event, "reason"));
    }
    if (strcmp(kind, "clear") == 0)
        end_one(spans, standing, row, SPAN_BLOCK, s);
}

static void read_events(struct spans *spans, struct standing *standing,
                        const json_t *site, FILE *in)
{
    char *line = NULL;
    size_t size = 0;
    while (getline(&line, &size, in) > 0) {
        json_t *event = json_loads(line, 0, NULL);
        if (event)
            take(spans, standing, site, event);
        json_decref(event);
    }
    free(line);
}

void spans_read(struct spans *spans, const char *dir, const json_t *site,
                double end_s)
{
    char path[PATH_MAX];
    struct standing standing[ROWS_MOST];
    size_t rows = json_array_size(json_object_get(site, "pumps"));
    *spans = (struct spans){.rows = (int)(rows < ROWS_MOST ? rows : ROWS_MOST)};
    for (int i = 0; i < ROWS_MOST; i++)
        standing[i] = (struct standing){{-1, -1}, ""};
    snprintf(path, sizeof(path), "%s/events.jsonl", dir);
    FILE *in = fopen(path, "r");
    if (!in)
        return;
    read_events(spans, standing, site, in);
    fclose(in);
    for (int row = 0; row < spans->rows; row++) {
        end_one(spans, &standing[row], row, SPAN_RUN, end_s);
        end_one(spans, &standing[row], row, SPAN_BLOCK, end_s);
    }
}

void spans_free(struct spans *spans)
{
    free(spans->list);
}
