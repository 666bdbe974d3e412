/* What survives a power cut: entries with a number and a checksum, written
 * around in slots. recall.c reads them back. One file, though a long one:
 * boards that are not optimized as a whole pay for calls between two. */
#include "cuplatch/journal.h"

#include <string.h>

#include "entry.h"
#include "inside.h"

/* Writing */

/* Where bytes go; without a store they are only summed up. */
struct pen {
    const struct cup_store *store;
    uint32_t at;
    uint32_t crc;
    enum cup_error error;
};

static void pen_put(struct pen *pen, const uint8_t *bytes, size_t count)
{
    pen->crc = cup_crc32(pen->crc, bytes, count);
    if (pen->store && !pen->error)
        pen->error = pen->store->write(pen->store->self, pen->at, bytes, count);
    pen->at += (uint32_t)count;
}

static void put_item(struct pen *pen, uint32_t key, uint8_t what,
                     const uint8_t *bytes)
{
    uint8_t item[ITEM_HEAD + ITEM_MOST];
    uint8_t *at = put32(item, key);
    *at++ = what;
    *at++ = item_size(what);
    for (uint8_t i = 0; i < item_size(what); i++)
        *at++ = bytes[i];
    pen_put(pen, item, (size_t)(at - item));
}

/* A hand run ends with the power. */
static void put_pump(struct pen *pen, const struct cup_site *site, cup_index i)
{
    const struct cup_pump_state *pump = &site->pumps[i];
    bool off =
        pump->mode == CUP_MODE_OFF ||
        (pump->mode == CUP_MODE_HAND && cup_pump_is(pump, CUP_PUMP_WAS_OFF));
    uint8_t bytes[] = {
        (uint8_t)(off ? CUP_MODE_OFF : CUP_MODE_AUTO), pump->trips,
        (uint8_t)(pump->flags & (CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_LOCKED))};
    put_item(pen, site->plan->keys[cup_pump_thing(site->plan, i)], ITEM_PUMP,
             bytes);
}

#if CUP_USES_PER_DAYS
/* The most that a run under way may come to in all, by its hand time, dose or
 * turn; UINT32_MAX when none of these bounds it. */
static uint32_t most_by_duty(const struct cup_site *site, cup_index i)
{
    const struct cup_pump_state *pump = &site->pumps[i];
    uint32_t now = site->pass->clock_ms;
    uint32_t run = cup_in_pass_run(pump, now);
    CUP_WHERE(STEERING, {
        if (pump->mode == CUP_MODE_HAND)
            return run + cup_left(now, pump->hand_ms, pump->hand_for_ms);
    })
    if (pump->duty >= site->plan->duty_count)
        return UINT32_MAX;
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[pump->duty];
    (void)duty;
    CUP_WHERE(DOSES, {
        struct cup_dose dose;
        if (duty->dose)
            return cup_most(
                cup_in_settings_dose(site, (cup_index)pump->duty, &dose)
                    ->dose_ms,
                site->plan->pumps[i].shortest_ms);
    })
    CUP_WHERE(TURNS, {
        if (duty->turn)
            return cup_most(
                run + cup_turn_owed(&site->turns[duty->turn_own], now),
                site->plan->pumps[i].shortest_ms);
    })
    return UINT32_MAX;
}

/* What the day will have had when the run under way is over, at the most: its
 * whole length is written when it begins. */
static uint32_t ran_at_most(const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    const struct cup_per_day_state *day = &site->per_days[plan->per_day_own];
    uint32_t most = most_by_duty(site, i);
    uint32_t left = cup_per_day_left(plan->per_day, day, day->before_ms);
    if (plan->longest_ms > 0)
        most = cup_least(most, plan->longest_ms);
    most -= cup_least(most, day->before_ms);
    most = cup_least(most, left == UINT32_MAX ? 0 : left);
    return day->ran_ms + cup_most(most, cup_in_pass_run(&site->pumps[i],
                                                        site->pass->clock_ms) -
                                            day->before_ms);
}

