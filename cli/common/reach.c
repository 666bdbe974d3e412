/* By its path, or the only one. */
#include "reach.h"

#include <errno.h>
#include <limits.h>
#include <stdio.h>
#include <string.h>

struct client *client_reach(const char *path)
{
    char found[PATH_MAX];
    char wrong[200];
    if (!path && !client_find(found, sizeof(found), wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch: %s\n", wrong);
        return NULL;
    }
    const char *at = path ? path : found;
    struct client *client = client_open(at);
    if (!client)
        fprintf(stderr, "cuplatch: %s: %s; does a controller run there?\n", at,
                strerror(errno));
    return client;
}
