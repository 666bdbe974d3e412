/* A copy of the slots here, the file there, and messages between them. */
#include "writer.h"

#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../ports/common/store.h"
#include "ring.h"

/* Entries on their way; with more the disk is too slow, and that is told. */
#define WAITING_MOST 16
/* A journal that the one before still writes to is waited for so long. */
#define LET_GO_MS 5000
#define AGAIN_MS 50
#define WRONG_SIZE 200
#define EVENT_MOST 2000

enum note_kind { NOTE_SLOT, NOTE_EVENT };

/* What is handed over: a header, then so many bytes. */
struct note {
    uint32_t kind;
    uint32_t at;
    uint32_t count;
};

/* What it said when it was opened: the slots follow, or why not. */
struct hello {
    bool open;
    bool lost;
    uint32_t slot_size;
    char wrong[WRONG_SIZE];
};

struct writer {
    struct cup_store store;
    uint8_t *slots;
    uint32_t slot_at; /* the one in the making */
    int end;
    pid_t pid;
    unsigned waiting;
    bool failed;
    bool ends; /* it was told that there is no more */
};

/* Messages */

static bool put_all(int fd, const void *bytes, size_t count)
{
    const char *at = bytes;
    while (count > 0) {
        ssize_t put = send(fd, at, count, MSG_NOSIGNAL);
        if (put < 0 && errno == EINTR)
            continue;
        if (put <= 0)
            return false;
        at += put;
        count -= (size_t)put;
    }
    return true;
}

static bool take_all(int fd, void *bytes, size_t count)
{
    return recv(fd, bytes, count, MSG_WAITALL) == (ssize_t)count;
}

/* The process */

static struct cup_file_store *open_store(const char *path,
                                         CUP_FLASH struct cup_plan *plan,
                                         struct hello *hello)
{
    struct cup_file_store *store;
    int tries = LET_GO_MS / AGAIN_MS;
    while (!(store = cup_file_store_open(path, plan, stderr, hello->wrong,
                                         sizeof(hello->wrong))) &&
           strstr(hello->wrong, "in use") && --tries > 0)
        poll(NULL, 0, AGAIN_MS);
    return store;
}

static bool say_hello(int end, const struct cup_file_store *file,
                      struct hello *hello)
{
    const struct cup_store *store = file ? cup_file_store_of(file) : NULL;
    hello->open = file != NULL;
    hello->lost = store && store->lost;
    hello->slot_size = store ? store->slot_size : 0;
    if (!put_all(end, hello, sizeof(*hello)) || !store)
        return false;
    size_t size = (size_t)store->slot_size * store->slots;
    uint8_t *slots = malloc(size);
    bool done = slots && !store->fetch(store->self, 0, slots, size) &&
                put_all(end, slots, size);
    free(slots);
    return done;
}

static uint8_t keep_slot(const struct cup_store *store, const struct note *note,
                         const uint8_t *bytes)
{
    return !store->erase(store->self, note->at, note->count) &&
           !store->write(store->self, note->at, bytes, note->count) &&
           !store->flush(store->self);
}

static bool is_more(int end)
{
    struct pollfd one = {.fd = end, .events = POLLIN};
    return poll(&one, 1, 0) == 1;
}

/* Until the other end is gone: then all that was handed over is kept. */
static void serve(int end, const struct cup_store *store, struct ring *ring)
{
    size_t most = store->slot_size > EVENT_MOST ? store->slot_size : EVENT_MOST;
    uint8_t *bytes = malloc(most + 1);
    struct note note;
    bool events = false;
    while (bytes && take_all(end, &note, sizeof(note)) && note.count <= most &&
           take_all(end, bytes, note.count)) {
        bytes[note.count] = '\0';
        if (note.kind == NOTE_EVENT) {
            ring_add(ring, (const char *)bytes);
            events = true;
        } else {
            uint8_t kept = keep_slot(store, &note, bytes);
            if (!put_all(end, &kept, 1))
                break;
        }
        if (events && !is_more(end))
            events = !ring_sync(ring);
    }
    free(bytes);
}

static void live(int end, const char *path, CUP_FLASH struct cup_plan *plan)
{
    struct hello hello = {.open = false};
    signal(SIGTERM, SIG_IGN); /* it ends with whom it writes for */
    signal(SIGINT, SIG_IGN);
    struct cup_file_store *file = open_store(path, plan, &hello);
    struct ring *ring = file ? ring_open(path) : NULL;
    if (file && !ring) {
        snprintf(hello.wrong, sizeof(hello.wrong),
                 "the events beside it cannot be kept: %s", strerror(errno));
        cup_file_store_close(file);
        file = NULL;
    }
    if (say_hello(end, file, &hello))
        serve(end, cup_file_store_of(file), ring);
    if (ring)
        ring_close(ring);
    if (file)
        cup_file_store_close(file);
    _exit(0);
}

