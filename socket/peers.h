/* Those who talk to a running controller over its local socket: whole lines in,
 * lines out, and nobody holds anybody up. Nothing here blocks. */
#ifndef CUPLATCH_SOCKET_PEERS_H
#define CUPLATCH_SOCKET_PEERS_H

#include <poll.h>
#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#define PEERS_MOST 32
/* The longest line that is taken, and what may wait to be read by a peer. */
#define PEERS_LINE 65536
#define PEERS_WAITING 262144u
/* A peer that has something to read and reads nothing is let go after so
 * long. */
#define PEERS_PATIENCE_MS 30000

struct peers;

/* What happens: `line` is one that peer number `peer` said, without its end and
 * changeable; `gone` that it is no longer there. */
struct peers_ear {
    void (*line)(void *self, int peer, char *text);
    void (*gone)(void *self, int peer);
    void *self;
};

/* Listens at a path, for the user and the group. Null, and `wrong` (of `size`
 * bytes) says why: somebody listens there already, or it cannot be made. What a
 * dead program left there is taken over. */
struct peers *peers_open(const char *path, const struct peers_ear *ear,
                         char *wrong, size_t size);
void peers_close(struct peers *peers);

/* What to wait for: PEERS_MOST + 1 entries at most are written; returns how
 * many. */
size_t peers_wait(const struct peers *peers, struct pollfd *fds);

/* Takes and gives what can be now. */
void peers_turn(struct peers *peers, uint64_t now_ms);

/* Says a line to a peer, its end is added. One that has too much waiting is let
 * go. */
void peers_say(struct peers *peers, int peer, const char *text);

/* How many bytes wait to be read by a peer. */
size_t peers_waiting(const struct peers *peers, int peer);

/* The user on the other end, by the kernel's word. */
unsigned peers_user(const struct peers *peers, int peer);

#endif
