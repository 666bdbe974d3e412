#include "identity.h"

#include <errno.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/random.h>

#include "../common/note.h"

void identity_draw(char identity[IDENTITY_SIZE])
{
    unsigned char bytes[(IDENTITY_SIZE - 1) / 2];
    if (getrandom(bytes, sizeof(bytes), 0) != (ssize_t)sizeof(bytes))
        abort();
    for (size_t i = 0; i < sizeof(bytes); i++)
        snprintf(identity + 2 * i, 3, "%02x", bytes[i]);
}

/* Kept beside the history, so that a start is not taken for somebody else. */
void identity_know(const char *history, char identity[IDENTITY_SIZE])
{
    char path[4300];
    snprintf(path, sizeof(path), "%s.identity", history);
    FILE *in = fopen(path, "re");
    bool known = in && fscanf(in, "%32[0-9a-f]", identity) == 1 &&
                 strlen(identity) == IDENTITY_SIZE - 1;
    if (in)
        fclose(in);
    if (known)
        return;
    identity_draw(identity);
    FILE *out = fopen(path, "we");
    if (!out || fprintf(out, "%s\n", identity) < 0)
        note("broker", NULL, "%s: %s; the next start will be a stranger", path,
             strerror(errno));
    if (out)
        fclose(out);
}
