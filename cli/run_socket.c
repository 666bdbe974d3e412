/* Where a controller listens. */
#include <stdio.h>
#include <string.h>

#include "../socket/client.h"
#include "run.h"

bool run_socket(const struct words *words, const struct run_wishes *wishes,
                char *stem, size_t stem_size, char *path, size_t size)
{
    const char *name = strrchr(words->list[0], '/');
    snprintf(stem, stem_size, "%.60s", name ? name + 1 : words->list[0]);
    stem[strcspn(stem, ".")] = '\0';
    if (wishes->socket)
        snprintf(path, size, "%s", wishes->socket);
    else if (!client_path(stem, path, size)) {
        fprintf(stderr, "cuplatch: there is no folder for a socket; name one "
                        "with --socket\n");
        return false;
    }
    return true;
}
