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

/* Nothing but zeros, or nothing but 0xFF: what a disk or a flash leaves. */
static bool is_blank(int file)
{
    uint8_t bytes[SLOT_STEP];
    uint8_t first = 0;
    ssize_t got;
    for (off_t at = 0; (got = pread(file, bytes, sizeof(bytes), at)) > 0;
         at += got) {
        if (at == 0)
            first = bytes[0];
        for (ssize_t i = 0; i < got; i++)
            if (bytes[i] != first || (first != 0 && first != 0xFF))
                return false;
    }
    return got == 0;
}

static enum found look_into(int file, uint32_t slot_size)
{
    struct stat about;
    uint8_t head[4];
    if (fstat(file, &about) != 0 || !S_ISREG(about.st_mode))
        return FOUND_OTHER;
    if (about.st_size == 0)
        return FOUND_EMPTY;
    for (int slot = 0; slot < SLOTS; slot++) {
        ssize_t got = pread(file, head, sizeof(head), (off_t)slot * slot_size);
        if (got > 0 && begins_entry(head, (size_t)got))
            return FOUND_UNREADABLE;
    }
    return about.st_size == 1 || is_blank(file) ? FOUND_UNREADABLE
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

static bool open_file(struct cup_file_store *store, const char *path, int more,
                      char *wrong, size_t size)
{
    store->file =
        open(path, O_RDWR | O_CREAT | O_CLOEXEC | O_NONBLOCK | more, 0666);
    return store->file >= 0 ? lock(store->file, wrong, size)
                            : fail(wrong, size, strerror(errno));
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

/* An unreadable journal gives way to a new one. */
static bool begin_anew(struct cup_file_store *store, const char *path,
                       FILE *said, char *wrong, size_t size)
{
    if (!set_aside(path, said))
        return fail(wrong, size,
                    "cannot be read, nor moved out of the way; name another "
                    "file");
    close(store->file);
    store->store.lost = true;
    return open_file(store, path, O_EXCL, wrong, size);
}

static bool open_journal(struct cup_file_store *store, const char *path,
                         FILE *said, char *wrong, size_t size)
{
    if (!open_file(store, path, 0, wrong, size))
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
