/* Reads the journal back after a power cut. */
#include "entry.h"
#include "inside.h"

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

static struct cup_found look_at(const struct cup_store *store, uint8_t slot)
{
    struct cup_found found = {.whole = false};
    uint8_t head[HEAD_SIZE];
    uint8_t end[CRC_SIZE];
    uint32_t at = store->first + slot * store->slot_size;
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

/* The newest whole entry. What is torn or spoilt is counted. */
uint8_t cup_in_recall_newest(const struct cup_store *store,
                             struct cup_found *best, unsigned *spoilt)
{
    uint8_t slot = 0;
    *spoilt = 0;
    for (uint8_t i = 0; i < store->slots; i++) {
        struct cup_found found = look_at(store, i);
        *spoilt += !found.whole && !found.blank;
        if (!found.whole ||
            (best->whole && found.sequence - best->sequence >= CUP_TIME_BACK))
            continue;
        *best = found;
        slot = i;
    }
    return slot;
}

/* An item that was read, and where it belongs. */
struct note {
    const struct cup_site *site;
    const uint8_t *bytes;
    uint32_t now;
    uint32_t key;
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

static void take_date(const struct note *note, cup_index i)
{
    CUP_FLASH struct cup_pump *plan = &note->site->plan->pumps[i];
    if (plan->per_day)
        note->site->per_days[plan->per_day_own].date =
            (uint16_t)get16(note->bytes);
}
#endif

#if CUP_USES_DOSES
static void take_dose(const struct note *note, cup_index i)
{
    struct cup_latch_state *latch = &note->site->duties[i].latch;
    CUP_FLASH struct cup_duty *duty = &note->site->plan->duties[i];
    if (!duty->dose || note->bytes[CUP_DOSE_PHASE] > CUP_DOSE_DAY)
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

static void take_day_doses(const struct note *note, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &note->site->plan->duties[i];
    if (!duty->dose)
        return;
    struct cup_dose_state *dose = &note->site->doses[duty->dose_own];
    unsigned today = 0;
    for (uint8_t p = 0; p <= CUP_DOSE_PARTS; p++) {
        dose->part[p] = (uint8_t)cup_least(note->bytes[p], UINT8_MAX - today);
        today += dose->part[p];
    }
    dose->today = (uint8_t)today;
    dose->part_ms = note->now - note->bytes[CUP_DOSE_PARTS + 1] * PART_STEP_MS;
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
    turn->flags |= CUP_TURN_WAS_OFF;
    turn->from_ms = note->now;
}

#if CUP_USES_CLOCK
/* What came while the power was off is known once there is a clock. */
static void take_clock(const struct note *note, cup_index i)
{
    CUP_FLASH struct cup_duty *duty = &note->site->plan->duties[i];
    if (duty->turn)
        note->site->turns[duty->turn_own].clock_min = get32(note->bytes);
}
#endif
#endif

#if CUP_USES_SETTINGS
/* What was set holds on while the file says of it what it said then, and about
 * the same thing: whoever edits that very number means the new one, and a mark
 * of one sensor is none of another. What is dropped is told, too. */
static void take_setting(const struct note *note, cup_index duty)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    int32_t value = (int32_t)get32(note->bytes + 1);
    int32_t written = (int32_t)get32(note->bytes + 5);
    for (cup_index i = 0; i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        if (one->duty != duty || one->field != note->bytes[0] ||
            value == written)
            continue;
        note->site->changes[i] = 1;
        if (written == cup_setting_written(plan, i) &&
            get32(note->bytes + 9) == cup_in_settings_about(plan, duty) &&
            value >= one->low && value <= one->high)
            note->site->settings[i] = value;
        note->site->pass->flags |= PASS_SET;
    }
}
#endif

#if CUP_USES_TRIES
/* Its pause begins anew, as that of a pump. */
static void take_tries(const struct note *note, cup_index i)
{
    struct cup_tries_state *tries = &note->site->tries[i];
    tries->since_ms = note->now;
    tries->trips = note->bytes[0];
    tries->flags = note->bytes[1] & (CUP_TRIES_TRIPPED | CUP_TRIES_LOCKED);
}
#endif

/* Something that had tripped, or was locked, is not there by that name: nobody
 * knows what it is called now. */
static void note_strange(const struct note *note, unsigned tripped)
{
    (void)note;
    if (tripped == 0)
        return;
    CUP_WHERE(CHOICES,
              cup_in_choices_site(note->site)->flags |= CUP_CHOICE_STRANGE;)
}

static void take_of_pump(const struct note *note, uint8_t what)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    bool known = false;
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (plan->keys[cup_pump_thing(plan, i)] == note->key) {
            known = true;
            if (what == ITEM_PUMP)
                take_pump(note, i);
            CUP_WHERE(PER_DAYS,
                      if (what == ITEM_PER_DAY) take_per_day(note, i);)
            CUP_WHERE(PER_DAYS, if (what == ITEM_DAY_DATE) take_date(note, i);)
        }
    if (!known && what == ITEM_PUMP)
        note_strange(note, note->bytes[2] &
                               (CUP_PUMP_IS_TRIPPED | CUP_PUMP_IS_LOCKED));
}

#if CUP_USES_TRIES
static void take_strange(const struct note *note, uint8_t what)
{
    if (what == ITEM_TRIES)
        note_strange(note,
                     note->bytes[1] & (CUP_TRIES_TRIPPED | CUP_TRIES_LOCKED));
}
#endif

static void take_of_duty(const struct note *note, uint8_t what)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    bool known = false;
    (void)what;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        if (plan->keys[cup_duty_thing(plan, i)] != note->key)
            continue;
        known = true;
        CUP_WHERE(DOSES, if (what == ITEM_DOSE) take_dose(note, i);)
        CUP_WHERE(DOSES, if (what == ITEM_DAY_DOSES) take_day_doses(note, i);)
        CUP_WHERE(TURNS, if (what == ITEM_TURN) take_turn(note, i);)
        CUP_WHERE(TURNS, CUP_WHERE(CLOCK, {
                      if (what == ITEM_CLOCK)
                          take_clock(note, i);
                  }))
        CUP_WHERE(SETTINGS, if (what == ITEM_SET) take_setting(note, i);)
        CUP_WHERE(TRIES, if (what == ITEM_TRIES) take_tries(note, i);)
    }
    CUP_WHERE(TRIES, if (!known) take_strange(note, what);)
    (void)known;
}

