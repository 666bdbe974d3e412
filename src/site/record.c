/* What people chose, in three copies apart from the journal: any two may be
 * spoilt, and the journal, too. */
#include <string.h>

#include "entry.h"
#include "inside.h"

#if CUP_USES_CHOICES

#define RECORD_COPIES 3
#define RECORD_MARK 0x5243u
#define RECORD_VERSION 1
#define RECORD_HEAD 12
#define RECORD_ROW 9
/* Ages and what is left, in minutes, and six of them. */
#define RECORD_MINUTE_MS UINT32_C(60000)
#define RECORD_AGE_MS (6 * RECORD_MINUTE_MS)
CUP_ASSERT(CUP_CHOICE_DAY_MS / RECORD_AGE_MS <= UINT8_MAX, "it fits a byte");
CUP_ASSERT(CUP_TIME_MAX_MS / RECORD_MINUTE_MS < UINT16_MAX,
           "it fits two bytes");

static cup_index rows_of(CUP_FLASH struct cup_plan *plan)
{
    return (cup_index)(plan->pump_count + plan->duty_count + 1);
}

uint32_t cup_record_size(CUP_FLASH struct cup_plan *plan)
{
    return RECORD_HEAD + (uint32_t)rows_of(plan) * RECORD_ROW + CRC_SIZE;
}

/* The site has no name of its own. */
static uint32_t key_of_row(CUP_FLASH struct cup_plan *plan, cup_index row)
{
    return row + 1 == rows_of(plan) ? 0 : plan->keys[cup_pump_thing(plan, row)];
}

static uint32_t copy_at(const struct cup_store *store, uint8_t copy)
{
    return store->slots * store->slot_size + copy * store->record_size;
}

/* Writing */

static bool is_recorded(const struct cup_choice_state *state)
{
    return cup_choice_is(state, CUP_CHOICE_STANDS | CUP_CHOICE_SKIP);
}

static void put_row(const struct cup_site *site, cup_index row, uint8_t *bytes)
{
    const struct cup_choice_state *state = &site->choices[row];
    const uint32_t now = site->pass->clock_ms;
    const uint32_t left = cup_choice_left(state, now);
    const uint32_t age =
        cup_least(cup_elapsed(now, state->since_ms), CUP_CHOICE_DAY_MS - 1);
    uint8_t *at = put32(bytes, key_of_row(site->plan, row));
    *at++ = (uint8_t)(state->flags & (CUP_CHOICE_STANDS | CUP_CHOICE_ENDS |
                                      CUP_CHOICE_TOLD | CUP_CHOICE_SKIP));
    at = put16(at, (left + RECORD_MINUTE_MS - 1) / RECORD_MINUTE_MS);
    *at++ = (uint8_t)cup_least(state->days, UINT8_MAX);
    *at = (uint8_t)(age / RECORD_AGE_MS);
}

static void put_part(const struct cup_store *store, uint32_t *at, uint32_t *crc,
                     const uint8_t *bytes, size_t count, enum cup_error *error)
{
    *crc = cup_crc32(*crc, bytes, count);
    if (!*error)
        *error = store->write(store->self, *at, bytes, count);
    *at += (uint32_t)count;
}

static enum cup_error write_copy(const struct cup_journal *journal,
                                 const struct cup_site *site, uint8_t copy)
{
    const struct cup_store *store = journal->store;
    uint32_t at = copy_at(store, copy);
    uint32_t crc = 0;
    uint32_t rows = 0;
    uint8_t bytes[RECORD_HEAD];
    for (cup_index i = 0; i < rows_of(site->plan); i++)
        rows += is_recorded(&site->choices[i]);
    enum cup_error error = store->erase(store->self, at, store->record_size);
    put32(put32(put16(put16(bytes, RECORD_MARK), RECORD_VERSION),
                journal->record + 1),
          rows);
    put_part(store, &at, &crc, bytes, RECORD_HEAD, &error);
    for (cup_index i = 0; i < rows_of(site->plan); i++)
        if (is_recorded(&site->choices[i])) {
            put_row(site, i, bytes);
            put_part(store, &at, &crc, bytes, RECORD_ROW, &error);
        }
    put32(bytes, crc);
    put_part(store, &at, &crc, bytes, CRC_SIZE, &error);
    if (store->flush && !error)
        error = store->flush(store->self);
    return error;
}

/* One copy after the other: a cut leaves two whole. */
enum cup_error cup_in_record_write(struct cup_journal *journal,
                                   const struct cup_site *site)
{
    enum cup_error error = CUP_OK;
    if (journal->store->record_size < cup_record_size(site->plan))
        return CUP_OK;
    for (uint8_t copy = 0; copy < RECORD_COPIES; copy++) {
        enum cup_error wrong = write_copy(journal, site, copy);
        if (wrong)
            error = wrong;
    }
    if (error)
        return error;
    journal->record++;
    site->pass->unkept = false;
    return CUP_OK;
}

/* While something ends by itself the record is as old as the journal. */
bool cup_in_record_is_due(const struct cup_site *site)
{
    if (site->pass->unkept)
        return true;
    for (cup_index i = 0; site->pass->standing > 0 && i < rows_of(site->plan);
         i++)
        if (cup_choice_is(&site->choices[i], CUP_CHOICE_ENDS))
            return true;
    return false;
}

