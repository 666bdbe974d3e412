/* A journal of any bytes: it is read or it is not, a site that came of it runs
 * as any other, and what is written over it can be read again. */
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "bytes.h"
#include "cuplatch/journal.h"

#define SLOT 1024
#define SLOTS 2

static uint8_t kept[SLOT * SLOTS];

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    (void)self;
    if (at > sizeof(kept) || count > sizeof(kept) - at)
        abort();
    memcpy(bytes, kept + at, count);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    (void)self;
    if (at > sizeof(kept) || count > sizeof(kept) - at)
        abort();
    memset(kept + at, 0xFF, count);
    return CUP_OK;
}

static enum cup_error keep(void *self, uint32_t at, const uint8_t *bytes,
                           size_t count)
{
    (void)self;
    if (at > sizeof(kept) || count > sizeof(kept) - at)
        abort();
    memcpy(kept + at, bytes, count);
    return CUP_OK;
}

static const struct cup_store store = {.fetch = fetch,
                                       .erase = erase,
                                       .write = keep,
                                       .slot_size = SLOT,
                                       .slots = SLOTS};

static void lost(void *self, const struct cup_event *event)
{
    if (event->cause.reason == CUP_REASON_JOURNAL_LOST)
        *(int *)self = 1;
}

static void open_again(const struct cup_plan *plan, const struct cup_sink *sink)
{
    static uint32_t state[2048];
    struct cup_site site;
    struct cup_journal journal = {.sequence = 0};
    if (cup_site_bind(&site, plan, state, sizeof(state)) ||
        cup_journal_open(&journal, &site, 0, &store, sink))
        abort();
    for (uint32_t s = 0; s < 20; s++)
        cup_site_decide(&site, s * 1000, NULL);
    if (cup_journal_close(&journal, &site))
        abort();
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static struct cup_file *file;
    int is_lost = 0;
    struct cup_sink sink = {lost, &is_lost};
    if (!file)
        file = cup_file_read("examples/keeper/keeper.ini");
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan)
        abort();
    memset(kept, 0xFF, sizeof(kept));
    memcpy(kept, bytes, count < sizeof(kept) ? count : sizeof(kept));
    open_again(plan, &sink);
    is_lost = 0;
    open_again(plan, &sink);
    if (is_lost)
        abort();
    return 0;
}