static void put_per_day(struct pen *pen, const struct cup_site *site,
                        cup_index i)
{
    CUP_FLASH struct cup_pump *plan = &site->plan->pumps[i];
    uint8_t bytes[ITEM_MOST];
    if (!plan->per_day)
        return;
    const struct cup_per_day_state *day = &site->per_days[plan->per_day_own];
    uint32_t now = site->pass->clock_ms;
    uint32_t ran = cup_pump_is(&site->pumps[i], CUP_PUMP_IS_ON)
                       ? ran_at_most(site, i)
                       : day->ran_ms;
    const uint32_t key = site->plan->keys[cup_pump_thing(site->plan, i)];
    put16(put32(put32(bytes, cup_elapsed(now, day->began_ms)), ran),
          day->starts);
    put_item(pen, key, ITEM_PER_DAY, bytes);
    put16(bytes, day->date);
    put_item(pen, key, ITEM_DAY_DATE, bytes);
}
#endif

#if CUP_USES_DOSES
static void put_dose(struct pen *pen, const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_latch_state *latch = &site->duties[i].latch;
    const struct cup_dose_state *dose = &site->doses[duty->dose_own];
    const uint32_t key = site->plan->keys[cup_duty_thing(site->plan, i)];
    uint8_t bytes[ITEM_MOST];
    bytes[CUP_DOSE_PHASE] = latch->own[CUP_DOSE_PHASE];
    bytes[CUP_DOSE_COUNT] = latch->own[CUP_DOSE_COUNT];
    bytes[2] = dose->given;
    put_item(pen, key, ITEM_DOSE, bytes);
    memcpy(bytes, dose->part, sizeof(dose->part));
    bytes[CUP_DOSE_PARTS + 1] = (uint8_t)cup_least(
        cup_elapsed(site->pass->clock_ms, dose->part_ms) / PART_STEP_MS,
        CUP_DOSE_PART_MS / PART_STEP_MS);
    put_item(pen, key, ITEM_DAY_DOSES, bytes);
}
#endif

#if CUP_USES_TURNS
/* Whether a pump runs for a duty, by itself: its output goes on after this. */
static bool runs_for(const struct cup_site *site, cup_index duty)
{
    const struct cup_pump_state *pump =
        &site->pumps[site->plan->duties[duty].pump];
    return cup_pump_is(pump, CUP_PUMP_IS_ON) && pump->duty == duty &&
           pump->mode == CUP_MODE_AUTO;
}

/* A turn under way counts as given; what is left of it is put right when it
 * ends. */
static void put_turn(struct pen *pen, const struct cup_site *site, cup_index i)
{
    const struct cup_turn_state *turn =
        &site->turns[site->plan->duties[i].turn_own];
    uint32_t now = site->pass->clock_ms;
    uint32_t age = cup_turn_age(turn, now);
    uint32_t left = cup_turn_owed(turn, now);
    unsigned flags = turn->flags;
    uint8_t bytes[ITEM_MOST];
    if ((flags & CUP_TURN_OWED) && runs_for(site, i)) {
        left = 0;
        flags = CUP_TURN_EVER;
    }
    uint8_t *at = put32(put32(bytes, age), left);
    *at = (uint8_t)(flags & ~(unsigned)CUP_TURN_WAS_OFF);
    const uint32_t key = site->plan->keys[cup_duty_thing(site->plan, i)];
    put_item(pen, key, ITEM_TURN, bytes);
    CUP_WHERE(CLOCK, {
        put32(bytes, turn->clock_min);
        put_item(pen, key, ITEM_CLOCK, bytes);
    })
}
#endif

#if CUP_USES_TRIES
static void put_tries(struct pen *pen, const struct cup_site *site, cup_index i)
{
    const struct cup_tries_state *tries = &site->tries[i];
    uint8_t bytes[] = {tries->trips, tries->flags};
    put_item(pen, site->plan->keys[cup_duty_thing(site->plan, i)], ITEM_TRIES,
             bytes);
}
#endif

