/* Two slots in a file. Each write is on the disk before the next begins, so
 * that a power cut leaves what a flash would. */
#include "store.h"

#include <errno.h>
#include <fcntl.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define SLOTS 2
/* Room for a site that grows: one slot size serves most. */
#define SLOT_STEP 4096
/* A disk does not wear as a flash does. */
#define AGES_MS (UINT32_C(5) * 60 * 1000)

struct cup_file_store {
    struct cup_store store;
    int file;
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

static enum cup_error put(void *self, uint32_t at, const uint8_t *bytes,
                          size_t count)
{
    struct cup_file_store *store = self;
    return pwrite(store->file, bytes, count, (off_t)at) == (ssize_t)count
               ? CUP_OK
               : CUP_ERROR_PORT;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    uint8_t blank[SLOT_STEP];
    memset(blank, 0xFF, sizeof(blank));
    for (size_t done = 0; done < count; done += sizeof(blank))
        if (put(self, at + (uint32_t)done, blank, sizeof(blank)))
            return CUP_ERROR_PORT;
    return CUP_OK;
}

/* A file that is not a journal is not written over. */
static bool is_journal(int file, uint32_t slot_size)
{
    struct stat about;
    uint8_t mark[2];
    if (fstat(file, &about) != 0 || !S_ISREG(about.st_mode))
        return false;
    if (about.st_size == 0)
        return true;
    for (int slot = 0; slot < SLOTS; slot++)
        if (pread(file, mark, 2, (off_t)slot * slot_size) == 2 &&
            mark[0] == (CUP_JOURNAL_MARK & 0xFF) &&
            mark[1] == CUP_JOURNAL_MARK >> 8)
            return true;
    return false;
}

struct cup_file_store *cup_file_store_open(const char *path,
                                           CUP_FLASH struct cup_plan *plan)
{
    struct cup_file_store *store = calloc(1, sizeof(*store));
    if (!store)
        return NULL;
    uint32_t steps = (cup_journal_size(plan) + SLOT_STEP - 1) / SLOT_STEP;
    store->store = (struct cup_store){.fetch = fetch,
                                      .erase = erase,
                                      .write = put,
                                      .self = store,
                                      .slot_size = steps * SLOT_STEP,
                                      .ages_ms = AGES_MS,
                                      .slots = SLOTS};
    store->file = open(path, O_RDWR | O_CREAT | O_CLOEXEC | O_DSYNC, 0666);
    if (store->file >= 0 && is_journal(store->file, store->store.slot_size))
        return store;
    if (store->file >= 0) {
        close(store->file);
        errno = EINVAL;
    }
    free(store);
    return NULL;
}

void cup_file_store_close(struct cup_file_store *store)
{
    close(store->file);
    free(store);
}

const struct cup_store *cup_file_store_of(const struct cup_file_store *store)
{
    return &store->store;
}
