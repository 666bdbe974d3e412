/* A name is a socket in the kernel's own space, that no file stands for. */
#include "lease.h"

#include <errno.h>
#include <limits.h>
#include <netdb.h>
#include <stddef.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#define WHAT_SIZE (PATH_MAX + 40)
#define PORT_USUAL "502"

/* "10.0.0.5:502": however it was called, if its name is known. */
static void name_host(const char *host, char *what, size_t size)
{
    char name[256];
    char number[64] = "";
    struct addrinfo wants = {.ai_socktype = SOCK_STREAM};
    struct addrinfo *found = NULL;
    const char *colon = strrchr(host, ':');
    snprintf(name, sizeof(name), "%.*s",
             colon ? (int)(colon - host) : (int)strlen(host), host);
    if (getaddrinfo(name, NULL, &wants, &found) == 0)
        getnameinfo(found->ai_addr, found->ai_addrlen, number, sizeof(number),
                    NULL, 0, NI_NUMERICHOST);
    if (found)
        freeaddrinfo(found);
    snprintf(what, size, "%s:%s", *number ? number : name,
             colon ? colon + 1 : PORT_USUAL);
}

static void name_file(const char *path, char *what, size_t size)
{
    char whole[PATH_MAX];
    snprintf(what, size, "%s", realpath(path, whole) ? whole : path);
}

static void name_pin(const struct pin *pin, char *what, size_t size)
{
    char place[PATH_MAX] = "";
    if (pin->host)
        name_host(pin->host, place, sizeof(place));
    else if (pin->device || pin->path)
        name_file(pin->device ? pin->device : pin->path, place, sizeof(place));
    else if (pin->command)
        snprintf(place, sizeof(place), "%s", pin->command);
    snprintf(what, size, "%d %s %d %d %d", (int)pin->way, place, (int)pin->unit,
             (int)pin->bus, (int)pin->address);
}

/* FNV-1a: names may be longer than a socket's. */
static unsigned long long number_of(const char *text)
{
    unsigned long long hash = 14695981039346656037u;
    for (; *text; text++)
        hash = (hash ^ (unsigned char)*text) * 1099511628211u;
    return hash;
}

static int take_name(unsigned long long name)
{
    struct sockaddr_un at = {.sun_family = AF_UNIX};
    int length = snprintf(at.sun_path + 1, sizeof(at.sun_path) - 1,
                          "cuplatch/output/%016llx", name);
    int fd = socket(AF_UNIX, SOCK_DGRAM | SOCK_CLOEXEC, 0);
    if (fd >= 0 && bind(fd, (struct sockaddr *)&at,
                        (socklen_t)(offsetof(struct sockaddr_un, sun_path) + 1 +
                                    (size_t)length)) == 0)
        return fd;
    if (fd >= 0)
        close(fd);
    return -1;
}

bool lease_take(struct leases *leases, const struct pin *pin)
{
    char what[WHAT_SIZE];
    name_pin(pin, what, sizeof(what));
    unsigned long long name = number_of(what);
    for (unsigned i = 0; i < leases->count; i++)
        if (leases->names[i] == name)
            return true;
    int fd = leases->count < LEASES_MOST ? take_name(name) : -1;
    if (fd < 0)
        return false;
    leases->names[leases->count] = name;
    leases->fds[leases->count++] = fd;
    return true;
}

void leases_let_go(struct leases *leases)
{
    while (leases->count > 0)
        close(leases->fds[--leases->count]);
}
