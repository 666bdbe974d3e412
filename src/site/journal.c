/* What survives a power cut: entries with a number and a checksum, written
 * around in slots. */
#include "cuplatch/journal.h"

#include "inside.h"

/* An entry: mark, version, number, fingerprint, length of all that follows up
 * to the checksum; then items; then the checksum of everything before. */
#define HEAD_SIZE 16
#define CRC_SIZE 4

/* An item: key of its thing, what it says, how many bytes; then those. */
#define ITEM_HEAD 6
#define ITEM_MOST 12

enum item {
    ITEM_SITE,
    ITEM_PUMP,
    ITEM_PER_DAY,
    ITEM_DOSE,
    ITEM_TURN,
    ITEM_SET,
    ITEM_COUNT
};

static CUP_FLASH uint8_t item_sizes[] = {[ITEM_SITE] = CUP_IF_ELSE(CLOCK, 5, 1),
                                         [ITEM_PUMP] = 3,
                                         [ITEM_PER_DAY] = 10,
                                         [ITEM_DOSE] = 3,
                                         [ITEM_TURN] = 9,
                                         [ITEM_SET] = 5};

/* Bytes, low one first, whatever the machine. */

static uint8_t *put16(uint8_t *at, uint32_t value)
{
    *at++ = (uint8_t)value;
    *at++ = (uint8_t)(value >> 8);
    return at;
}

static uint8_t *put32(uint8_t *at, uint32_t value)
{
    return put16(put16(at, value), value >> 16);
}

static uint32_t get16(const uint8_t *at)
{
    return (uint32_t)at[0] | (uint32_t)at[1] << 8;
}

static uint32_t get32(const uint8_t *at)
{
    return get16(at) | get16(at + 2) << 16;
}

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

static void put_item(struct pen *pen, uint32_t key, enum item what,
                     const uint8_t *bytes)
{
    uint8_t item[ITEM_HEAD + ITEM_MOST];
    uint8_t *at = put32(item, key);
    *at++ = (uint8_t)what;
    *at++ = item_sizes[what];
    for (uint8_t i = 0; i < item_sizes[what]; i++)
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
    put16(put32(put32(bytes, cup_elapsed(now, day->began_ms)), ran),
          day->starts);
    put_item(pen, site->plan->keys[cup_pump_thing(site->plan, i)], ITEM_PER_DAY,
             bytes);
}
#endif

#if CUP_USES_DOSES
static void put_dose(struct pen *pen, const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    const struct cup_latch_state *latch = &site->duties[i].latch;
    uint8_t bytes[ITEM_MOST];
    bytes[CUP_DOSE_PHASE] = latch->own[CUP_DOSE_PHASE];
    bytes[CUP_DOSE_COUNT] = latch->own[CUP_DOSE_COUNT];
    bytes[2] = site->doses[duty->dose_own].given;
    put_item(pen, site->plan->keys[cup_duty_thing(site->plan, i)], ITEM_DOSE,
             bytes);
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
    *at = (uint8_t)flags;
    put_item(pen, site->plan->keys[cup_duty_thing(site->plan, i)], ITEM_TURN,
             bytes);
}
#endif

static void put_duty(struct pen *pen, const struct cup_site *site, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &site->plan->duties[i];
    CUP_WHERE(DOSES, if (duty->dose) put_dose(pen, site, i);)
    CUP_WHERE(TURNS, if (duty->turn) put_turn(pen, site, i);)
    (void)duty, (void)pen, (void)i;
}

#if CUP_USES_SETTINGS
static void put_setting(struct pen *pen, const struct cup_site *site,
                        cup_index i)
{
    CUP_FLASH struct cup_setting *one = &site->plan->settings[i];
    uint8_t bytes[ITEM_MOST];
    bytes[0] = one->field;
    put32(bytes + 1, (uint32_t)cup_site_setting(site, i));
    put_item(pen, site->plan->keys[cup_duty_thing(site->plan, one->duty)],
             ITEM_SET, bytes);
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
}

