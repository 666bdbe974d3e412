/* A stream socket and its peers. */
#include "peers.h"

#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/un.h>
#include <time.h>
#include <unistd.h>

/* How long one that says no more may wait for its answers. */
#define ANSWER_MS 2000

/* How long nobody is let in after one who could not be. */
#define DEAF_MS 1000

/* Lines of one peer that are taken in one turn; and how long a turn may take
 * lines at all, whoever says them: what is left has its turn next, going round.
 */
#define LINES_A_TURN 8
#define TURN_US 5000

struct peer {
    int fd; /* -1: free */
    unsigned user;
    char in[PEERS_LINE];
    size_t in_used;
    bool has_more;     /* whole lines are left of before */
    bool ended;        /* it says no more, but may still hear */
    uint64_t ended_ms; /* since then */
    char *out;
    size_t out_used, out_size;
    uint64_t moved_ms; /* when it last took something, or had nothing to take */
};

struct peers {
    int listener;
    char path[108];
    struct peers_ear ear;
    uint64_t now_ms;
    uint64_t deaf_until_ms; /* it could take nobody in */
    uint64_t until_us;      /* this turn takes lines */
    int first;              /* whose turn it is */
    struct peer list[PEERS_MOST];
};

static bool reach(const char *path, struct sockaddr_un *address)
{
    *address = (struct sockaddr_un){.sun_family = AF_UNIX};
    if (strlen(path) >= sizeof(address->sun_path))
        return false;
    snprintf(address->sun_path, sizeof(address->sun_path), "%s", path);
    return true;
}

/* Whether somebody listens there. */
static bool is_alive(const struct sockaddr_un *address)
{
    int fd = socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0);
    bool alive = fd >= 0 && connect(fd, (const struct sockaddr *)address,
                                    sizeof(*address)) == 0;
    if (fd >= 0)
        close(fd);
    return alive;
}

/* A socket, bound for the user and the group, with nobody between. */
static bool bind_it(int fd, const struct sockaddr_un *address)
{
    mode_t mask = umask(0117);
    bool bound =
        bind(fd, (const struct sockaddr *)address, sizeof(*address)) == 0;
    umask(mask);
    return bound && listen(fd, PEERS_MOST) == 0;
}

static bool open_at(struct peers *peers, const char *path, char *wrong,
                    size_t size)
{
    struct sockaddr_un address;
    struct stat there;
    if (!reach(path, &address)) {
        snprintf(wrong, size, "longer than a socket's path may be");
        return false;
    }
    if (is_alive(&address)) {
        snprintf(wrong, size, "a controller listens there already");
        return false;
    }
    if (lstat(path, &there) == 0 && S_ISSOCK(there.st_mode))
        unlink(path);
    peers->listener =
        socket(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC | SOCK_NONBLOCK, 0);
    if (peers->listener < 0 || !bind_it(peers->listener, &address)) {
        snprintf(wrong, size, "%s", strerror(errno));
        return false;
    }
    snprintf(peers->path, sizeof(peers->path), "%s", path);
    return true;
}

struct peers *peers_open(const char *path, const struct peers_ear *ear,
                         char *wrong, size_t size)
{
    struct peers *peers = calloc(1, sizeof(*peers));
    if (!peers)
        abort();
    peers->ear = *ear;
    peers->listener = -1;
    for (int i = 0; i < PEERS_MOST; i++)
        peers->list[i].fd = -1;
    if (open_at(peers, path, wrong, size))
        return peers;
    peers_close(peers);
    return NULL;
}

static void let_go(struct peers *peers, int i)
{
    struct peer *peer = &peers->list[i];
    close(peer->fd);
    free(peer->out);
    *peer = (struct peer){.fd = -1};
    peers->ear.gone(peers->ear.self, i);
}

void peers_close(struct peers *peers)
{
    for (int i = 0; i < PEERS_MOST; i++)
        if (peers->list[i].fd >= 0)
            let_go(peers, i);
    if (peers->listener >= 0)
        close(peers->listener);
    if (*peers->path)
        unlink(peers->path);
    free(peers);
}

size_t peers_wait(const struct peers *peers, struct pollfd *fds)
{
    size_t count = 0;
    fds[count++] = (struct pollfd){
        .fd = peers->listener,
        .events = peers->now_ms < peers->deaf_until_ms ? 0 : POLLIN};
    for (int i = 0; i < PEERS_MOST; i++)
        if (peers->list[i].fd >= 0)
            fds[count++] = (struct pollfd){
                .fd = peers->list[i].fd,
                /* what is left of before does not wait: it can be written */
                .events =
                    (short)((peers->list[i].ended ? 0 : POLLIN) |
                            (peers->list[i].out_used || peers->list[i].has_more
                                 ? POLLOUT
                                 : 0))};
    return count;
}

