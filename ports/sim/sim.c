/* Plays a site against a garden, scan by scan. */
#include "sim.h"

#include <stdlib.h>
#include <string.h>

#include "cuplatch/say.h"

#define SLOTS 2
/* Things that a message names of those that are missing. */
#define MISSING_MOST 6

struct cup_sim {
    struct garden *garden;
    const struct cup_site *site;
    const struct cup_sink *sink;
    struct cup_onlooker *onlooker;
    const struct cup_ear *ear;
    int *sensors; /* of the garden, by the site's numbers */
    int *outputs; /* of the garden, by the site's numbers */
    uint8_t *flash;
    struct cup_store store;
    struct cup_journal journal;
    uint32_t now_ms;
    uint32_t ahead_ms; /* the controller's count is so far ahead of that */
    uint32_t late_ms;  /* of the garden's second that the scan has used */
    bool begun;
    bool dark; /* the power is off */
};

/* The port */

/* As the controller counts it. */
static uint32_t now_ms(void *self)
{
    const struct cup_sim *sim = self;
    return sim->now_ms + sim->ahead_ms;
}

static struct cup_sample sample(void *self, cup_index sensor)
{
    struct cup_sim *sim = self;
    struct cup_sample heard = {.reject = CUP_REASON_NO_ANSWER};
    int32_t raw;
    if (garden_raw(sim->garden, sim->sensors[sensor], &raw))
        heard = (struct cup_sample){.raw = raw};
    else if (garden_came_torn(sim->garden, sim->sensors[sensor]))
        heard.reject = CUP_REASON_BAD_FRAME;
    if (sim->onlooker)
        sim->onlooker->sensors[sensor] = (struct cup_seen){heard, true};
    return heard;
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    struct cup_sim *sim = self;
    garden_drive(sim->garden, sim->outputs[pump], high);
    return CUP_OK;
}

static enum cup_error move(void *self, cup_index pump, uint16_t place_pct100,
                           int way)
{
    struct cup_sim *sim = self;
    garden_move(sim->garden, sim->outputs[pump],
                (double)place_pct100 / CUP_TRAVEL_OPEN, way);
    return CUP_OK;
}

static enum cup_error supply(void *self, cup_index which, bool on)
{
    const struct cup_sim *sim = self;
    const struct cup_plan *plan = sim->site->plan;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (plan->sensors[i].supply == which && sim->sensors[i] >= 0)
            garden_supply(sim->garden, sim->sensors[i], on);
    return CUP_OK;
}

static void tell(void *self, const struct cup_event *event)
{
    const struct cup_sim *sim = self;
    struct cup_event told = *event;
    told.t_ms -= sim->ahead_ms;
    if (sim->sink && sim->sink->take)
        sim->sink->take(sim->sink->self, &told);
}

static const struct cup_port_table table = {.now_ms = now_ms,
                                            .sample = sample,
                                            .drive = drive,
                                            .supply = supply,
                                            .move = move,
                                            .tell = tell};

/* The journal's flash */

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    memcpy(bytes, ((struct cup_sim *)self)->flash + at, count);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    memset(((struct cup_sim *)self)->flash + at, 0xFF, count);
    return CUP_OK;
}

static enum cup_error keep(void *self, uint32_t at, const uint8_t *bytes,
                           size_t count)
{
    memcpy(((struct cup_sim *)self)->flash + at, bytes, count);
    return CUP_OK;
}

/* Joining */

/* Things of the site that the garden lacks, for who is to add them. */
struct missing {
    char *text;
    size_t size;
    size_t count;
};

static void add_missing(struct missing *missing, const char *what,
                        const char *name)
{
    size_t used = strlen(missing->text);
    if (missing->count++ < MISSING_MOST)
        snprintf(missing->text + used, missing->size - used, "%s %s \"%s\"",
                 used ? "," : "the garden has no", what, name);
}