static uint32_t size_of(enum item what, uint32_t count)
{
    return count * (ITEM_HEAD + (uint32_t)item_sizes[what]);
}

static uint32_t items_size(CUP_FLASH struct cup_plan *plan)
{
    return size_of(ITEM_SITE, 1) + size_of(ITEM_PUMP, plan->pump_count) +
           size_of(ITEM_PER_DAY, plan->per_days) +
           size_of(ITEM_DOSE, plan->doses) + size_of(ITEM_TURN, plan->turns) +
           size_of(ITEM_SET, plan->setting_count);
}

uint32_t cup_journal_size(CUP_FLASH struct cup_plan *plan)
{
    return HEAD_SIZE + items_size(plan) + CRC_SIZE;
}

static enum cup_error write_entry(struct cup_journal *journal,
                                  const struct cup_site *site)
{
    const struct cup_store *store = journal->store;
    struct pen pen = {.store = store, .at = journal->slot * store->slot_size};
    uint8_t head[HEAD_SIZE];
    uint8_t *at = put16(put16(head, CUP_JOURNAL_MARK), CUP_JOURNAL_VERSION);
    at = put32(put32(at, journal->sequence + 1), site->plan->fingerprint);
    put32(at, items_size(site->plan));
    pen.error = store->erase(store->self, pen.at, store->slot_size);
    pen_put(&pen, head, sizeof(head));
    put_items(&pen, site);
    uint8_t crc[CRC_SIZE];
    put32(crc, pen.crc);
    pen_put(&pen, crc, sizeof(crc));
    if (store->flush && !pen.error)
        pen.error = store->flush(store->self);
    return pen.error;
}

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
    enum cup_error error = write_entry(journal, site);
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
    if (site->plan->turns > 0 || site->plan->per_days > 0)
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

/* Reading */

/* A slot as it was found: its number when it is whole. */
struct found {
    uint32_t sequence;
    uint32_t fingerprint;
    uint32_t length;
    bool whole;
    bool blank;
};

static bool fetch(const struct cup_store *store, uint32_t at, uint8_t *bytes,
                  size_t count)
{
    return store->fetch(store->self, at, bytes, count) == CUP_OK;
}

/* Sums up a slot, a little at a time. */
static bool sum_up(const struct cup_store *store, uint32_t at, uint32_t count,
                   uint32_t *crc)
{
    uint8_t bytes[ITEM_HEAD + ITEM_MOST];
    while (count > 0) {
        size_t part = count < sizeof(bytes) ? count : sizeof(bytes);
        if (!fetch(store, at, bytes, part))
            return false;
        *crc = cup_crc32(*crc, bytes, part);
        at += (uint32_t)part;
        count -= (uint32_t)part;
    }
    return true;
}

static bool is_blank(const uint8_t *head)
{
    for (int i = 0; i < HEAD_SIZE; i++)
        if (head[i] != 0xFF)
            return false;
    return true;
}

static struct found look_at(const struct cup_store *store, uint8_t slot)
{
    struct found found = {.whole = false};
    uint8_t head[HEAD_SIZE];
    uint8_t end[CRC_SIZE];
    uint32_t at = slot * store->slot_size;
    uint32_t crc = 0;
    if (!fetch(store, at, head, sizeof(head)))
        return found;
    found.blank = is_blank(head);
    found.sequence = get32(head + 4);
    found.fingerprint = get32(head + 8);
    found.length = get32(head + 12);
    if (get16(head) != CUP_JOURNAL_MARK ||
        get16(head + 2) != CUP_JOURNAL_VERSION ||
        found.length > store->slot_size - HEAD_SIZE - CRC_SIZE)
        return found;
    found.whole =
        sum_up(store, at, HEAD_SIZE + found.length, &crc) &&
        fetch(store, at + HEAD_SIZE + found.length, end, sizeof(end)) &&
        get32(end) == crc;
    return found;
}

/* An item that was read, and where it belongs. */
struct note {
    const struct cup_site *site;
    const uint8_t *bytes;
    uint32_t now;
    uint32_t key;
    bool same_plan;
};

