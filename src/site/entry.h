/* How an entry of the journal is laid out, for who writes and who reads it. */
#ifndef CUPLATCH_SITE_ENTRY_H
#define CUPLATCH_SITE_ENTRY_H

#include "cuplatch/journal.h"

/* An entry: mark, version, number, fingerprint, length of all that follows up
 * to the checksum; then items; then the checksum of everything before. */
#define HEAD_SIZE 16
#define CRC_SIZE 4

/* How old a part of a day's doses is, in a byte, in steps of two minutes. */
#define PART_STEP_MS 120000u
CUP_ASSERT(CUP_DOSE_PART_MS / PART_STEP_MS <= UINT8_MAX, "it fits a byte");

/* An item: key of its thing, what it says, how many bytes; then those. */
#define ITEM_HEAD 6
#define ITEM_MOST 13

/* What an item says, and in how many bytes. */
#define ITEMS(X)                                                               \
    X(SITE, CUP_IF_ELSE(CLOCK, 5, 1))                                          \
    X(PUMP, 3)                                                                 \
    X(PER_DAY, 10)                                                             \
    X(DOSE, 3)                                                                 \
    X(TURN, 9)                                                                 \
    X(SET, 13)                                                                 \
    X(LEVEL, 3)                                                                \
    X(DAY_DOSES, CUP_DOSE_PARTS + 2)                                           \
    X(DAY_DATE, 2)                                                             \
    X(TRIES, 2)                                                                \
    X(CHOICE, 5)                                                               \
    X(CLOCK, 4)

#define ITEM_OF(name, bytes) ITEM_##name,
#define ITEM_SIZE(name, bytes) what == ITEM_##name ? (bytes):
enum item { ITEMS(ITEM_OF) };

/* 0: there is no such item. A chain, not a table: most are asked for by name,
 * and a table in flash would be read all the same. */
static CUP_TINY uint8_t item_size(uint8_t what)
{
    return ITEMS(ITEM_SIZE) 0;
}

/* Bytes, low one first, whatever the machine. */

static inline uint8_t *put16(uint8_t *at, uint32_t value)
{
    *at++ = (uint8_t)value;
    *at++ = (uint8_t)(value >> 8);
    return at;
}

static inline uint8_t *put32(uint8_t *at, uint32_t value)
{
    return put16(put16(at, value), value >> 16);
}

static inline uint32_t get16(const uint8_t *at)
{
    return (uint32_t)at[0] | (uint32_t)at[1] << 8;
}

static inline uint32_t get32(const uint8_t *at)
{
    return get16(at) | get16(at + 2) << 16;
}

/* A slot as it was found: its number when it is whole. */
struct cup_found {
    uint32_t sequence;
    uint32_t fingerprint;
    uint32_t length;
    bool whole;
    bool blank;
};

/* recall.c: the slot of the newest whole entry, and how many are torn or
 * spoilt; and what an entry that was found whole says goes back into the site.
 */
uint8_t cup_in_recall_newest(const struct cup_store *store,
                             struct cup_found *best, unsigned *spoilt);
bool cup_in_recall(const struct cup_store *store, const struct cup_site *site,
                   uint8_t slot, const struct cup_found *found);

#if CUP_USES_CHOICES
/* record.c: what people chose is written as entries of its own, in slots after
 * those of the journal: how many rows there are, the key of one, how many
 * stand, and the bytes of one that does; whether it is to be written; a row
 * goes back into the site. */
struct cup_store cup_in_record_store(const struct cup_store *store);
cup_index cup_in_record_rows(CUP_FLASH struct cup_plan *plan);
uint32_t cup_in_record_key(CUP_FLASH struct cup_plan *plan, cup_index row);
cup_index cup_in_record_count(const struct cup_site *site);
bool cup_in_record_row(const struct cup_site *site, cup_index row,
                       uint8_t *bytes);
bool cup_in_record_is_due(const struct cup_site *site);
void cup_in_record_take(const struct cup_site *site, uint32_t key,
                        const uint8_t *bytes);

/* chosen.c: all of it is read back, or cannot be; `known` is whether the
 * journal could be, or there was none. */
enum cup_in_chosen {
    CUP_CHOSEN_NONE,
    CUP_CHOSEN_READ,
    CUP_CHOSEN_LOST,
    CUP_CHOSEN_STRANGE /* it names what is not there any more */
};
enum cup_in_chosen cup_in_chosen_read(struct cup_journal *journal,
                                      const struct cup_site *site, bool known);
#endif

#endif