/* Whether each word of the garden's visits is one to this site. */
static bool can_be_said(const struct cup_sim *sim, char *wrong, size_t size)
{
    const char *text;
    struct cup_word word;
    for (int i = 0; (text = garden_word_at(sim->garden, i)); i++) {
        const char *message = cup_read_word(sim->site->plan, text, &word);
        if (message) {
            snprintf(wrong, size, "somebody says \"%s\": %s", text, message);
            return false;
        }
    }
    return true;
}

static bool join(struct cup_sim *sim, char *wrong, size_t size)
{
    const struct cup_plan *plan = sim->site->plan;
    struct missing missing = {wrong, size, 0};
    *wrong = '\0';
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        const char *name = cup_thing_name(plan, i);
        sim->sensors[i] = garden_sensor(sim->garden, name);
        if (sim->sensors[i] < 0 && !plan->sensors[i].several)
            add_missing(&missing, "sensor", name);
    }
    for (cup_index i = 0; i < plan->pump_count; i++) {
        const char *name = cup_thing_name(plan, cup_pump_thing(plan, i));
        sim->outputs[i] = garden_output(sim->garden, name);
        if (sim->outputs[i] < 0)
            add_missing(&missing, "pump or valve", name);
    }
    if (missing.count == 0)
        return can_be_said(sim, wrong, size);
    size_t used = strlen(wrong);
    if (missing.count > MISSING_MOST)
        snprintf(wrong + used, size - used, " and %zu more",
                 missing.count - MISSING_MOST);
    used = strlen(wrong);
    snprintf(wrong + used, size - used,
             "; what the site measures and drives must be there under the "
             "same name");
    return false;
}

struct cup_sim *cup_sim_join(struct garden *garden, const struct cup_site *site,
                             char *wrong, size_t size)
{
    struct cup_sim *sim = calloc(1, sizeof(*sim));
    uint32_t slot = cup_journal_size(site->plan);
    uint32_t record = cup_record_size(site->plan);
    size_t all = (size_t)slot * SLOTS + (size_t)record * 3;
    if (!sim)
        abort();
    sim->garden = garden;
    sim->site = site;
    sim->sensors = calloc(site->plan->sensor_count + 1u, sizeof(int));
    sim->outputs = calloc(site->plan->pump_count + 1u, sizeof(*sim->outputs));
    sim->flash = malloc(all);
    if (!sim->sensors || !sim->outputs || !sim->flash)
        abort();
    memset(sim->flash, 0xFF, all);
    sim->store = (struct cup_store){.fetch = fetch,
                                    .erase = erase,
                                    .write = keep,
                                    .self = sim,
                                    .slot_size = slot,
                                    .record_size = record,
                                    .slots = SLOTS};
    if (join(sim, wrong, size))
        return sim;
    cup_sim_close(sim);
    return NULL;
}

void cup_sim_close(struct cup_sim *sim)
{
    free(sim->sensors);
    free(sim->outputs);
    free(sim->flash);
    free(sim);
}

void cup_sim_watch(struct cup_sim *sim, const struct cup_sink *sink,
                   struct cup_onlooker *onlooker)
{
    sim->sink = sink;
    sim->onlooker = onlooker;
}

void cup_sim_hear(struct cup_sim *sim, const struct cup_ear *ear)
{
    sim->ear = ear;
}

/* Playing */

/* A count that is about to wrap does so this long after the boot. */
#define WRAPS_IN_MS UINT32_C(60000)

/* Without power nothing is known, and nothing is on. */
static void forget(struct cup_sim *sim)
{
    struct cup_site site;
    if (cup_site_bind(&site, sim->site->plan, sim->site->pass,
                      cup_site_size(sim->site->plan)))
        abort(); /* the same plan and block as before */
}

/* The power comes on: nothing is left but the journal, and a clock that runs
 * by itself. */
