#include "known.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "../common/note.h"
#include "../common/private.h"

static void put(struct known *known, const char *id)
{
    snprintf(known->ids[known->count++ % KNOWN_MOST], KNOWN_ID_MOST + 1,
             "%.64s", id);
}

void known_open(struct known *known, const char *history)
{
    char line[KNOWN_ID_MOST + 2];
    if (!history)
        return;
    snprintf(known->path, sizeof(known->path), "%s.words", history);
    FILE *in = fopen(known->path, "re");
    while (in && fgets(line, sizeof(line), in)) {
        line[strcspn(line, "\n")] = '\0';
        put(known, line);
        known->lines++;
    }
    if (in)
        fclose(in);
}

bool known_has(const struct known *known, const char *id)
{
    for (size_t i = 0; i < known->count && i < KNOWN_MOST; i++)
        if (strcmp(known->ids[i], id) == 0)
            return true;
    return false;
}

/* The ring alone, in order. */
static bool write_anew(struct known *known)
{
    char *text = NULL;
    size_t size = 0;
    size_t first = known->count > KNOWN_MOST ? known->count - KNOWN_MOST : 0;
    FILE *out = open_memstream(&text, &size);
    for (size_t i = first; out && i < known->count; i++)
        fprintf(out, "%s\n", known->ids[i % KNOWN_MOST]);
    if (!out || fclose(out) != 0)
        abort();
    bool done = private_put(known->path, text);
    free(text);
    known->lines = known->count - first;
    return done;
}

static bool write_one(struct known *known, const char *id)
{
    FILE *out = fopen(known->path, "ae");
    bool done = out && fprintf(out, "%s\n", id) > 0;
    if (out)
        done = fclose(out) == 0 && done;
    known->lines++;
    return done;
}

void known_add(struct known *known, const char *id)
{
    put(known, id);
    if (!*known->path)
        return;
    bool done = known->lines < 2 * (size_t)KNOWN_MOST ? write_one(known, id)
                                                      : write_anew(known);
    if (!done && !known->told)
        note("words", NULL, "%s: %s; a start forgets which words were taken",
             known->path, strerror(errno));
    known->told = !done;
}
