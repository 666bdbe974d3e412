/* Numbers that are none, and values at the ends of what can be held. */
#include <stdio.h>
#include <string.h>

#include "../harness/flash.h"
#include "../harness/harness.h"
#include "../harness/world.h"
#include "cuplatch/console.h"
#include "cuplatch/journal.h"
#include "cuplatch/panel.h"
#include "cuplatch/say.h"

#define NONE 999

static struct cup_file *file;
static struct cup_site site;
static uint32_t state[2048];

static bool begin(void)
{
    file = cup_file_read(KEEPER);
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!CHECK(plan != NULL) || !plan)
        return false;
    return CHECK(!cup_site_bind(&site, plan, state, sizeof(state)));
}

static cup_index thing(const char *name)
{
    for (cup_index i = 0; i < cup_things(site.plan); i++)
        if (strcmp(cup_thing_name(site.plan, i), name) == 0)
            return i;
    return CUP_NONE;
}

CASE(a_number_that_is_no_thing_gives_nothing)
{
    int way = 7;
    char text[CUP_SENTENCE_SIZE] = "x";
    struct cup_cause odd = {.reason = 255};
    struct cup_word set = {.verb = CUP_VERB_SET, .change_count = 1};
    set.changes[0].setting = NONE;
    if (!begin())
        return;
    CHECK_INT(cup_site_mark(&site, NONE, false), 0);
    CHECK_INT(cup_site_setting(&site, NONE), 0);
    CHECK_INT(cup_setting_unit(site.plan, NONE), CUP_UNIT_NONE);
    CHECK_INT(cup_site_steer(&site, 0, &set), CUP_ERROR_NAME);
    CHECK_INT(cup_site_lit(&site, NONE), 0);
    CHECK_INT(cup_site_place(&site, NONE, &way), 0);
    CHECK_INT(way, 0);
    CHECK_INT(cup_cause_unit(site.plan, &odd), CUP_UNIT_NONE);
    struct cup_event event = {.cause = {.reason = 255}};
    CHECK(!cup_event_shows(&event, 'v'));
    CHECK_INT(cup_say_cause(text, sizeof(text), site.plan, 0, &odd, false), 0);
    CHECK_INT(cup_say_why(text, sizeof(text), &site, NONE), 0);
    CHECK_INT(cup_say_why_duty(text, sizeof(text), &site, NONE), 0);
    CHECK_INT(cup_site_why_duty(&site, NONE).reason, CUP_REASON_NONE);
    CHECK_INT(cup_site_why(&site, NONE).reason, CUP_REASON_NONE);
    CHECK_INT(cup_site_reading(&site, NONE).quality, CUP_QUALITY_LOST);
    cup_file_free(file);
}

CASE(every_setting_as_it_is_written)
{
    if (!begin())
        return;
    static const struct {
        const char *duty;
        uint8_t field;
        int32_t written;
    } expected[] = {{"kale", CUP_FIELD_START, 5000},
                    {"kale", CUP_FIELD_STOP, 5800},
                    {"kale", CUP_FIELD_DOSE, 90000},
                    {"cress_tray", CUP_FIELD_RUN, 540000},
                    {"cress_tray", CUP_FIELD_EVERY, 9000000}};
    for (size_t i = 0; i < sizeof(expected) / sizeof(expected[0]); i++)
        for (cup_index s = 0; s < site.plan->setting_count; s++) {
            const struct cup_setting *setting = &site.plan->settings[s];
            cup_index duty = cup_duty_thing(site.plan, setting->duty);
            if (duty != thing(expected[i].duty) ||
                setting->field != expected[i].field)
                continue;
            harness_at("%s %d", expected[i].duty, expected[i].field);
            CHECK_INT(cup_setting_written(site.plan, s), expected[i].written);
            CHECK_INT(cup_site_setting(&site, s), expected[i].written);
        }
    harness_at(NULL);
    cup_file_free(file);
}

CASE(tanks_at_their_ends)
{
    if (!begin())
        return;
    const struct cup_tank *tank = &site.plan->tanks[0];
    struct cup_tank bare = *tank;
    bare.volume = NULL;
    CHECK_INT(cup_tank_depth(tank, INT32_MAX / 2), 0);
    CHECK_INT(cup_tank_fill_pct100(tank, 0), CUP_TANK_FULL);
    CHECK_INT(cup_tank_volume_ml(&bare, 5000), 0);
    CHECK_INT(cup_tank_ullage_ml(&bare, 5000), 0);
    CHECK(cup_tank_volume_ml(tank, 5000) > 0);
    cup_file_free(file);
}