static void boot(struct cup_sim *sim)
{
    struct cup_word clock = {.verb = CUP_VERB_CLOCK,
                             .number = garden_clock_s(sim->garden)};
    struct cup_sink sink = {tell, sim};
    if (garden_wraps(sim->garden))
        sim->ahead_ms = UINT32_MAX - WRAPS_IN_MS - sim->now_ms;
    forget(sim);
    if (cup_journal_open(&sim->journal, sim->site, now_ms(sim), &sim->store,
                         &sink) ||
        cup_site_steer(sim->site, now_ms(sim), &clock))
        abort(); /* the same plan as before */
}

/* What somebody says in this second; without power nobody hears it. */
static void hear_words(struct cup_sim *sim)
{
    const char *text;
    while ((text = garden_word(sim->garden))) {
        struct cup_word word;
        const char *refused = "the controller has no power";
        if (!sim->dark && sim->begun) {
            refused = cup_read_word(sim->site->plan, text, &word);
            enum cup_error error =
                refused ? CUP_OK
                        : cup_site_steer(sim->site, now_ms(sim), &word);
            if (error)
                refused = cup_refusal_text(error, &word);
        }
        if (sim->ear)
            sim->ear->said(sim->ear->self, text, refused);
    }
}

/* One pass of the site; whether it failed. */
static bool pass(struct cup_sim *sim)
{
    struct cup_port port = {&table, sim};
    return cup_journal_pass(&sim->journal, sim->site, &port) ||
           sim->site->pass->journal != CUP_JOURNAL_WORKS;
}

/* The garden goes on for so long. */
static void go_on(struct cup_sim *sim, uint32_t ms)
{
    sim->now_ms += ms;
    for (sim->late_ms += ms; sim->late_ms >= 1000; sim->late_ms -= 1000) {
        garden_step(sim->garden);
        hear_words(sim);
    }
    garden_late(sim->garden, sim->late_ms / 1000.0);
}

/* A pass between two scans, where something ends: nothing is asked, so that a
 * log of each scan tells all. */
static void end_what_ends(struct cup_sim *sim)
{
    struct cup_sink sink = {tell, sim};
    struct cup_port port = {&table, sim};
    cup_site_decide(sim->site, now_ms(sim), &sink);
    if (cup_journal_step(&sim->journal, sim->site) ||
        cup_port_act(&port, sim->site))
        abort(); /* nothing here ever fails */
}

/* Until the next scan, with a pass wherever something ends before. */
static void scan_on(struct cup_sim *sim)
{
    uint32_t left = sim->site->plan->scan_ms;
    for (;;) {
        uint32_t ends = cup_site_ends(sim->site);
        if (sim->dark || ends >= left)
            break;
        go_on(sim, ends);
        left -= ends;
        if (garden_is_dark(sim->garden))
            break;
        end_what_ends(sim);
    }
    go_on(sim, left);
}

void cup_sim_pass(struct cup_sim *sim)
{
    if (sim->begun)
        scan_on(sim);
    bool cut = garden_was_cut(sim->garden) || sim->dark;
    sim->dark = garden_is_dark(sim->garden);
    if (sim->dark)
        forget(sim);
    else if (!sim->begun || cut)
        boot(sim);
    sim->begun = true;
    if (!sim->dark && pass(sim))
        abort(); /* nothing here ever fails */
    if (sim->onlooker)
        sim->onlooker->passed(sim->onlooker->self, sim->now_ms);
}

void cup_sim_stop(struct cup_sim *sim)
{
    struct cup_sink sink = {tell, sim};
    struct cup_port port = {&table, sim};
    if (!sim->begun || sim->dark)
        return; /* nothing is on */
    cup_site_shut_down(sim->site, &sink);
    if (cup_port_drive_all(&port, sim->site) ||
        cup_journal_close(&sim->journal, sim->site))
        abort(); /* nothing here ever fails */
}

uint32_t cup_sim_now_ms(const struct cup_sim *sim)
{
    return sim->now_ms;
}