/* Reading */

/* A copy as it was found. */
struct copy {
    uint32_t number;
    uint32_t rows;
    bool whole;
    bool blank;
};

static bool fetched(const struct cup_store *store, uint32_t at, uint8_t *bytes,
                    size_t count)
{
    return store->fetch(store->self, at, bytes, count) == CUP_OK;
}

static struct copy look_at_copy(const struct cup_store *store, uint8_t number)
{
    struct copy copy = {.whole = false};
    uint8_t bytes[RECORD_HEAD];
    uint32_t at = copy_at(store, number);
    if (!fetched(store, at, bytes, RECORD_HEAD))
        return copy;
    copy.blank = get32(bytes) == UINT32_MAX && get32(bytes + 4) == UINT32_MAX;
    copy.number = get32(bytes + 4);
    copy.rows = get32(bytes + 8);
    if (get16(bytes) != RECORD_MARK || get16(bytes + 2) != RECORD_VERSION ||
        copy.rows > (store->record_size - RECORD_HEAD - CRC_SIZE) / RECORD_ROW)
        return copy;
    uint32_t crc = cup_crc32(0, bytes, RECORD_HEAD);
    at += RECORD_HEAD;
    for (uint32_t i = 0; i < copy.rows; i++, at += RECORD_ROW) {
        if (!fetched(store, at, bytes, RECORD_ROW))
            return copy;
        crc = cup_crc32(crc, bytes, RECORD_ROW);
    }
    copy.whole = fetched(store, at, bytes, CRC_SIZE) && get32(bytes) == crc;
    return copy;
}

static void take_row(const struct cup_site *site, const uint8_t *bytes)
{
    const uint32_t now = site->pass->clock_ms;
    for (cup_index i = 0; i < rows_of(site->plan); i++) {
        struct cup_choice_state *state = &site->choices[i];
        if (key_of_row(site->plan, i) != get32(bytes))
            continue;
        const uint32_t age = bytes[8] * RECORD_AGE_MS;
        *state = (struct cup_choice_state){
            .since_ms = now - age,
            .left_ms = age + cup_least(get16(bytes + 5),
                                       CUP_TIME_MAX_MS / RECORD_MINUTE_MS) *
                                 RECORD_MINUTE_MS,
            .days = bytes[7],
            .flags = bytes[4]};
    }
}

/* As the record says, whatever the journal does. */
static void apply_record(const struct cup_site *site)
{
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        site->pumps[i].mode =
            cup_choice_is(&site->choices[i], CUP_CHOICE_STANDS) ? CUP_MODE_OFF
                                                                : CUP_MODE_AUTO;
    const bool hold =
        cup_choice_is(cup_in_choices_site(site), CUP_CHOICE_STANDS);
    cup_set_bits(&site->pass->flags, PASS_ON_HOLD | PASS_HOLD_NEW, hold);
}

/* There is none yet: the journal knows. */
static void adopt_journal(const struct cup_site *site)
{
    const uint32_t now = site->pass->clock_ms;
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (site->pumps[i].mode == CUP_MODE_OFF)
            cup_in_choices_take(site, i, now, 0);
    if (site->pass->flags & PASS_ON_HOLD)
        cup_in_choices_take(site, (cup_index)(rows_of(site->plan) - 1), now, 0);
}

/* The newest of the copies that are whole; how many are spoilt. */
static struct copy find_newest(const struct cup_store *store, uint8_t *which,
                               unsigned *spoilt)
{
    struct copy best = {.whole = false};
    *spoilt = 0;
    for (uint8_t i = 0; i < RECORD_COPIES; i++) {
        struct copy copy = look_at_copy(store, i);
        *spoilt += !copy.whole && !copy.blank;
        if (!copy.whole ||
            (best.whole && copy.number - best.number >= CUP_TIME_BACK))
            continue;
        best = copy;
        *which = i;
    }
    return best;
}

static bool take_copy(const struct cup_site *site,
                      const struct cup_store *store, uint8_t which,
                      const struct copy *copy)
{
    uint8_t bytes[RECORD_ROW];
    uint32_t at = copy_at(store, which) + RECORD_HEAD;
    for (uint32_t i = 0; i < copy->rows; i++, at += RECORD_ROW) {
        if (!fetched(store, at, bytes, RECORD_ROW))
            return false;
        take_row(site, bytes);
    }
    return true;
}

enum cup_in_record cup_in_record_read(struct cup_journal *journal,
                                      const struct cup_site *site, bool known)
{
    const struct cup_store *store = journal->store;
    uint8_t which = 0;
    unsigned spoilt = 0;
    struct copy best = {.whole = false};
    if (store->record_size >= cup_record_size(site->plan))
        best = find_newest(store, &which, &spoilt);
    else
        known = true; /* the journal is all there is */
    journal->record = best.number;
    if (best.whole && take_copy(site, store, which, &best)) {
        apply_record(site);
        cup_in_choices_recount(site, spoilt > 0);
        return CUP_RECORD_READ;
    }
    const bool lost = spoilt > 0 || best.whole || !known;
    if (lost)
        cup_in_steer_hold(site, site->pass->clock_ms, true);
    adopt_journal(site);
    cup_in_choices_recount(site, true);
    return lost ? CUP_RECORD_LOST : CUP_RECORD_NONE;
}

#endif
