/* A journal's flash in memory, for tests. */
#include "flash.h"

#include <limits.h>
#include <string.h>

#include "harness.h"

static bool is_cut(struct flash *flash)
{
    if (flash->left == 0)
        return true;
    flash->left -= flash->left < UINT32_MAX;
    return false;
}

static bool fails(const struct flash *flash)
{
    return flash->fails && flash->fails(flash->of);
}

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    struct flash *flash = self;
    memcpy(bytes, flash->bytes + at, count);
    return flash->reads_left-- > 0 ? CUP_OK : CUP_ERROR_PORT;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    struct flash *flash = self;
    if (fails(flash))
        return CUP_ERROR_PORT;
    for (size_t i = 0; i < count; i++) {
        if (is_cut(flash))
            return CUP_ERROR_PORT;
        flash->bytes[at + i] = 0xFF;
    }
    return CUP_OK;
}

/* The word under the head when the power fails is anything. */
static void tear(struct flash *flash, uint32_t at)
{
    for (uint32_t i = at & ~3u; flash->noise && i < (at & ~3u) + 4; i++) {
        flash->noise = flash->noise * UINT32_C(1664525) + 1013904223;
        flash->bytes[i] = (uint8_t)(flash->noise >> 24);
    }
}

static enum cup_error put(void *self, uint32_t at, const uint8_t *bytes,
                          size_t count)
{
    struct flash *flash = self;
    bool failing = fails(flash);
    for (size_t i = 0; i < (failing ? count / 2 : count); i++) {
        if (is_cut(flash)) {
            tear(flash, at + (uint32_t)i);
            return CUP_ERROR_PORT;
        }
        bool was_erased = flash->bytes[at + i] == 0xFF;
        if (!was_erased)
            CHECK(was_erased);
        flash->bytes[at + i] &= bytes[i];
    }
    flash->writes += !failing;
    return failing ? CUP_ERROR_PORT : CUP_OK;
}

struct cup_store flash_store(struct flash *flash)
{
    return (struct cup_store){.fetch = fetch,
                              .erase = erase,
                              .write = put,
                              .self = flash,
                              .slot_size = sizeof(flash->bytes) / 4,
                              .record_size = sizeof(flash->bytes) / 8,
                              .slots = 2};
}

struct cup_store flash_begin(struct flash *flash)
{
    *flash = (struct flash){.reads_left = INT_MAX, .left = UINT32_MAX};
    memset(flash->bytes, 0xFF, sizeof(flash->bytes));
    return flash_store(flash);
}