static void welcome(struct peers *peers)
{
    int fd = accept(peers->listener, NULL, NULL);
    if (fd < 0) {
        /* whoever knocks is still there: not at once again, or it would go on
         * for as long as there is nothing to open it with */
        if (errno != EAGAIN && errno != ECONNABORTED)
            peers->deaf_until_ms = peers->now_ms + DEAF_MS;
        return;
    }
    struct ucred who = {0};
    socklen_t size = sizeof(who);
    int i = 0;
    while (i < PEERS_MOST && peers->list[i].fd >= 0)
        i++;
    if (i == PEERS_MOST || fcntl(fd, F_SETFL, O_NONBLOCK) != 0 ||
        fcntl(fd, F_SETFD, FD_CLOEXEC) != 0 ||
        getsockopt(fd, SOL_SOCKET, SO_PEERCRED, &who, &size) != 0) {
        close(fd);
        return;
    }
    peers->list[i].fd = fd;
    peers->list[i].user = who.uid;
    peers->list[i].moved_ms = peers->now_ms;
}

static uint64_t now_us(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint64_t)now.tv_sec * 1000000 + (uint64_t)now.tv_nsec / 1000;
}

/* Hands on whole lines, so many in a turn that none holds up the rest. False
 * when one is longer than any may be. */
static bool take_lines(struct peers *peers, int i)
{
    struct peer *peer = &peers->list[i];
    char *from = peer->in;
    char *end = NULL;
    size_t left = peer->in_used;
    for (int lines = 0; lines < LINES_A_TURN; lines++) {
        if (lines > 0 && now_us() >= peers->until_us)
            break; /* end is the end of one: there may be more */
        end = memchr(from, '\n', left);
        if (!end)
            break;
        *end = '\0';
        left -= (size_t)(end + 1 - from);
        peers->ear.line(peers->ear.self, i, from);
        if (peer->fd < 0)
            return true; /* it was let go meanwhile */
        from = end + 1;
    }
    memmove(peer->in, from, left);
    peer->in_used = left;
    peer->has_more = end && memchr(peer->in, '\n', left);
    return peer->has_more || left < sizeof(peer->in);
}

/* It says no more: is it there to hear? A script that has written its line
 * shuts that end, and waits. */
static bool still_hears(const struct peers *peers, struct peer *peer)
{
    struct pollfd fd = {.fd = peer->fd, .events = POLLOUT};
    poll(&fd, 1, 0);
    if (!peer->ended)
        peer->ended_ms = peers->now_ms;
    peer->ended = true;
    return !(fd.revents & (POLLHUP | POLLERR)) &&
           peers->now_ms - peer->ended_ms < ANSWER_MS;
}

/* What it says now, unless there is some left of before. False once it is
 * gone. */
static bool hear(struct peers *peers, int i)
{
    struct peer *peer = &peers->list[i];
    if (peer->ended && !peer->has_more)
        return still_hears(peers, peer);
    if (!peer->has_more) {
        ssize_t got = recv(peer->fd, peer->in + peer->in_used,
                           sizeof(peer->in) - peer->in_used, 0);
        if (got < 0)
            return errno == EAGAIN || errno == EINTR;
        if (got == 0)
            return still_hears(peers, peer);
        peer->in_used += (size_t)got;
    }
    if (take_lines(peers, i))
        return true;
    peers_say(peers, i, "{\"error\":\"a line is at most 64 KiB\"}");
    return false;
}

/* Gives what it takes. False when it is gone, or has not moved for too long. */
static bool give(const struct peers *peers, struct peer *peer)
{
    if (peer->out_used > 0) {
        ssize_t gave = send(peer->fd, peer->out, peer->out_used, MSG_NOSIGNAL);
        if (gave < 0 && errno != EAGAIN && errno != EINTR)
            return false;
        if (gave > 0) {
            peer->out_used -= (size_t)gave;
            memmove(peer->out, peer->out + gave, peer->out_used);
            peer->moved_ms = peers->now_ms;
        }
    }
    if (peer->out_used == 0)
        peer->moved_ms = peers->now_ms;
    return peers->now_ms - peer->moved_ms < PEERS_PATIENCE_MS;
}

void peers_turn(struct peers *peers, uint64_t now_ms)
{
    peers->now_ms = now_ms;
    peers->until_us = now_us() + TURN_US;
    welcome(peers);
    const int first = peers->first;
    for (int n = 0; n < PEERS_MOST; n++) {
        const int i = (first + n) % PEERS_MOST;
        struct peer *peer = &peers->list[i];
        if (peer->fd < 0)
            continue;
        if (peers->first == first && now_us() >= peers->until_us)
            peers->first = i; /* the next turn begins here */
        bool late = peers->first != first;
        bool stays = late || hear(peers, i);
        if (peer->fd >= 0 && (!give(peers, peer) || !stays))
            let_go(peers, i);
    }
}

void peers_say(struct peers *peers, int i, const char *text)
{
    struct peer *peer = &peers->list[i];
    size_t length = strlen(text) + 1;
    if (peer->fd < 0)
        return;
    if (peer->out_used + length > PEERS_WAITING) {
        let_go(peers, i);
        return;
    }
    if (peer->out_used + length > peer->out_size) {
        peer->out_size = peer->out_used + length + 4096;
        peer->out = realloc(peer->out, peer->out_size);
        if (!peer->out)
            abort();
    }
    memcpy(peer->out + peer->out_used, text, length - 1);
    peer->out[peer->out_used + length - 1] = '\n';
    peer->out_used += length;
}

size_t peers_waiting(const struct peers *peers, int peer)
{
    return peers->list[peer].out_used;
}

unsigned peers_user(const struct peers *peers, int peer)
{
    return peers->list[peer].user;
}
