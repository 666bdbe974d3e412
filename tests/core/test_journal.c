/* The journal under power cuts: after every single byte of every write, on a
 * flash that only clears bits and on one that tears the word being written.
 * What is read back is the settings before or those after, never a mix. */
#include "cuplatch/journal.h"

#include <string.h>

#include "../harness/flash.h"
#include "../harness/harness.h"

#define WRITES 1000
#define SLOT 256
#define SLOTS 3

/* A small site, written by hand: one bed with both marks changeable. */
static const struct cup_knot knots[2] = {{0, 0, 0, 1}, {10000, 0, 10000, 1}};
static const struct cup_curve curve = {knots, 2, true};
static const struct cup_sensor sensor = {.curve = &curve,
                                         .every_ms = 1000,
                                         .lost_after_ms = 60000,
                                         .highest = 10000,
                                         CUP_SENSOR_ALONE,
                                         .window = {1, 0},
                                         .unit = CUP_UNIT_PERCENT};
static const struct cup_per_day per_day = {.starts = 9};
static const struct cup_pump pump = {
    .per_day = &per_day, .hand_limit_ms = 5000, .retries = 3};
static const struct cup_duty duty = {.latch = {1000, 9000, 0}};
static const struct cup_setting settings[2] = {{0, 10000, 0, CUP_FIELD_START},
                                               {0, 10000, 0, CUP_FIELD_STOP}};
static const uint32_t keys[] = {11, 22, 33};
static const struct cup_plan plan = {.layout = CUP_LAYOUT,
                                     .scan_ms = 1000,
                                     .late_ms = 10000,
                                     .sensor_count = 1,
                                     .pump_count = 1,
                                     .duty_count = 1,
                                     .setting_count = 2,
                                     .per_days = 1,
                                     .cells = 2,
                                     .sensors = &sensor,
                                     .pumps = &pump,
                                     .duties = &duty,
                                     .settings = settings,
                                     .keys = keys,
                                     .fingerprint = 77};

/* Three small slots of it. */
static struct cup_store store_of(struct flash *flash)
{
    struct cup_store store = flash_store(flash);
    store.slot_size = SLOT;
    store.slots = SLOTS;
    return store;
}

/* What an opening told. */
static unsigned told[CUP_REASON_COUNT];

static void take(void *self, const struct cup_event *event)
{
    (void)self;
    told[event->cause.reason]++;
}

static const struct cup_sink sink = {take, NULL};

struct world {
    struct cup_site site;
    struct cup_journal journal;
    struct cup_store store;
    uint32_t state[120];
};

static void boot(struct world *world, struct flash *flash)
{
    memset(told, 0, sizeof(told));
    world->store = store_of(flash);
    CHECK_INT(
        cup_site_bind(&world->site, &plan, world->state, sizeof(world->state)),
        CUP_OK);
    CHECK_INT(cup_journal_open(&world->journal, &world->site, 0, &world->store,
                               &sink),
              CUP_OK);
}

/* Both marks and a count of trips go together: number n of all. */
static enum cup_error write_number(struct world *world, int32_t n)
{
    struct cup_word word = {.verb = CUP_VERB_SET,
                            .changes = {{n, 0}, {n + 5000, 1}},
                            .change_count = 2};
    CHECK_INT(cup_site_steer(&world->site, 0, &word), CUP_OK);
    world->site.pumps[0].trips = (uint8_t)(n % 200);
    cup_site_decide(&world->site, 0, &sink);
    return cup_journal_step(&world->journal, &world->site);
}

static int32_t number_of(const struct world *world)
{
    int32_t n = cup_site_setting(&world->site, 0);
    if (n == duty.latch.start)
        return -1; /* as the plan has it */
    CHECK_INT(cup_site_setting(&world->site, 1), n + 5000);
    CHECK_INT(world->site.pumps[0].trips, n % 200);
    return n;
}

/* Cuts each of a run of writes after each byte of it, and goes on from what
 * was whole. */
static void cut_everywhere(uint32_t noise)
{
    static struct flash flash;
    static struct flash before;
    struct world world;
    uint32_t entry = SLOT + cup_journal_size(&plan);
    unsigned older = 0;
    flash_begin(&flash);
    boot(&world, &flash);
    CHECK_INT(write_number(&world, 0), CUP_OK);
    for (int32_t n = 1; n < WRITES && !harness_failed(); n++) {
        before = flash;
        for (uint32_t at = 0; at < entry; at++) {
            flash = before;
            harness_at("write %d cut after %u bytes", (int)n, at);
            boot(&world, &flash);
            flash.left = at;
            flash.noise = noise ? noise + at : 0;
            CHECK_INT(write_number(&world, n), CUP_ERROR_PORT);
            flash.left = UINT32_MAX;
            boot(&world, &flash);
            /* the new one only when all that was cut off was 0xFF anyhow */
            int32_t got = number_of(&world);
            CHECK(got == n - 1 || (got == n && at + 4 > entry));
            CHECK(told[CUP_REASON_JOURNAL] == 1);
            older += told[CUP_REASON_JOURNAL_OLDER];
        }
        flash = before;
        boot(&world, &flash);
        CHECK_INT(write_number(&world, n), CUP_OK);
        boot(&world, &flash);
        CHECK_INT(number_of(&world), n);
    }
    harness_at(NULL);
    CHECK(older > WRITES);
}

CASE(a_cut_after_any_byte_leaves_the_entry_before)
{
    cut_everywhere(0);
}

CASE(a_word_torn_by_the_cut_is_found_out)
{
    cut_everywhere(harness_seed() * 2 + 1);
}

