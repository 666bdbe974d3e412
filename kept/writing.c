/* The process that writes: files, and the end of the line where notes come. */
#include "writing.h"

#include <errno.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <unistd.h>

#include "../ports/common/store.h"
#include "days.h"
#include "ring.h"

/* A journal that the one before still writes to is waited for so long. */
#define LET_GO_MS 5000
#define AGAIN_MS 50

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

bool writing_take(int fd, void *bytes, size_t count)
{
    return recv(fd, bytes, count, MSG_WAITALL) == (ssize_t)count;
}

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

static bool say_hello(int end, const struct cup_store *store,
                      struct hello *hello)
{
    hello->lost = store && store->lost;
    hello->slot_size = store ? store->slot_size : 0;
    if (!put_all(end, hello, sizeof(*hello)) || !hello->open)
        return false;
    if (!store)
        return true;
    size_t size = (size_t)store->slot_size * SLOTS_ALL;
    uint8_t *slots = malloc(size);
    bool done = slots && !store->fetch(store->self, 0, slots, size) &&
                put_all(end, slots, size);
    free(slots);
    return done;
}

/* All that the process has open. */
struct files {
    struct cup_file_store *journal;
    struct ring *ring;
    struct days *days;
    bool events; /* some were added that may not be on the disk */
};

static uint8_t keep_slot(const struct files *files, const struct note *note,
                         const uint8_t *bytes)
{
    const struct cup_store *store =
        files->journal ? cup_file_store_of(files->journal) : NULL;
    return store && note->count == store->slot_size &&
                   !store->erase(store->self, note->at, note->count) &&
                   !store->write(store->self, note->at, bytes, note->count) &&
                   !store->flush(store->self)
               ? ANSWER_KEPT
               : ANSWER_NOT_KEPT;
}

static bool is_more(int end)
{
    struct pollfd one = {.fd = end, .events = POLLIN};
    return poll(&one, 1, 0) == 1;
}

static bool keep_row(const struct files *files, const struct note *note,
                     const char *text)
{
    if (!files->days)
        return false;
    return note->kind == NOTE_HEAD ? days_begin(files->days, time(NULL), text)
                                   : days_add(files->days, text);
}

/* Does what a note says; false when the other end is gone. */
static bool keep(int end, struct files *files, const struct note *note,
                 const uint8_t *bytes)
{
    uint8_t answer;
    switch (note->kind) {
    case NOTE_EVENT:
        if (files->ring && ring_add(files->ring, (const char *)bytes))
            files->events = true;
        return true;
    case NOTE_HEAD:
    case NOTE_ROW:
        answer = ANSWER_ROW_LOST;
        return keep_row(files, note, (const char *)bytes) ||
               put_all(end, &answer, 1);
    default:
        answer = keep_slot(files, note, bytes);
        return put_all(end, &answer, 1);
    }
}

/* Nothing more is waiting: what was added goes to the disk. */
static void rest(int end, struct files *files)
{
    uint8_t answer = ANSWER_ROW_LOST;
    if (files->events)
        files->events = !ring_sync(files->ring);
    if (files->days && !days_flush(files->days))
        put_all(end, &answer, 1);
}

/* Until the other end is gone: then all that was handed over is kept. */
static void serve(int end, struct files *files)
{
    uint8_t *bytes = malloc(ROW_MOST + 1);
    struct note note;
    while (bytes && writing_take(end, &note, sizeof(note)) &&
           note.count <= ROW_MOST && writing_take(end, bytes, note.count)) {
        bytes[note.count] = '\0';
        if (!keep(end, files, &note, bytes))
            break;
        if (!is_more(end))
            rest(end, files);
    }
    free(bytes);
}

static bool open_journal(const struct writer_keeps *keeps,
                         CUP_FLASH struct cup_plan *plan, struct files *files,
                         struct hello *hello)
{
    char why[WRONG_SIZE];
    files->journal = open_store(keeps->journal, plan, hello);
    if (!files->journal) {
        snprintf(why, sizeof(why), "%s", hello->wrong);
        snprintf(hello->wrong, sizeof(hello->wrong), "%.700s: %.200s",
                 keeps->journal, why);
        return false;
    }
    files->ring = ring_open(keeps->journal);
    if (!files->ring)
        snprintf(hello->wrong, sizeof(hello->wrong),
                 "%s: the events beside it cannot be kept: %s", keeps->journal,
                 strerror(errno));
    return files->ring != NULL;
}

static bool open_files(const struct writer_keeps *keeps,
                       CUP_FLASH struct cup_plan *plan, struct files *files,
                       struct hello *hello)
{
    if (keeps->journal && !open_journal(keeps, plan, files, hello))
        return false;
    if (!keeps->raw)
        return true;
    files->days = days_open(keeps->raw, keeps->raw_days);
    if (!files->days)
        snprintf(hello->wrong, sizeof(hello->wrong), "%s: %s", keeps->raw,
                 strerror(errno));
    return files->days != NULL;
}

/* Nothing that the controller holds is ours: no line and no socket. */
static void let_go_but(int end)
{
    if (end > 3)
        close_range(3, (unsigned)end - 1, 0);
    close_range((unsigned)end + 1, ~0u, 0);
}

void writing_live(int end, const struct writer_keeps *keeps,
                  CUP_FLASH struct cup_plan *plan, bool anew)
{
    struct hello hello = {.open = false};
    struct files files = {.journal = NULL};
    let_go_but(end);
    signal(SIGTERM, SIG_IGN); /* it ends with whom it writes for */
    signal(SIGINT, SIG_IGN);
    hello.open = open_files(keeps, plan, &files, &hello);
    if (anew && !hello.open)
        fprintf(stderr, "cuplatch: %s\n", hello.wrong);
    else if (anew)
        serve(end, &files);
    else if (say_hello(end,
                       files.journal ? cup_file_store_of(files.journal) : NULL,
                       &hello))
        serve(end, &files);
    if (files.days)
        days_close(files.days);
    if (files.ring)
        ring_close(files.ring);
    if (files.journal)
        cup_file_store_close(files.journal);
    _exit(0);
}
