#include "here.h"

#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../common/note.h"
#include "../common/private.h"
#include "link.h"

struct at_home {
    char name[64];
    char id[64];
    bool expected;
};

struct here {
    char path[4300]; /* empty: it is not kept */
    struct at_home list[LINKS_MOST];
    size_t count;
};

/* Lines of "NAME ID". */
static void read_file(struct here *here)
{
    char line[160];
    FILE *in = fopen(here->path, "re");
    while (in && here->count < LINKS_MOST && fgets(line, sizeof(line), in)) {
        struct at_home *one = &here->list[here->count];
        here->count += sscanf(line, "%63s %63s", one->name, one->id) == 2;
    }
    if (in)
        fclose(in);
}

struct here *here_open(const char *history)
{
    struct here *here = calloc(1, sizeof(*here));
    if (!here)
        abort();
    if (history)
        snprintf(here->path, sizeof(here->path), "%s.here", history);
    if (history)
        read_file(here);
    return here;
}

void here_close(struct here *here)
{
    free(here);
}

static struct at_home *find(struct here *here, const char *name)
{
    for (size_t i = 0; i < here->count; i++)
        if (strcmp(here->list[i].name, name) == 0)
            return &here->list[i];
    return NULL;
}

void here_expect(struct here *here, const char *name)
{
    struct at_home *one = find(here, name);
    if (one)
        one->expected = true;
}

static void keep(const struct here *here)
{
    char *text = NULL;
    size_t size = 0;
    FILE *out = open_memstream(&text, &size);
    for (size_t i = 0; out && i < here->count; i++)
        fprintf(out, "%s %s\n", here->list[i].name, here->list[i].id);
    if (!out || fclose(out) != 0)
        abort();
    if (!private_put(here->path, text))
        note("afar", NULL, "%s: %s; a start forgets which sites are here",
             here->path, strerror(errno));
    free(text);
}

/* Those that no section names any more. */
static void forget(struct here *here)
{
    size_t left = 0;
    for (size_t i = 0; i < here->count; i++)
        if (here->list[i].expected)
            here->list[left++] = here->list[i];
    here->count = left;
}

void here_is(struct here *here, const char *name, const char *id)
{
    struct at_home *one = find(here, name);
    if (one && strcmp(one->id, id) == 0)
        return;
    forget(here);
    one = find(here, name);
    if (!one && here->count == LINKS_MOST)
        return;
    if (!one)
        one = &here->list[here->count++];
    snprintf(one->name, sizeof(one->name), "%s", name);
    snprintf(one->id, sizeof(one->id), "%s", id);
    one->expected = true;
    if (*here->path)
        keep(here);
}

bool here_has(const struct here *here, const char *id)
{
    for (size_t i = 0; i < here->count; i++)
        if (here->list[i].expected && strcmp(here->list[i].id, id) == 0)
            return true;
    return false;
}