static void put_duty(struct pen *pen, const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    CUP_WHERE(DOSES, if (duty->dose) put_dose(pen, site, i);)
    CUP_WHERE(TURNS, if (duty->turn) put_turn(pen, site, i);)
    CUP_WHERE(TRIES, put_tries(pen, site, i);)
    (void)duty, (void)pen, (void)i;
}

#if CUP_USES_SETTINGS
static void put_setting(struct pen *pen, const struct cup_site *site,
                        cup_index i)
{
    CUP_FLASH struct cup_setting *one = &site->plan->settings[i];
    uint8_t bytes[ITEM_MOST];
    bytes[0] = one->field;
    put32(put32(put32(bytes + 1, (uint32_t)cup_site_setting(site, i)),
                (uint32_t)cup_setting_written(site->plan, i)),
          cup_in_settings_about(site->plan, one->duty));
    put_item(pen, site->plan->keys[cup_duty_thing(site->plan, one->duty)],
             ITEM_SET, bytes);
}
#endif

#if CUP_USES_SPANS
/* What is believed of a tank, and whether it was full; 0xFFFF: nothing. */
static void put_level(struct pen *pen, const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_tank *tank = &site->plan->tanks[i];
    uint8_t bytes[3];
    if (!tank->span)
        return;
    const struct cup_span_state *state = &site->spans[tank->span_own];
    bool known = cup_span_is(state, CUP_SPAN_KNOWN);
    put16(bytes, known ? (uint32_t)state->belief : UINT16_MAX);
    bytes[2] = (uint8_t)(state->flags & (CUP_SPAN_BRIM | CUP_SPAN_PERSON));
    put_item(pen, site->plan->keys[cup_tank_thing(site->plan, i)], ITEM_LEVEL,
             bytes);
}
#endif

#if CUP_USES_CHOICES
/* What people chose, as far as it stands. */
static void put_choices(struct pen *pen, const struct cup_site *site)
{
    uint8_t bytes[ITEM_MOST];
    for (cup_index row = 0; row < cup_in_record_rows(site->plan); row++)
        if (cup_in_record_row(site, row, bytes))
            put_item(pen, cup_in_record_key(site->plan, row), ITEM_CHOICE,
                     bytes);
}
#endif

static void put_items(struct pen *pen, const struct cup_site *site)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    uint8_t bytes[ITEM_MOST];
    bytes[0] = (site->pass->flags & PASS_ON_HOLD) != 0;
    CUP_WHERE(CLOCK, put32(bytes + 1, cup_site_clock_s(site));)
    put_item(pen, 0, ITEM_SITE, bytes);
    for (cup_index i = 0; i < plan->pump_count; i++) {
        put_pump(pen, site, i);
        CUP_WHERE(PER_DAYS, put_per_day(pen, site, i);)
    }
    for (cup_index i = 0; i < plan->duty_count; i++)
        put_duty(pen, site, i);
    CUP_WHERE(SETTINGS, {
        for (cup_index i = 0; i < plan->setting_count; i++)
            put_setting(pen, site, i);
    })
    CUP_WHERE(SPANS, {
        for (cup_index i = 0; i < plan->tank_count; i++)
            put_level(pen, site, i);
    })
}

static uint32_t size_of(uint8_t what, uint32_t count)
{
    return count * (ITEM_HEAD + (uint32_t)item_size(what));
}

static uint32_t items_size(CUP_FLASH struct cup_plan *plan)
{
    return size_of(ITEM_SITE, 1) + size_of(ITEM_PUMP, plan->pump_count) +
           size_of(ITEM_PER_DAY, plan->per_days) +
           size_of(ITEM_DAY_DATE, plan->per_days) +
           size_of(ITEM_DOSE, plan->doses) +
           size_of(ITEM_DAY_DOSES, plan->doses) +
           size_of(ITEM_TURN, plan->turns) +
           size_of(ITEM_CLOCK, CUP_IF(CLOCK, plan->turns)) +
           size_of(ITEM_SET, plan->setting_count) +
           size_of(ITEM_LEVEL, CUP_IF(SPANS, plan->spans)) +
           size_of(ITEM_TRIES, CUP_IF(TRIES, plan->duty_count));
}

