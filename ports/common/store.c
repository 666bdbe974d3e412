/* Two slots in a file. An entry is put together in memory and is on the disk
 * before anything that it tells of is done; a power cut leaves the slot of the
 * entry before as it was. */
#include "store.h"

#include <errno.h>
#include <fcntl.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define SLOTS 2
/* ... and three copies of what people chose, as large. */
#define COPIES 3
/* Room for a site that grows: one slot size serves most. */
#define SLOT_STEP 4096
/* A disk does not wear as a flash does. */
#define AGES_MS (UINT32_C(60) * 1000)
/* Names that a file may be set aside under. */
#define ASIDES_MOST 100

/* `slot` is the one in the making, and lies in the file at `slot_at`. */
struct cup_file_store {
    struct cup_store store;
    int file;
    uint8_t *slot;
    uint32_t slot_at;
};

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    struct cup_file_store *store = self;
    ssize_t got = pread(store->file, bytes, count, (off_t)at);
    if (got < 0)
        return CUP_ERROR_PORT;
    memset(bytes + got, 0xFF, count - (size_t)got);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    struct cup_file_store *store = self;
    store->slot_at = at;
    memset(store->slot, 0xFF, count);
    return CUP_OK;
}

static enum cup_error put(void *self, uint32_t at, const uint8_t *bytes,
                          size_t count)
{
    struct cup_file_store *store = self;
    memcpy(store->slot + (at - store->slot_at), bytes, count);
    return CUP_OK;
}

static enum cup_error flush(void *self)
{
    struct cup_file_store *store = self;
    size_t size = store->store.slot_size;
    ssize_t put = pwrite(store->file, store->slot, size, (off_t)store->slot_at);
    return put == (ssize_t)size && fdatasync(store->file) == 0 ? CUP_OK
                                                               : CUP_ERROR_PORT;
}

/* What a file that holds no whole entry is. */
enum found { FOUND_EMPTY, FOUND_UNREADABLE, FOUND_OTHER };

/* The beginning of an entry, as far as it goes. */
static bool begins_entry(const uint8_t *bytes, size_t count)
{
    static const uint8_t head[] = {
        CUP_JOURNAL_MARK & 0xFF, CUP_JOURNAL_MARK >> 8, CUP_JOURNAL_VERSION, 0};
    size_t least = count < sizeof(head) ? count : sizeof(head);
    return least > 0 && memcmp(bytes, head, least) == 0;
}

/* Nothing but zeros, or nothing but 0xFF: what a disk or a flash leaves. Which,
 * is in `of`. */
static bool is_blank(int file, uint8_t *of)
{
    uint8_t bytes[SLOT_STEP];
    uint8_t first = 0;
    ssize_t got;
    for (off_t at = 0; (got = pread(file, bytes, sizeof(bytes), at)) > 0;
         at += got) {
        if (at == 0)
            first = *of = bytes[0];
        for (ssize_t i = 0; i < got; i++)
            if (bytes[i] != first || (first != 0 && first != 0xFF))
                return false;
    }
    return got == 0;
}

/* As large as we make them, or made them before people's choices had copies; or
 * so small that nobody can want it. */
static bool is_of_our_size(off_t size, uint32_t slot_size)
{
    return size < 2 || size == (off_t)(SLOTS + COPIES) * (off_t)slot_size ||
           size == (off_t)SLOTS * (off_t)slot_size;
}

/* Something that begins as ours, in whichever slot. */
static bool has_entry(int file, uint32_t slot_size)
{
    uint8_t head[4];
    for (int slot = 0; slot < SLOTS + COPIES; slot++) {
        ssize_t got = pread(file, head, sizeof(head), (off_t)slot * slot_size);
        if (got > 0 && begins_entry(head, (size_t)got))
            return true;
    }
    return false;
}

static enum found look_into(int file, uint32_t slot_size)
{
    struct stat about;
    uint8_t blank = 0;
    const off_t whole = (off_t)(SLOTS + COPIES) * slot_size;
    if (fstat(file, &about) != 0 || !S_ISREG(about.st_mode))
        return FOUND_OTHER;
    if (is_blank(file, &blank) && blank == 0xFF && about.st_size == whole)
        return FOUND_EMPTY; /* as we make them */
    if (has_entry(file, slot_size))
        return FOUND_UNREADABLE;
    return is_of_our_size(about.st_size, slot_size) || is_blank(file, &blank)
               ? FOUND_UNREADABLE
               : FOUND_OTHER;
}

static bool fail(char *wrong, size_t size, const char *text)
{
    snprintf(wrong, size, "%s", text);
    return false;
}

/* Nobody else writes to it while it is open. */
static bool lock(int file, char *wrong, size_t size)
{
    struct flock whole = {.l_type = F_WRLCK, .l_whence = SEEK_SET};
    if (fcntl(file, F_SETLK, &whole) == 0)
        return true;
    if (errno != EACCES && errno != EAGAIN)
        return fail(wrong, size, strerror(errno));
    if (fcntl(file, F_GETLK, &whole) != 0 || whole.l_type == F_UNLCK)
        return fail(wrong, size, "is in use by another program");
    snprintf(wrong, size,
             "is in use by process %jd; end that first, or name another file",
             (intmax_t)whole.l_pid);
    return false;
}

static bool open_file(struct cup_file_store *store, const char *path,
                      char *wrong, size_t size)
{
    store->file = open(path, O_RDWR | O_CLOEXEC | O_NONBLOCK);
    return store->file >= 0 ? lock(store->file, wrong, size)
                            : fail(wrong, size, strerror(errno));
}

