/* A copy of the slots here, the file there, and messages between them. */
#include "writer.h"

#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "writing.h"

/* Entries on their way; with more the disk is too slow, and that is told. */
#define WAITING_MOST 16
/* One that died is replaced at once, and if that dies, too, after longer and
 * longer. */
#define REPLACE_FIRST_MS 50
#define REPLACE_MOST_MS 10000
#define EVENT_MOST 2000

struct writer {
    struct cup_store store;
    struct writer_keeps keeps;
    CUP_FLASH struct cup_plan *plan;
    int64_t died_ms; /* when the last one died, and after how long there is */
    int pause_ms;    /* another */
    uint8_t *slots;
    uint32_t slot_at; /* the one in the making */
    int end;
    pid_t pid;
    unsigned waiting;
    unsigned rows_lost;
    bool failed;
    bool ends; /* it was told that there is no more */
};

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
    if (!writing_take(writer->end, &hello, sizeof(hello))) {
        snprintf(wrong, size, "nobody can write to it");
        return false;
    }
    if (!hello.open) {
        snprintf(wrong, size, "%s", hello.wrong);
        return false;
    }
    size_t all = (size_t)hello.slot_size * SLOTS_ALL;
    if (all == 0)
        return true; /* there is no journal */
    writer->slots = malloc(all);
    writer->store = (struct cup_store){.fetch = fetch,
                                       .erase = erase,
                                       .write = put,
                                       .flush = flush,
                                       .self = writer,
                                       .slot_size = hello.slot_size,
                                       .ages_ms = 60000,
                                       .record_size = hello.slot_size,
                                       .slots = 2,
                                       .lost = hello.lost};
    return writer->slots && writing_take(writer->end, writer->slots, all);
}

static bool begin_process(struct writer *writer, bool anew)
{
    int ends[2];
    writer->end = -1;
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0)
        return false;
    writer->pid = fork();
    if (writer->pid == 0) {
        close(ends[0]);
        writing_live(ends[1], &writer->keeps, writer->plan, anew);
    }
    close(ends[1]);
    writer->end = ends[0];
    return writer->pid > 0;
}

struct writer *writer_open(const struct writer_keeps *keeps,
                           CUP_FLASH struct cup_plan *plan, char *wrong,
                           size_t size)
{
    struct writer *writer = calloc(1, sizeof(*writer));
    if (!writer)
        abort();
    writer->keeps = *keeps;
    writer->plan = plan;
    writer->pause_ms = REPLACE_FIRST_MS;
    if (begin_process(writer, false) && hear_hello(writer, wrong, size))
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
    return writer->waiting > 0 || writer->end < 0;
}

void writer_event(struct writer *writer, const char *line)
{
    size_t length = strlen(line);
    if (length <= EVENT_MOST)
        hand_over(writer, (struct note){NOTE_EVENT, 0, (uint32_t)length}, line);
}

bool writer_raw_head(struct writer *writer, const char *head)
{
    struct note note = {NOTE_HEAD, 0, (uint32_t)strlen(head)};
    return note.count <= ROW_MOST && hand_over(writer, note, head);
}

bool writer_raw(struct writer *writer, const char *row, size_t length)
{
    struct note note = {NOTE_ROW, 0, (uint32_t)length};
    return note.count <= ROW_MOST && hand_over(writer, note, row);
}

unsigned writer_raw_lost(struct writer *writer)
{
    unsigned lost = writer->rows_lost;
    writer->rows_lost = 0;
    return lost;
}

int writer_fd(const struct writer *writer)
{
    return writer->end;
}

static int64_t now_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

/* It is gone; what was on its way may be, too. */
static void bury(struct writer *writer)
{
    if (writer->end < 0)
        return;
    close(writer->end);
    kill(writer->pid, SIGKILL);
    waitpid(writer->pid, NULL, 0);
    int64_t now = now_ms();
    bool at_once = now - writer->died_ms < INT64_C(2) * REPLACE_MOST_MS;
    writer->pause_ms = !at_once ? REPLACE_FIRST_MS
                       : writer->pause_ms < REPLACE_MOST_MS / 2
                           ? 2 * writer->pause_ms
                           : REPLACE_MOST_MS;
    writer->died_ms = now;
    writer->end = -1;
    writer->pid = 0;
    writer->failed = true;
    writer->waiting = 0;
}

/* Another takes its place, once its pause is over, and is given all that it is
 * to keep. True when it is there. */
static bool replace(struct writer *writer)
{
    if (now_ms() - writer->died_ms < writer->pause_ms)
        return false;
    if (!begin_process(writer, true)) {
        writer->died_ms = now_ms();
        return false;
    }
    const uint32_t size = writer->store.slot_size;
    for (uint32_t i = 0; writer->slots && i < SLOTS_ALL; i++) {
        struct note note = {NOTE_SLOT, i * size, size};
        if (!hand_over(writer, note, writer->slots + note.at))
            return false;
        writer->waiting++;
    }
    return true;
}

bool writer_turn(struct writer *writer)
{
    uint8_t answer;
    ssize_t got;
    if (writer->end < 0)
        return !writer->ends && replace(writer);
    while ((got = recv(writer->end, &answer, 1, MSG_DONTWAIT)) == 1) {
        if (answer == ANSWER_ROW_LOST) {
            writer->rows_lost++;
            continue;
        }
        writer->failed = answer != ANSWER_KEPT;
        writer->waiting -= writer->waiting > 0;
    }
    if (got < 0 && (errno == EAGAIN || errno == EINTR))
        return true;
    if (writer->ends)
        return false;
    bury(writer);
    return replace(writer);
}