/* This end */

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    memcpy(bytes, ((const struct writer *)self)->slots + at, count);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    struct writer *writer = self;
    writer->slot_at = at;
    memset(writer->slots + at, 0xFF, count);
    return CUP_OK;
}

static enum cup_error put(void *self, uint32_t at, const uint8_t *bytes,
                          size_t count)
{
    memcpy(((struct writer *)self)->slots + at, bytes, count);
    return CUP_OK;
}

/* Hands over a note, whole or not at all. */
static bool hand_over(const struct writer *writer, struct note note,
                      const void *bytes)
{
    struct iovec parts[2] = {{&note, sizeof(note)},
                             {(void *)bytes, note.count}};
    struct msghdr message = {.msg_iov = parts, .msg_iovlen = 2};
    struct pollfd room = {.fd = writer->end, .events = POLLOUT};
    size_t size = sizeof(note) + note.count;
    if (poll(&room, 1, 0) != 1 || !(room.revents & POLLOUT))
        return false;
    ssize_t sent = sendmsg(writer->end, &message, MSG_DONTWAIT | MSG_NOSIGNAL);
    if (sent == (ssize_t)size)
        return true;
    if (sent > 0) /* half a note would spoil all that follow */
        shutdown(writer->end, SHUT_WR);
    return false;
}

static enum cup_error flush(void *self)
{
    struct writer *writer = self;
    struct note note = {NOTE_SLOT, writer->slot_at, writer->store.slot_size};
    if (writer->waiting >= WAITING_MOST ||
        !hand_over(writer, note, writer->slots + writer->slot_at))
        return CUP_ERROR_PORT;
    writer->waiting++;
    return writer->failed ? CUP_ERROR_PORT : CUP_OK;
}

static bool hear_hello(struct writer *writer, char *wrong, size_t size)
{
    struct hello hello;
    if (!take_all(writer->end, &hello, sizeof(hello))) {
        snprintf(wrong, size, "nobody can write to it");
        return false;
    }
    if (!hello.open) {
        snprintf(wrong, size, "%s", hello.wrong);
        return false;
    }
    size_t all = (size_t)hello.slot_size * 2;
    writer->slots = malloc(all);
    writer->store = (struct cup_store){.fetch = fetch,
                                       .erase = erase,
                                       .write = put,
                                       .flush = flush,
                                       .self = writer,
                                       .slot_size = hello.slot_size,
                                       .ages_ms = 60000,
                                       .slots = 2,
                                       .lost = hello.lost};
    return writer->slots && take_all(writer->end, writer->slots, all);
}

struct writer *writer_open(const char *path, CUP_FLASH struct cup_plan *plan,
                           char *wrong, size_t size)
{
    int ends[2];
    struct writer *writer = calloc(1, sizeof(*writer));
    if (!writer ||
        socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
        abort();
    writer->end = ends[0];
    writer->pid = fork();
    if (writer->pid == 0) {
        close(ends[0]);
        live(ends[1], path, plan);
    }
    close(ends[1]);
    if (writer->pid > 0 && hear_hello(writer, wrong, size))
        return writer;
    writer_close(writer);
    return NULL;
}

bool writer_close(struct writer *writer)
{
    writer->ends = true;
    if (writer->end >= 0)
        shutdown(writer->end, SHUT_WR);
    while (writer->waiting > 0 && writer_turn(writer))
        poll(NULL, 0, 1);
    bool done = writer->waiting == 0 && !writer->failed;
    if (writer->end >= 0)
        close(writer->end);
    if (writer->pid > 0)
        waitpid(writer->pid, NULL, 0);
    free(writer->slots);
    free(writer);
    return done;
}

const struct cup_store *writer_store(const struct writer *writer)
{
    return &writer->store;
}

bool writer_waits(const struct writer *writer)
{
    return writer->waiting > 0;
}

void writer_event(struct writer *writer, const char *line)
{
    size_t length = strlen(line);
    if (length <= EVENT_MOST)
        hand_over(writer, (struct note){NOTE_EVENT, 0, (uint32_t)length}, line);
}

int writer_fd(const struct writer *writer)
{
    return writer->end;
}

bool writer_turn(struct writer *writer)
{
    uint8_t kept;
    ssize_t got;
    while ((got = recv(writer->end, &kept, 1, MSG_DONTWAIT)) == 1) {
        writer->failed = !kept;
        writer->waiting -= writer->waiting > 0;
    }
    if (got < 0 && (errno == EAGAIN || errno == EINTR))
        return true;
    if (writer->ends)
        return false;
    if (writer->end >= 0)
        close(writer->end); /* it is gone: nothing more can be kept */
    writer->end = -1;
    writer->failed = true;
    writer->waiting = 0;
    return false;
}
