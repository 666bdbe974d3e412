/* A journal's flash in memory, for tests. */
#include "flash.h"

#include <limits.h>
#include <string.h>

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    struct flash *flash = self;
    memcpy(bytes, flash->bytes + at, count);
    return flash->reads_left-- > 0 ? CUP_OK : CUP_ERROR_PORT;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    memset(((struct flash *)self)->bytes + at, 0xFF, count);
    return CUP_OK;
}

static enum cup_error keep(void *self, uint32_t at, const uint8_t *bytes,
                           size_t count)
{
    memcpy(((struct flash *)self)->bytes + at, bytes, count);
    return CUP_OK;
}

struct cup_store flash_begin(struct flash *flash)
{
    memset(flash->bytes, 0xFF, sizeof(flash->bytes));
    flash->reads_left = INT_MAX;
    return (struct cup_store){.fetch = fetch,
                              .erase = erase,
                              .write = keep,
                              .self = flash,
                              .slot_size = sizeof(flash->bytes) / 2,
                              .slots = 2};
}