static void take_pump(const struct note *note, cup_index i)
{
    struct cup_pump_state *pump = &note->site->pumps[i];
    unsigned tripped =
        note->bytes[2] & (CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_LOCKED);
    pump->mode = note->bytes[0] == CUP_MODE_OFF ? CUP_MODE_OFF : CUP_MODE_AUTO;
    pump->trips = note->bytes[1];
    cup_pump_set(pump, tripped, true);
}

#if CUP_USES_PER_DAYS
/* A day goes on where it was. */
static void take_per_day(const struct note *note, cup_index i)
{
    CUP_FLASH struct cup_pump *plan = &note->site->plan->pumps[i];
    if (!plan->per_day)
        return;
    struct cup_per_day_state *day = &note->site->per_days[plan->per_day_own];
    day->began_ms = note->now - cup_least(get32(note->bytes), CUP_TIME_MAX_MS);
    day->ran_ms = get32(note->bytes + 4);
    day->starts = (uint16_t)get16(note->bytes + 8);
}
#endif

#if CUP_USES_DOSES
static void take_dose(const struct note *note, cup_index i)
{
    struct cup_latch_state *latch = &note->site->duties[i].latch;
    CUP_FLASH struct cup_duty *duty = &note->site->plan->duties[i];
    if (!duty->dose || note->bytes[CUP_DOSE_PHASE] > CUP_DOSE_AFRESH)
        return;
    latch->own[CUP_DOSE_COUNT] = note->bytes[CUP_DOSE_COUNT];
    latch->own[CUP_DOSE_PHASE] = note->bytes[CUP_DOSE_PHASE];
    if (latch->own[CUP_DOSE_PHASE] == CUP_DOSE_GIVEN)
        latch->own[CUP_DOSE_PHASE] = CUP_DOSE_SOAKS; /* cut short */
    struct cup_dose_state *dose = &note->site->doses[duty->dose_own];
    dose->since_ms = note->now;
    dose->base =
        CUP_TOLD(&duty->latch, stop); /* what it was is forgotten: no answer */
    dose->given = note->bytes[2];
}
#endif

#if CUP_USES_TURNS
static void take_turn(const struct note *note, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &note->site->plan->duties[i];
    if (!duty->turn)
        return;
    struct cup_turn_state *turn = &note->site->turns[duty->turn_own];
    turn->started_ms =
        note->now - cup_least(get32(note->bytes), CUP_TIME_MAX_MS);
    turn->left_ms = cup_least(get32(note->bytes + 4), duty->turn->run_ms);
    turn->flags =
        note->bytes[8] & (CUP_TURN_OWED | CUP_TURN_BEGUN | CUP_TURN_EVER |
                          CUP_TURN_LONG_AGO | CUP_TURN_DAWN);
}
#endif

#if CUP_USES_SETTINGS
/* Only what the plan still allows, and only of the plan it was set for. */
static void take_setting(const struct note *note, cup_index duty)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    int32_t value = (int32_t)get32(note->bytes + 1);
    for (cup_index i = 0; note->same_plan && i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        if (one->duty != duty || one->field != note->bytes[0] ||
            value < one->low || value > one->high)
            continue;
        note->site->changes[i] = value != note->site->settings[i];
        note->site->settings[i] = value;
        cup_in_settings_count(note->site);
        note->site->pass->flags |= PASS_SET;
    }
}
#endif

static void take_of_pump(const struct note *note, uint8_t what)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (plan->keys[cup_pump_thing(plan, i)] == note->key) {
            if (what == ITEM_PUMP)
                take_pump(note, i);
            CUP_WHERE(PER_DAYS, else take_per_day(note, i);)
        }
}

static void take_of_duty(const struct note *note, uint8_t what)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        if (plan->keys[cup_duty_thing(plan, i)] != note->key)
            continue;
        CUP_WHERE(DOSES, if (what == ITEM_DOSE) take_dose(note, i);)
        CUP_WHERE(TURNS, if (what == ITEM_TURN) take_turn(note, i);)
        CUP_WHERE(SETTINGS, if (what == ITEM_SET) take_setting(note, i);)
    }
}