/* Blank slots, and the copies of an old file, if there was one. */
static bool fill(const struct cup_file_store *store, int file,
                 const uint8_t *copies)
{
    const size_t slot = store->store.slot_size;
    bool done = true;
    memset(store->slot, 0xFF, slot);
    for (size_t i = 0; done && i < SLOTS + COPIES; i++) {
        const uint8_t *bytes =
            copies && i >= SLOTS ? copies + (i - SLOTS) * slot : store->slot;
        done = write(file, bytes, slot) == (ssize_t)slot;
    }
    return done && fsync(file) == 0;
}

/* A file that is not there is there whole, or not at all: an empty one is none
 * of ours. Nothing that is there is replaced. */
static bool make_file(const struct cup_file_store *store, const char *path,
                      const uint8_t *copies, char *wrong, size_t size)
{
    size_t length = strlen(path) + 8;
    char *name = malloc(length);
    if (!name)
        return fail(wrong, size, "there is no memory for it");
    snprintf(name, length, "%s.XXXXXX", path);
    int file = mkstemp(name);
    mode_t mask = umask(0);
    umask(mask);
    if (file >= 0)
        (void)!fchmod(file, 0666 & ~mask);
    bool done = file >= 0 && fill(store, file, copies) &&
                (link(name, path) == 0 || errno == EEXIST ||
                 rename(name, path) == 0); /* where there are no links */
    if (!done)
        fail(wrong, size, strerror(errno));
    if (file >= 0) {
        close(file);
        unlink(name);
    }
    free(name);
    return done;
}

/* Moves a file out of the way, to the first name that is free; there it stays
 * as it is. */
static bool set_aside(const char *path, FILE *said)
{
    size_t size = strlen(path) + 24;
    char *name = malloc(size);
    bool moved = false;
    for (int i = 1; name && !moved && i <= ASIDES_MOST; i++) {
        snprintf(name, size, i == 1 ? "%s.unreadable" : "%s.unreadable-%d",
                 path, i);
        moved = link(path, name) == 0;
        if (!moved && errno != EEXIST)
            break;
    }
    moved = moved && unlink(path) == 0;
    if (moved && said)
        fprintf(said,
                "cuplatch: %s: the journal cannot be read; it is kept as %s, "
                "and a new one is begun\n",
                path, name);
    free(name);
    return moved;
}

/* What people chose, as it lies in a file whose journal cannot be read. */
static uint8_t *read_copies(const struct cup_file_store *store)
{
    const size_t slot = store->store.slot_size;
    uint8_t *copies = malloc(COPIES * slot);
    if (!copies)
        return NULL;
    memset(copies, 0xFF, COPIES * slot);
    (void)!pread(store->file, copies, COPIES * slot, (off_t)(SLOTS * slot));
    return copies;
}

/* An unreadable journal gives way to a new one. */
static bool begin_anew(struct cup_file_store *store, const char *path,
                       FILE *said, char *wrong, size_t size)
{
    if (!set_aside(path, said))
        return fail(wrong, size,
                    "cannot be read, nor moved out of the way; name another "
                    "file");
    uint8_t *copies = read_copies(store);
    close(store->file);
    store->file = -1;
    store->store.lost = true;
    bool done = make_file(store, path, copies, wrong, size) &&
                open_file(store, path, wrong, size);
    free(copies);
    return done;
}

static bool open_journal(struct cup_file_store *store, const char *path,
                         FILE *said, char *wrong, size_t size)
{
    if (access(path, F_OK) != 0 && errno == ENOENT &&
        !make_file(store, path, NULL, wrong, size))
        return false;
    if (!open_file(store, path, wrong, size))
        return false;
    if (cup_journal_is_there(&store->store))
        return true;
    switch (look_into(store->file, store->store.slot_size)) {
    case FOUND_EMPTY:
        return true;
    case FOUND_UNREADABLE:
        return begin_anew(store, path, said, wrong, size);
    default:
        return fail(wrong, size,
                    "is there, but is no journal of cuplatch; name another "
                    "file");
    }
}

struct cup_file_store *cup_file_store_open(const char *path,
                                           CUP_FLASH struct cup_plan *plan,
                                           FILE *said, char *wrong, size_t size)
{
    uint32_t steps = (cup_journal_size(plan) + SLOT_STEP - 1) / SLOT_STEP;
    struct cup_file_store *store = calloc(1, sizeof(*store));
    uint8_t *slot = malloc((size_t)steps * SLOT_STEP);
    if (!store || !slot) {
        fail(wrong, size, "there is no memory for it");
        free(store);
        free(slot);
        return NULL;
    }
    *store = (struct cup_file_store){.file = -1, .slot = slot};
    store->store = (struct cup_store){.fetch = fetch,
                                      .erase = erase,
                                      .write = put,
                                      .flush = flush,
                                      .self = store,
                                      .slot_size = steps * SLOT_STEP,
                                      .ages_ms = AGES_MS,
                                      .record_size = steps * SLOT_STEP,
                                      .slots = SLOTS};
    if (open_journal(store, path, said, wrong, size))
        return store;
    cup_file_store_close(store);
    return NULL;
}

void cup_file_store_close(struct cup_file_store *store)
{
    if (store->file >= 0)
        close(store->file);
    free(store->slot);
    free(store);
}

const struct cup_store *cup_file_store_of(const struct cup_file_store *store)
{
    return &store->store;
}
