/* Says lines and hears lines. */
#include "client.h"

#include <dirent.h>
#include <errno.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>
#include <unistd.h>

struct client {
    int fd;
    bool gone;
    char *in;
    size_t used, size;
};

#define OF_MACHINE "/run/cuplatch"

static const char *folder(char *path, size_t size)
{
    const char *runtime = getenv("XDG_RUNTIME_DIR");
    if (geteuid() == 0)
        return OF_MACHINE;
    if (!runtime || *runtime != '/')
        return NULL;
    snprintf(path, size, "%s/cuplatch", runtime);
    return path;
}

bool client_path(const char *name, char *path, size_t size)
{
    char own[80];
    const char *in = folder(own, sizeof(own));
    if (!in)
        return false;
    mkdir(in, 0755); /* if it cannot be made, the socket can't either */
    return snprintf(path, size, "%s/%s.sock", in, name) < (int)size;
}

static bool is_socket(const char *name)
{
    size_t length = strlen(name);
    return length > 5 && strcmp(name + length - 5, ".sock") == 0;
}

/* How many there are in a folder, and the path of one. */
static int look_in(const char *in, char *path, size_t size)
{
    int found = 0;
    const struct dirent *entry;
    DIR *dir = opendir(in);
    while (dir && (entry = readdir(dir)))
        if (is_socket(entry->d_name)) {
            found++;
            snprintf(path, size, "%s/%.60s", in, entry->d_name);
        }
    if (dir)
        closedir(dir);
    return found;
}

bool client_find(char *path, size_t path_size, char *wrong, size_t size)
{
    char own[80];
    const char *in = folder(own, sizeof(own));
    int found = in ? look_in(in, path, path_size) : 0;
    if (found == 0) {
        in = OF_MACHINE;
        found = look_in(in, path, path_size);
    }
    if (found > 1)
        snprintf(wrong, size,
                 "%d controllers have a socket in %s; name one with --socket",
                 found, in);
    if (found == 0)
        snprintf(wrong, size,
                 "no controller runs here; start one with cuplatch run, or "
                 "name its socket with --socket");
    return found == 1;
}

struct client *client_open(const char *path)
{
    struct sockaddr_un address = {.sun_family = AF_UNIX};
    struct client *client = calloc(1, sizeof(*client));
    if (!client)
        abort();
    client->fd = -1;
    errno = ENAMETOOLONG;
    if (strlen(path) < sizeof(address.sun_path)) {
        snprintf(address.sun_path, sizeof(address.sun_path), "%s", path);
        client->fd = socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0);
    }
    if (client->fd >= 0 &&
        connect(client->fd, (struct sockaddr *)&address, sizeof(address)) == 0)
        return client;
    int why = errno;
    client_close(client);
    errno = why;
    return NULL;
}

void client_close(struct client *client)
{
    if (client->fd >= 0)
        close(client->fd);
    free(client->in);
    free(client);
}

int client_fd(const struct client *client)
{
    return client->fd;
}

bool client_is_gone(const struct client *client)
{
    return client->gone;
}

bool client_say(struct client *client, json_t *line)
{
    char *text = json_dumps(line, JSON_COMPACT);
    json_decref(line);
    if (!text)
        abort();
    size_t length = strlen(text);
    text[length++] = '\n';
    for (size_t said = 0; said < length && !client->gone;) {
        ssize_t count =
            send(client->fd, text + said, length - said, MSG_NOSIGNAL);
        if (count > 0)
            said += (size_t)count;
        else if (errno != EINTR)
            client->gone = true;
    }
    free(text);
    return !client->gone;
}

/* The first line of what came, taken out; null when none is whole. */
static json_t *take_line(struct client *client)
{
    char *end = client->used ? memchr(client->in, '\n', client->used) : NULL;
    if (!end)
        return NULL;
    size_t length = (size_t)(end - client->in);
    json_t *line = json_loadb(client->in, length, 0, NULL);
    client->used -= length + 1;
    memmove(client->in, end + 1, client->used);
    return line ? line : json_null();
}

static void read_more(struct client *client)
{
    if (client->size - client->used < 4096) {
        client->size = client->size * 2 + 8192;
        client->in = realloc(client->in, client->size);
        if (!client->in)
            abort();
    }
    ssize_t got = recv(client->fd, client->in + client->used,
                       client->size - client->used, 0);
    if (got > 0)
        client->used += (size_t)got;
    else if (got == 0 || errno != EINTR)
        client->gone = true;
}

json_t *client_hear(struct client *client, int wait_ms)
{
    json_t *line;
    struct pollfd fd = {.fd = client->fd, .events = POLLIN};
    while (!(line = take_line(client))) {
        if (client->gone || poll(&fd, 1, wait_ms) <= 0)
            return NULL;
        read_more(client);
    }
    return line;
}