#if CUP_USES_SPANS
/* What was believed is held against what is read; a tank that was full is so
 * while its water is too near to be seen. */
static void take_level(const struct note *note)
{
    CUP_FLASH struct cup_plan *plan = note->site->plan;
    uint32_t level = get16(note->bytes);
    for (cup_index i = 0; i < plan->tank_count; i++)
        if (plan->tanks[i].span && level <= CUP_SPAN_FULL &&
            plan->keys[cup_tank_thing(plan, i)] == note->key)
            cup_span_believe(&note->site->spans[plan->tanks[i].span_own],
                             note->now, (int32_t)level,
                             note->bytes[2] & CUP_SPAN_PERSON);
}
#endif

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
    switch (what) {
    case ITEM_SITE:
        take_site(note);
        break;
    case ITEM_PUMP:
    case ITEM_PER_DAY:
    case ITEM_DAY_DATE:
        take_of_pump(note, what);
        break;
    case ITEM_LEVEL:
        CUP_WHERE(SPANS, take_level(note);)
        break;
    case ITEM_CHOICE:
        CUP_WHERE(CHOICES,
                  cup_in_record_take(note->site, note->key, note->bytes);)
        break;
    default:
        take_of_duty(note, what);
    }
}

/* The entry was found whole; an item that is not ours is left out. False when
 * it cannot all be read any more. */
bool cup_in_recall(const struct cup_store *store, const struct cup_site *site,
                   uint8_t slot, const struct cup_found *found)
{
    uint32_t at = store->first + slot * store->slot_size + HEAD_SIZE;
    uint32_t end = at + found->length;
    uint8_t bytes[ITEM_HEAD + ITEM_MOST];
    struct note note = {.site = site, .bytes = bytes + ITEM_HEAD};
    note.now = site->pass->clock_ms;
    bool all = true;
    while (all && at + ITEM_HEAD <= end) {
        all = fetch(store, at, bytes, ITEM_HEAD);
        uint8_t what = bytes[4];
        uint8_t size = bytes[5];
        note.key = get32(bytes);
        at += ITEM_HEAD;
        if (all && size != 0 && size == item_size(what) && at + size <= end) {
            all = fetch(store, at, bytes + ITEM_HEAD, size);
            if (all)
                take_item(&note, what);
        }
        at += size;
    }
    CUP_WHERE(SETTINGS, cup_in_settings_settle(site);)
    return all;
}