CASE(what_cannot_be_held_is_refused_or_saturates)
{
    struct cup_knot knots[2];
    static const struct cup_point steep[] = {{0, 0}, {1, 1 << 20}};
    CHECK_INT(cup_curve_make(knots, steep, 2, false), CUP_ERROR_RANGE);
    CHECK(cup_scale(UINT16_MAX, UINT32_MAX, 1) == UINT32_MAX);
    CHECK_INT(cup_scale(10, 3, 4), 8);
    CHECK_INT(cup_plus(INT32_MAX, 1), INT32_MAX);
    CHECK_INT(cup_plus(-2, INT32_MIN), INT32_MIN);
    CHECK_INT(cup_plus(INT32_MAX, INT32_MIN), -1);
    CHECK_INT(cup_minus(INT32_MAX, -1), INT32_MAX);
    CHECK_INT(cup_minus(-2, INT32_MAX), INT32_MIN);
    CHECK_INT(cup_minus(INT32_MIN, 1), INT32_MIN);
    CHECK_INT(cup_minus(0, INT32_MIN), INT32_MAX);
    CHECK_INT(cup_minus(-1, INT32_MIN), INT32_MAX);
    CHECK_INT(cup_minus(3, 5), -2);
}

/* A stream whose state was damaged by its caller begins anew. */
CASE(a_damaged_stream_begins_anew)
{
    static const uint8_t frame[] = {0xFF, 0x02, 0x93, 0x94};
    struct cup_stream_state stream = {{0}, 6};
    struct cup_heard heard = {0, 0, false};
    for (size_t i = 0; i < sizeof(frame); i++)
        heard = cup_range_bytes(&stream, frame[i]);
    CHECK(heard.complete);
    CHECK_INT(heard.raw, 0x293);
}

static uint8_t last_reason;

static void note(void *self, const struct cup_event *event)
{
    (void)self;
    last_reason = event->cause.reason;
}

CASE(a_journal_that_cannot_be_read_and_one_without_keys)
{
    struct cup_journal journal = {.store = NULL};
    static struct flash flash;
    struct cup_store store = flash_begin(&flash);
    flash.reads_left = 0;
    struct cup_sink sink = {note, NULL};
    if (!begin())
        return;
    (void)!cup_journal_open(&journal, &site, 0, &store, &sink);
    CHECK_INT(last_reason, CUP_REASON_RECORD_LOST);
    struct cup_plan bare = *site.plan;
    struct cup_site other = site;
    bare.keys = NULL;
    other.plan = &bare;
    CHECK_INT(cup_journal_open(&journal, &other, 0, &store, &sink),
              CUP_ERROR_LAYOUT);
    store = flash_begin(&flash);
    struct cup_word hold = {.verb = CUP_VERB_HOLD};
    CHECK_INT(cup_journal_open(&journal, &site, 0, &store, &sink), CUP_OK);
    CHECK_INT(cup_site_steer(&site, 0, &hold), CUP_OK);
    cup_site_decide(&site, 0, NULL);
    CHECK_INT(cup_journal_close(&journal, &site), CUP_OK);
    CHECK(!cup_site_bind(&site, site.plan, state, sizeof(state)));
    CHECK_INT(cup_journal_open(&journal, &site, 0, &store, &sink), CUP_OK);
    CHECK_INT(last_reason, CUP_REASON_JOURNAL);
    cup_file_free(file);
}

/* What the console answers, in one text. */
static char answers[8000];

static void line(void *self, const char *text)
{
    (void)self;
    size_t used = strlen(answers);
    snprintf(answers + used, sizeof(answers) - used, "%s\n", text);
}

static bool says(const char *question, const char *part)
{
    static const struct cup_printer printer = {line, NULL};
    *answers = '\0';
    cup_console_line(&site, site.pass->clock_ms, question, &printer);
    harness_at("%s: %.200s", question, answers);
    bool found = CHECK(strstr(answers, part) != NULL);
    harness_at(NULL);
    return found;
}