static void take_site(const struct note *note)
{
    if (note->bytes[0])
        note->site->pass->flags |= PASS_ON_HOLD | PASS_HOLD_NEW;
    CUP_WHERE(CLOCK, {
        note->site->wall->kept_s = get32(note->bytes + 1);
        note->site->wall->kept_ms = note->now;
    })
}

static void take_item(const struct note *note, uint8_t what)
{
    if (what == ITEM_SITE)
        take_site(note);
    if (what == ITEM_PUMP || what == ITEM_PER_DAY)
        take_of_pump(note, what);
    if (what >= ITEM_DOSE)
        take_of_duty(note, what);
}

/* The entry was found whole; an item that is not ours is left out. */
static void take_items(const struct cup_journal *journal,
                       const struct cup_site *site, uint8_t slot,
                       const struct found *found)
{
    const struct cup_store *store = journal->store;
    uint32_t at = slot * store->slot_size + HEAD_SIZE;
    uint32_t end = at + found->length;
    uint8_t bytes[ITEM_HEAD + ITEM_MOST];
    struct note note = {.site = site, .bytes = bytes + ITEM_HEAD};
    note.now = site->pass->clock_ms;
    note.same_plan = found->fingerprint == site->plan->fingerprint;
    while (at + ITEM_HEAD <= end && fetch(store, at, bytes, ITEM_HEAD)) {
        uint8_t what = bytes[4];
        uint8_t size = bytes[5];
        note.key = get32(bytes);
        at += ITEM_HEAD;
        if (what < ITEM_COUNT && size == item_sizes[what] && at + size <= end &&
            fetch(store, at, bytes + ITEM_HEAD, size))
            take_item(&note, what);
        at += size;
    }
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

/* The newest whole entry. What is torn or spoilt is counted. */
static uint8_t newest(const struct cup_store *store, struct found *best,
                      unsigned *spoilt)
{
    uint8_t slot = 0;
    *spoilt = 0;
    for (uint8_t i = 0; i < store->slots; i++) {
        struct found found = look_at(store, i);
        *spoilt += !found.whole && !found.blank;
        if (!found.whole ||
            (best->whole && found.sequence - best->sequence >= CUP_TIME_BACK))
            continue;
        *best = found;
        slot = i;
    }
    return slot;
}

bool cup_journal_is_there(const struct cup_store *store)
{
    struct found best = {.whole = false};
    unsigned spoilt;
    newest(store, &best, &spoilt);
    return best.whole;
}

enum cup_error cup_journal_open(struct cup_journal *journal,
                                const struct cup_site *site, uint32_t now_ms,
                                const struct cup_store *store,
                                const struct cup_sink *sink)
{
    struct found best = {.whole = false};
    unsigned spoilt;
    if (store->slots < 2 || store->slot_size < cup_journal_size(site->plan))
        return CUP_ERROR_SPACE;
    if (!site->plan->keys)
        return CUP_ERROR_LAYOUT;
    *journal = (struct cup_journal){.store = store};
    if (!(site->pass->flags & PASS_BEGUN))
        cup_in_bind_begin(site, now_ms);
    journal->wrote_ms = site->pass->clock_ms;
    uint8_t slot = newest(store, &best, &spoilt);
    if (!best.whole) {
        if (spoilt > 0 || store->lost)
            tell_read(site, sink, now_ms, CUP_REASON_JOURNAL_LOST);
        return CUP_OK;
    }
    journal->sequence = best.sequence;
    journal->slot = (uint8_t)((slot + 1) % store->slots);
    take_items(journal, site, slot, &best);
    if (spoilt > 0)
        tell_read(site, sink, now_ms, CUP_REASON_JOURNAL_OLDER);
    tell_read(site, sink, now_ms,
              best.fingerprint == site->plan->fingerprint
                  ? CUP_REASON_JOURNAL
                  : CUP_REASON_JOURNAL_OTHER);
    return CUP_OK;
}
