/* Fault loops: in every example site each call of the port fails, at the Nth
 * call for every N, once or for a while. Whatever fails, a pump that does not
 * obey is off within a pass, no pump runs on a reading that is lost, and when
 * it heals all is as before and the journal can be read. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../ports/common/table.h"
#include "../../sitefile/sitefile.h"
#include "../harness/flash.h"
#include "../harness/harness.h"
#include "cuplatch/journal.h"

#define PASSES 90
#define HEALS 760 /* passes: trips apart, every rest and loss is over */
#define OUTPUTS 16

struct yard {
    const struct cup_plan *plan;
    struct cup_site site;
    void *state;
    struct cup_journal journal;
    struct flash flash;
    uint32_t now_ms;
    uint32_t calls;
    uint32_t from; /* calls that fail: from this one on, before that one */
    uint32_t to;
    bool refused[OUTPUTS]; /* in this pass */
    bool lost;             /* the journal was */
    uint32_t ran;          /* passes in which some pump ran */
};

static bool fails(struct yard *yard)
{
    uint32_t call = yard->calls++;
    return call >= yard->from && call < yard->to;
}

static bool fails_next(void *of)
{
    return fails(of);
}

static uint32_t now_ms(void *self)
{
    return ((struct yard *)self)->now_ms;
}

/* Soil that is dry, light that is day, tanks with some water and some room; a
 * little up and down. */
static struct cup_sample sample(void *self, cup_index i)
{
    struct yard *yard = self;
    const struct cup_sensor *sensor = &yard->plan->sensors[i];
    int32_t middle = (int32_t)sensor->lowest +
                     (sensor->highest - (int32_t)sensor->lowest) / 4 * 3;
    if (sensor->form == CUP_FORM_ECHO)
        middle = 4300;
    if (sensor->form == CUP_FORM_LOOP)
        middle = 12000;
    if (sensor->form == CUP_FORM_SWITCH)
        return (struct cup_sample){.reject = fails(yard) ? CUP_REASON_NO_ANSWER
                                                         : CUP_REASON_NONE};
    if (fails(yard))
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = middle + sensor->offset +
                                      (int32_t)(yard->now_ms / 1000 % 3)};
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    struct yard *yard = self;
    (void)high;
    yard->refused[pump] = fails(yard);
    return yard->refused[pump] ? CUP_ERROR_PORT : CUP_OK;
}

static enum cup_error move(void *self, cup_index pump, uint16_t place, int way)
{
    (void)place, (void)way;
    return drive(self, pump, false);
}

static enum cup_error supply(void *self, cup_index which, bool on)
{
    (void)which, (void)on;
    return fails(self) ? CUP_ERROR_PORT : CUP_OK;
}

static void tell(void *self, const struct cup_event *event)
{
    if (event->cause.reason == CUP_REASON_JOURNAL_LOST)
        ((struct yard *)self)->lost = true;
}

static void take(void *self, const struct cup_event *event)
{
    tell(self, event);
}

static const struct cup_port_table table = {.now_ms = now_ms,
                                            .sample = sample,
                                            .drive = drive,
                                            .supply = supply,
                                            .move = move,
                                            .tell = tell};

/* What must hold after any pass. */
static void check_pass(struct yard *yard)
{
    const struct cup_plan *plan = yard->plan;
    for (cup_index i = 0; i < plan->pump_count; i++) {
        if (!cup_site_runs(&yard->site, i))
            continue;
        const struct cup_pump_state *pump = &yard->site.pumps[i];
        yard->ran++;
        CHECK(!cup_pump_is(pump, CUP_PUMP_IS_FAILING) ||
              pump->since_ms == yard->site.pass->clock_ms || yard->refused[i]);
        for (uint8_t g = 0; g < plan->pumps[i].guard_count; g++)
            CHECK(cup_usable(
                cup_site_reading(&yard->site, plan->pumps[i].guards[g].about)));
    }
}

static void pass(struct yard *yard)
{
    struct cup_port port = {&table, yard};
    (void)!cup_journal_pass(&yard->journal, &yard->site, &port);
    check_pass(yard);
    yard->now_ms += 1000;
}

static void begin(struct yard *yard, uint32_t from, uint32_t to)
{
    static struct cup_store store;
    struct cup_sink sink = {take, yard};
    size_t size = cup_site_size(yard->plan);
    yard->calls = yard->now_ms = 0;
    yard->from = from;
    yard->to = to;
    yard->lost = false;
    yard->journal = (struct cup_journal){.store = NULL};
    store = flash_begin(&yard->flash);
    yard->flash.fails = fails_next;
    yard->flash.of = yard;
    CHECK(!cup_site_bind(&yard->site, yard->plan, yard->state, size));
    CHECK(!cup_journal_open(&yard->journal, &yard->site, 0, &store, &sink));
}

/* Healed: nothing fails any more, and time has passed. */
static void check_healed(struct yard *yard)
{
    struct cup_site again;
    struct cup_journal journal = {.store = NULL};
    struct cup_store store = flash_store(&yard->flash);
    struct cup_sink sink = {take, yard};
    size_t size = cup_site_size(yard->plan);
    void *state = malloc(size);
    yard->from = yard->to = 0;
    for (int i = 0; i < HEALS; i++)
        pass(yard);
    for (cup_index i = 0; i < yard->plan->pump_count; i++)
        CHECK(!cup_pump_is(&yard->site.pumps[i], CUP_PUMP_IS_FAILING));
    for (cup_index i = 0; i < yard->plan->sensor_count; i++)
        CHECK_INT(cup_site_reading(&yard->site, i).quality, CUP_QUALITY_GOOD);
    if (state && CHECK(!cup_site_bind(&again, yard->plan, state, size)))
        CHECK(!cup_journal_open(&journal, &again, 0, &store, &sink));
    CHECK(!yard->lost);
    free(state);
}

/* One site, every call failing for `span` calls from the Nth on, with a step
 * between the Ns that keeps the loop short. */
static void loop(const char *path, uint32_t span, uint32_t step)
{
    static struct yard yard;
    struct cup_file *file = cup_file_read(path);
    yard.plan = file ? cup_file_plan(file) : NULL;
    if (!CHECK(yard.plan != NULL) || !yard.plan)
        return;
    yard.state = malloc(cup_site_size(yard.plan));
    yard.ran = 0;
    begin(&yard, 0, 0);
    for (int i = 0; i < PASSES; i++)
        pass(&yard);
    uint32_t calls = yard.calls;
    for (uint32_t n = 0; n < calls && !harness_failed(); n += step) {
        harness_at("%s: calls %u to %u of %u fail", path, n, n + span, calls);
        begin(&yard, n, n + span);
        for (int i = 0; i < PASSES; i++)
            pass(&yard);
        check_healed(&yard);
    }
    CHECK(yard.ran > 0);
    harness_at(NULL);
    free(yard.state);
    cup_file_free(file);
}

static const char *const sites[] = {
    EXAMPLES_DIR "/one_site.ini", EXAMPLES_DIR "/keeper/kale.ini",
    EXAMPLES_DIR "/compare/yard.ini", EXAMPLES_DIR "/board/board.ini",
    EXAMPLES_DIR "/keeper/keeper.ini"};
#define SITES (sizeof(sites) / sizeof(sites[0]))

CASE(any_one_call_may_fail)
{
    for (size_t i = 0; i < SITES; i++)
        loop(sites[i], 1, 1);
}

CASE(the_port_may_fail_for_a_while)
{
    for (size_t i = 0; i < SITES; i++)
        loop(sites[i], 400, 11);
}
