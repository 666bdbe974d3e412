/* The other end of a controller's local socket. */
#ifndef CUPLATCH_SOCKET_CLIENT_H
#define CUPLATCH_SOCKET_CLIENT_H

#include <jansson.h>
#include <stdbool.h>
#include <stddef.h>

/* Where the socket of a controller is when nobody says so: in the runtime
 * folder of the user, or of the machine, which is made if need be. `name` is
 * the site's. False when there is no such folder. */
bool client_path(const char *name, char *path, size_t size);

/* The only socket there is in that folder, or, where it has none, in that of
 * the machine, /run/cuplatch. False, and `wrong` says why: there is none, or
 * there are several. */
bool client_find(char *path, size_t path_size, char *wrong, size_t size);

struct client;

/* Null with errno set when nobody is there. */
struct client *client_open(const char *path);
void client_close(struct client *client);

/* To wait for what comes. */
int client_fd(const struct client *client);

/* Says one line; lets go of the value. False when the other end is gone. */
bool client_say(struct client *client, json_t *line);

/* The next line that came; null when there is none within so many ms, or the
 * other end is gone, which client_is_gone() tells. The caller owns it. */
json_t *client_hear(struct client *client, int wait_ms);
bool client_is_gone(const struct client *client);

#endif