CASE(a_cut_erase_leaves_the_entry_before)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    boot(&world, &flash);
    for (int32_t n = 0; n < 5; n++)
        CHECK_INT(write_number(&world, n), CUP_OK);
    struct flash before = flash;
    for (uint32_t at = 0; at < SLOT; at++) {
        flash = before;
        boot(&world, &flash);
        flash.left = at;
        CHECK_INT(write_number(&world, 5), CUP_ERROR_PORT);
        flash.left = UINT32_MAX;
        boot(&world, &flash);
        CHECK_INT(number_of(&world), 4);
    }
}

CASE(an_empty_flash_says_nothing_and_a_spoilt_one_says_so)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    boot(&world, &flash);
    CHECK_INT(number_of(&world), -1);
    CHECK_INT(told[CUP_REASON_JOURNAL_LOST], 0);
    memset(flash.bytes, 0x5A, sizeof(flash.bytes));
    boot(&world, &flash);
    CHECK_INT(number_of(&world), -1);
    CHECK_INT(told[CUP_REASON_JOURNAL_LOST], 1);
}

CASE(any_flipped_bit_is_found_out)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    boot(&world, &flash);
    CHECK_INT(write_number(&world, 3), CUP_OK);
    CHECK_INT(write_number(&world, 4), CUP_OK);
    uint32_t size = cup_journal_size(&plan);
    for (uint32_t bit = 0; bit < size * 8; bit++) {
        flash.bytes[SLOT + bit / 8] ^= (uint8_t)(1u << bit % 8);
        boot(&world, &flash);
        CHECK_INT(number_of(&world), 3);
        flash.bytes[SLOT + bit / 8] ^= (uint8_t)(1u << bit % 8);
    }
}

/* Boots a plan with a journal that the plan before it wrote. */
static void boot_edited(struct world *world, const struct cup_plan *edited)
{
    memset(told, 0, sizeof(told));
    CHECK_INT(
        cup_site_bind(&world->site, edited, world->state, sizeof(world->state)),
        CUP_OK);
    CHECK_INT(cup_journal_open(&world->journal, &world->site, 0, &world->store,
                               &sink),
              CUP_OK);
    cup_site_decide(&world->site, 0, &sink);
}

CASE(what_was_set_holds_on_unless_the_file_says_another_number_now)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    boot(&world, &flash);
    CHECK_INT(write_number(&world, 42), CUP_OK);
    /* something else was edited */
    struct cup_plan edited = plan;
    edited.fingerprint = 78;
    boot_edited(&world, &edited);
    CHECK_INT(cup_site_setting(&world.site, 0), 42);
    CHECK_INT(world.site.pumps[0].trips, 42);
    CHECK(told[CUP_REASON_JOURNAL_OTHER] == 1);
    CHECK(told[CUP_REASON_SET_START] == 1);
    /* the very number was */
    struct cup_duty other = duty;
    edited.duties = &other;
    other.latch.start = 1500;
    boot_edited(&world, &edited);
    CHECK_INT(cup_site_setting(&world.site, 0), 1500);
    CHECK(told[CUP_REASON_SET_START] == 1);
    /* the number is the same, but it is about another thing now */
    other = duty;
    edited.duties = &other;
    const uint32_t others[] = {99, plan.keys[1], plan.keys[2]};
    edited.keys = others;
    boot_edited(&world, &edited);
    CHECK_INT(cup_site_setting(&world.site, 0), duty.latch.start);
    edited.keys = plan.keys;
    /* its fellow was, so that the two would cross */
    boot(&world, &flash);
    CHECK_INT(write_number(&world, 4000), CUP_OK);
    other.latch = duty.latch;
    other.latch.stop = 3000;
    boot_edited(&world, &edited);
    CHECK_INT(cup_site_setting(&world.site, 0), duty.latch.start);
    CHECK_INT(cup_site_setting(&world.site, 1), 3000);
    /* and where they do not */
    other.latch.stop = 8000;
    boot_edited(&world, &edited);
    CHECK_INT(cup_site_setting(&world.site, 0), 4000);
    CHECK_INT(cup_site_setting(&world.site, 1), 8000);
}

CASE(runs_alone_are_written_no_more_often_than_the_interval)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    struct cup_word hand = {.verb = CUP_VERB_HAND, .number = 1000};
    boot(&world, &flash);
    for (uint32_t now = 0; now < 3600000; now += 1000) {
        if (now == 1000)
            CHECK_INT(cup_site_steer(&world.site, now, &hand), CUP_OK);
        cup_site_decide(&world.site, now, &sink);
        CHECK_INT(cup_journal_step(&world.journal, &world.site), CUP_OK);
    }
    /* the switch at once, twice; the rest within an interval or an hour */
    CHECK(world.journal.sequence >= 2 && world.journal.sequence <= 4);
}

CASE(the_checksum_is_the_one_everybody_uses)
{
    CHECK_INT(cup_crc32(0, (const uint8_t *)"123456789", 9), 0xCBF43926);
    uint32_t part = cup_crc32(0, (const uint8_t *)"1234", 4);
    CHECK_INT(cup_crc32(part, (const uint8_t *)"56789", 5), 0xCBF43926);
}

CASE(a_store_that_is_too_small_is_refused)
{
    struct flash flash;
    flash_begin(&flash);
    struct world world;
    boot(&world, &flash);
    world.store.slot_size = cup_journal_size(&plan) - 1;
    CHECK_INT(
        cup_journal_open(&world.journal, &world.site, 0, &world.store, &sink),
        CUP_ERROR_SPACE);
    world.store = store_of(&flash);
    world.store.slots = 1;
    CHECK_INT(
        cup_journal_open(&world.journal, &world.site, 0, &world.store, &sink),
        CUP_ERROR_SPACE);
}
