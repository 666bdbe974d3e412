/* The journal: what must survive a power cut. What was set while running,
 * switches that are off, trips and locks, the totals of the day, doses given,
 * the last turn of each duty.
 *
 * What bounds water is written before it flows: a run with limits of a day, a
 * dose, a flood is written with its whole length when it begins, and put right
 * when it ends, so that however often the power fails no more is given than
 * the plan allows. That is one entry a start and one a stop.
 *
 * It lies in two or more slots. A new entry goes into the slot of the oldest,
 * with the next number and a CRC-32 at its end, so that a cut at any byte
 * leaves the entry before it whole: what is read back is always one entry,
 * never a mix. Times are kept as ages. The time without power counts as
 * nothing, until a clock is set: then it counts for turns, since the journal
 * keeps what the clock said. Things are known by a hash of their names. When
 * the site was edited in the meantime, a setting holds on unless the file's own
 * number for it was edited, or marks would cross; which, is told.
 *
 * What people chose, a pump or a duty that is off, a hold, lies apart from it,
 * in three copies that are written only when it changes: a spoilt journal
 * forgets none of it. Where that cannot be read, either, the site begins on
 * hold.
 *
 * In use:
 *
 *     struct cup_journal journal = {0};
 *     if (cup_journal_open(&journal, site, now_ms, &store, &sink))
 *         return;
 *     while (cup_journal_pass(&journal, site, port) != CUP_ERROR_LAYOUT)
 *         sleep_for(cup_site_wait(site)); */
#ifndef CUPLATCH_JOURNAL_H
#define CUPLATCH_JOURNAL_H

#include "port.h"

CUP_C_BEGINS

#define CUP_JOURNAL_VERSION 1
/* The first two bytes of an entry: "CL". */
#define CUP_JOURNAL_MARK 0x4C43u
/* Between two entries; bounded runs, trips and what people say aside. */
#define CUP_JOURNAL_EVERY_MS (UINT32_C(10) * 60 * 1000)
/* Between two entries when only time has passed: how old a day or a flood is.
 */
#define CUP_JOURNAL_AGES_MS (UINT32_C(60) * 60 * 1000)

/* Where it lies: bytes that keep without power. `erase` makes a slot's bytes
 * 0xFF; `write` is only ever called for bytes that were erased before, in
 * rising order; `flush` (may be null) comes after the last of an entry, so that
 * a store may hold back what it was given till then. Each returns
 * CUP_ERROR_PORT when it could not. */
struct cup_store {
    enum cup_error (*fetch)(void *self, uint32_t at, uint8_t *bytes,
                            size_t count);
    enum cup_error (*erase)(void *self, uint32_t at, size_t count);
    enum cup_error (*write)(void *self, uint32_t at, const uint8_t *bytes,
                            size_t count);
    enum cup_error (*flush)(void *self);
    void *self;
    uint32_t slot_size; /* at least cup_journal_size() */
    uint32_t ages_ms;   /* instead of CUP_JOURNAL_AGES_MS, if not 0 */
    /* bytes of each of three copies of what people chose, which lie after the
     * slots: at least cup_record_size(), else there are none */
    uint32_t record_size;
    uint32_t first; /* where the first slot begins; 0 as a rule */
    uint8_t slots;  /* at least 2; each is written in its turn */
    bool lost;      /* what was here could not be read: that is told */
};

/* The journal at work. All zero, then cup_journal_open(). */
struct cup_journal {
    const struct cup_store *store;
    uint32_t sequence;
    uint32_t wrote_ms; /* our time */
    uint32_t record;   /* number of the record of what people chose */
    uint8_t slot;      /* the next entry's */
};

/* Bytes that an entry of this plan needs. */
uint32_t cup_journal_size(CUP_FLASH struct cup_plan *plan);

/* Bytes that the record of what people chose needs. Where CUP_USES_CHOICES. */
uint32_t cup_record_size(CUP_FLASH struct cup_plan *plan);

/* Reads the newest whole entry back into a site that was just bound, before
 * its first pass, and tells `sink` what came of it: nothing for an empty
 * store. CUP_ERROR_SPACE: the slots are too small, or fewer than two.
 * CUP_ERROR_LAYOUT: the plan has no keys. `store` must live as long. */
CUP_MUST_USE enum cup_error cup_journal_open(struct cup_journal *journal,
                                             const struct cup_site *site,
                                             uint32_t now_ms,
                                             const struct cup_store *store,
                                             const struct cup_sink *sink);

/* Whether any slot holds a whole entry, of whatever plan. */
bool cup_journal_is_there(const struct cup_store *store);

/* Writes an entry when something changed and it is time; after each pass has
 * decided, and before what it decided is driven. CUP_ERROR_PORT: the store
 * failed; the next pass tells so, and it is tried again at the next call. */
CUP_MUST_USE enum cup_error cup_journal_step(struct cup_journal *journal,
                                             const struct cup_site *site);

/* One pass over a port, as cup_port_pass(), with the entry that it may ask for
 * before anything is driven. Returns what that does: a loop goes on for all but
 * CUP_ERROR_LAYOUT. A store that
 * fails is told as an event by the next pass; till it works again
 * site->pass->journal is not CUP_JOURNAL_WORKS. */
CUP_MUST_USE enum cup_error cup_journal_pass(struct cup_journal *journal,
                                             const struct cup_site *site,
                                             struct cup_port *port);

/* Writes an entry now: the program ends. */
CUP_MUST_USE enum cup_error cup_journal_close(struct cup_journal *journal,
                                              const struct cup_site *site);

CUP_C_ENDS

#endif