uint32_t cup_journal_size(CUP_FLASH struct cup_plan *plan)
{
    return HEAD_SIZE + items_size(plan) + CRC_SIZE;
}

/* An entry of the journal, or of the record of what people chose. */
static enum cup_error write_entry(const struct cup_store *store, uint8_t slot,
                                  uint32_t sequence,
                                  const struct cup_site *site, bool record)
{
    struct pen pen = {.store = store,
                      .at = store->first + slot * store->slot_size};
    uint8_t head[HEAD_SIZE];
    uint8_t *at = put16(put16(head, CUP_JOURNAL_MARK), CUP_JOURNAL_VERSION);
    at = put32(put32(at, sequence), site->plan->fingerprint);
    put32(at, record ? CUP_IF(CHOICES,
                              size_of(ITEM_CHOICE, cup_in_record_count(site)))
                     : items_size(site->plan));
    pen.error = store->erase(store->self, pen.at, store->slot_size);
    pen_put(&pen, head, sizeof(head));
    if (record)
        CUP_WHERE(CHOICES, put_choices(&pen, site));
    else
        put_items(&pen, site);
    uint8_t crc[CRC_SIZE];
    put32(crc, pen.crc);
    pen_put(&pen, crc, sizeof(crc));
    if (store->flush && !pen.error)
        pen.error = store->flush(store->self);
    return pen.error;
}

#if CUP_USES_CHOICES
/* One copy after the other: a cut leaves two whole. */
static enum cup_error write_record(struct cup_journal *journal,
                                   const struct cup_site *site)
{
    const struct cup_store copies = cup_in_record_store(journal->store);
    enum cup_error error = CUP_OK;
    if (copies.slot_size < cup_record_size(site->plan))
        return CUP_OK;
    for (uint8_t copy = 0; copy < copies.slots; copy++) {
        enum cup_error wrong =
            write_entry(&copies, copy, journal->record + 1, site, true);
        if (wrong)
            error = wrong;
    }
    if (error)
        return error;
    journal->record++;
    site->pass->unkept = false;
    return CUP_OK;
}
#endif

/* The next pass tells that the store fails, or works again. */
static void note_store(struct cup_pass_state *pass, bool fails)
{
    bool told = pass->journal == CUP_JOURNAL_FAILS_TOLD;
    if (fails == (told || pass->journal == CUP_JOURNAL_FAILS))
        return;
    if (fails)
        pass->journal = CUP_JOURNAL_FAILS;
    else
        pass->journal = told ? CUP_JOURNAL_BACK : CUP_JOURNAL_WORKS;
    pass->flags |= PASS_TOUCHED;
}

static enum cup_error write_next(struct cup_journal *journal,
                                 const struct cup_site *site)
{
    struct cup_pass_state *pass = site->pass;
    enum cup_error error = write_entry(journal->store, journal->slot,
                                       journal->sequence + 1, site, false);
    CUP_WHERE(CHOICES, {
        if (!error && cup_in_record_is_due(site))
            error = write_record(journal, site);
    })
    note_store(pass, error != CUP_OK);
    if (error)
        return error;
    journal->sequence++;
    journal->slot = (uint8_t)((journal->slot + 1) % journal->store->slots);
    journal->wrote_ms = pass->clock_ms;
    pass->flags = (uint16_t)(pass->flags & ~(PASS_WRITE | PASS_AT_ONCE));
    return CUP_OK;
}

/* How long an entry may wait: not at all for a trip or what a person said; its
 * interval for runs; an hour for ages alone. */
static uint32_t may_wait_ms(const struct cup_site *site,
                            const struct cup_store *store)
{
    unsigned flags = site->pass->flags;
    if (flags & PASS_AT_ONCE)
        return 0;
    uint32_t wait = UINT32_MAX;
    if (CUP_IF(CHOICES, site->pass->unkept))
        return 0;
    if (site->plan->turns > 0 || site->plan->per_days > 0 ||
        CUP_IF(CHOICES, cup_in_record_is_due(site)))
        wait = store->ages_ms > 0 ? store->ages_ms : CUP_JOURNAL_AGES_MS;
    return flags & (PASS_WRITE | PASS_RUNNING)
               ? cup_least(wait, CUP_JOURNAL_EVERY_MS)
               : wait;
}