CASE(the_console_tells_of_all_that_stands)
{
    if (!begin())
        return;
    struct cup_sample no = {.reject = CUP_REASON_NO_ANSWER};
    for (uint32_t s = 0; s < 700; s++) {
        for (cup_index i = 0; i < site.plan->sensor_count; i++)
            cup_site_hear(&site, i, s * 1000, no);
        cup_site_decide(&site, s * 1000, NULL);
    }
    says("ask levels", "no-answer");
    says("ask alerts", "lost: nothing good for");
    says("ask alerts", "lift blocked: ");
    says("lift off", "done");
    says("ask pumps", "(off)");
    site.watches[0].flags |= CUP_WATCH_TOLD;
    says("ask alerts", cup_thing_name(site.plan, site.plan->watches[0].about));
    CHECK_INT(cup_site_mood(&site), CUP_MOOD_FAULT);
    says("kale.start 50%", "done"); /* as it is */
    says("cress_tray.flood 8m", "done");
    cup_site_decide(&site, 700000, NULL);
    cup_site_decide(&site, 701000, NULL);
    says("ask settings", "8m");
    says("clock 2031-04-02 06:00", "");
    says("site clock 2031-04-02 06:00", "");
    says("kale.start -5%", "");
    says("kale.start 99999999999999%", "");
    says("kale.start %", "");
    cup_file_free(file);
}

/* Settings of every unit, a step up and down at the panel. */
CASE(the_panel_steps_settings_of_every_unit)
{
    struct cup_panel panel = {.touched_ms = 0};
    if (!begin())
        return;
    cup_site_decide(&site, 0, NULL);
    for (int page = 0; page < 60; page++) {
        cup_panel_press(&panel, &site, 0, CUP_INPUT_NEXT);
        cup_panel_press(&panel, &site, 0, CUP_INPUT_MORE);
        cup_panel_press(&panel, &site, 0, CUP_INPUT_MORE);
        cup_panel_press(&panel, &site, 0, CUP_INPUT_LESS);
        cup_panel_press(&panel, &site, 0, CUP_INPUT_KEEP);
        cup_panel_press(&panel, &site, 0, CUP_INPUT_KEEP);
        cup_site_decide(&site, 0, NULL);
    }
    for (cup_index i = 0; i < site.plan->setting_count; i++) {
        harness_at("setting %d of %d", i, cup_site_setting(&site, i));
        CHECK(cup_site_setting(&site, i) != cup_setting_written(site.plan, i));
    }
    harness_at(NULL);
    cup_file_free(file);
}

/* Idle for longer than the clock can tell. */
CASE(a_turn_that_was_long_ago_stays_so)
{
    if (!begin())
        return;
    struct cup_turn turn = {.run_ms = 60000, .every_ms = 0};
    turn.until = turn.day = CUP_NONE;
    struct cup_turn_state at = {.started_ms = 0};
    struct cup_turn_seen look = {.is_day = true};
    cup_turn_boot(&turn, &at, 0);
    for (uint32_t day = 1; day < 60; day++)
        cup_turn_step(&turn, &at, day * 86400000u, &look);
    CHECK(cup_turn_age(&at, 60u * 86400000u) == CUP_TIME_MAX_MS);
    cup_file_free(file);
}

/* Minutes of dry soil and half a tank, a second at a time. */
static void water_for(uint32_t from_s, uint32_t to_s)
{
    static const struct {
        const char *name;
        int32_t raw;
    } raws[] = {{"kale_soil", 2900},    {"leek_soil", 1300},
                {"cistern_echo", 4300}, {"header_echo", 2900},
                {"yard_air", 160},      {"battery", 2600},
                {"trough_line", 12000}};
    for (uint32_t t = from_s; t < to_s; t++) {
        for (size_t i = 0; i < sizeof(raws) / sizeof(raws[0]); i++)
            cup_site_hear(
                &site, thing(raws[i].name), t * 1000,
                (struct cup_sample){.raw = raws[i].raw + (int32_t)(t % 3)});
        cup_site_decide(&site, t * 1000, NULL);
    }
}

/* Pumps first, then the valves that they needed open. */
CASE(shutting_down_shuts_valves_after_their_pumps)
{
    struct cup_sink sink = {note, NULL};
    if (!begin())
        return;
    water_for(0, 180);
    cup_index first = cup_pump_thing(site.plan, 0);
    CHECK(cup_site_runs(&site, (cup_index)(thing("bed_pump") - first)));
    CHECK(cup_site_runs(&site, (cup_index)(thing("kale_valve") - first)));
    last_reason = CUP_REASON_NONE;
    cup_site_shut_down(&site, &sink);
    CHECK_INT(last_reason, CUP_REASON_SHUT_DOWN);
    for (cup_index i = 0; i < site.plan->pump_count; i++)
        CHECK(!cup_site_runs(&site, i));
    water_for(180, 240);
    for (cup_index i = 0; i < site.plan->pump_count; i++)
        CHECK(!cup_site_runs(&site, i));
    cup_file_free(file);
}