enum cup_error cup_journal_step(struct cup_journal *journal,
                                const struct cup_site *site)
{
    uint32_t gone = cup_elapsed(site->pass->clock_ms, journal->wrote_ms);
    return gone < may_wait_ms(site, journal->store) ? CUP_OK
                                                    : write_next(journal, site);
}

enum cup_error cup_journal_close(struct cup_journal *journal,
                                 const struct cup_site *site)
{
    return write_next(journal, site);
}

static void tell_read(const struct cup_site *site, const struct cup_sink *sink,
                      uint32_t now_ms, uint8_t reason)
{
    struct cup_pass pass = {.sink = sink, .event = {.t_ms = now_ms}};
    bool bad = reason != CUP_REASON_JOURNAL;
    hold_site(&pass, site);
    cup_in_tell_note(&pass, CUP_NONE, bad ? CUP_KIND_ALERT : CUP_KIND_SETTING,
                     reason);
}

bool cup_journal_is_there(const struct cup_store *store)
{
    struct cup_found best = {.whole = false};
    unsigned spoilt;
    cup_in_recall_newest(store, &best, &spoilt);
    return best.whole;
}

#if CUP_USES_CHOICES
/* What people chose; what of it cannot be read, is told. */
static void open_record(struct cup_journal *journal,
                        const struct cup_site *site,
                        const struct cup_sink *sink, uint32_t now_ms,
                        bool known)
{
    const enum cup_in_chosen read = cup_in_chosen_read(journal, site, known);
    if (read >= CUP_CHOSEN_LOST)
        tell_read(site, sink, now_ms,
                  read == CUP_CHOSEN_LOST ? CUP_REASON_RECORD_LOST
                                          : CUP_REASON_RECORD_STRANGE);
}
#endif

/* Reads an entry back, if one is whole; returns the reason of what came of it,
 * or NONE. */
static uint8_t open_entry(struct cup_journal *journal,
                          const struct cup_site *site, bool *older)
{
    const struct cup_store *store = journal->store;
    struct cup_found best = {.whole = false};
    unsigned spoilt;
    uint8_t slot = cup_in_recall_newest(store, &best, &spoilt);
    *older = best.whole && spoilt > 0;
    if (!best.whole)
        return spoilt > 0 || store->lost ? CUP_REASON_JOURNAL_LOST
                                         : CUP_REASON_NONE;
    journal->sequence = best.sequence;
    journal->slot = (uint8_t)((slot + 1) % store->slots);
    cup_in_recall(store, site, slot, &best);
    return best.fingerprint == site->plan->fingerprint
               ? CUP_REASON_JOURNAL
               : CUP_REASON_JOURNAL_OTHER;
}

enum cup_error cup_journal_open(struct cup_journal *journal,
                                const struct cup_site *site, uint32_t now_ms,
                                const struct cup_store *store,
                                const struct cup_sink *sink)
{
    bool older;
    if (store->slots < 2 || store->slot_size < cup_journal_size(site->plan))
        return CUP_ERROR_SPACE;
    if (!site->plan->keys)
        return CUP_ERROR_LAYOUT;
    *journal = (struct cup_journal){.store = store};
    if (!(site->pass->flags & PASS_BEGUN))
        cup_in_bind_begin(site, now_ms);
    journal->wrote_ms = site->pass->clock_ms;
    const uint8_t reason = open_entry(journal, site, &older);
    const bool lost = reason == CUP_REASON_JOURNAL_LOST;
    if (lost)
        tell_read(site, sink, now_ms, reason);
    CUP_WHERE(CHOICES, open_record(journal, site, sink, now_ms, !lost);)
    if (older)
        tell_read(site, sink, now_ms, CUP_REASON_JOURNAL_OLDER);
    if (!lost && reason != CUP_REASON_NONE)
        tell_read(site, sink, now_ms, reason);
    return CUP_OK;
}
