/* Paths that a good day never takes: what is not fresh, hours, plans that
 * changed under a journal, units that are rarely set. */
#include <string.h>

#include "../harness/flash.h"
#include "../harness/harness.h"
#include "../harness/world.h"
#include "cuplatch/console.h"
#include "cuplatch/journal.h"
#include "cuplatch/panel.h"
#include "cuplatch/say.h"

#define PROBE(name, port)                                                      \
    "[" name "]\nis = sensor\nmeasures = moisture\nform = counts\n"            \
    "port = " port "\ndry = 1000\nwet = 0\nplausible = 0..1100\n"              \
    "every = 1s\nlost_after = 10m\n"
#define RANGER(name, port)                                                     \
    "[" name "]\nis = sensor\nmeasures = distance\nform = echo\n"              \
    "port = " port "\nevery = 1s\nlost_after = 10m\n"
#define BARREL(name, sensor)                                                   \
    "[" name "]\nis = tank\nsensor = " sensor "\nshape = upright\n"            \
    "diameter = 1m\ndepth = 1m\ngap = 100mm\n"
#define PUMP "[pump]\nis = pump\nport = relay:0\nlongest = 2h\nrest = 0s\n"

static struct world world;

static void hear(cup_index sensor, uint32_t s, int32_t raw)
{
    cup_site_hear(&world.site, sensor, s * 1000,
                  (struct cup_sample){.raw = raw});
}

/* Seconds in which the first `count` sensors say one value each. */
static void live(uint32_t from_s, uint32_t to_s, const int32_t *raws, int count)
{
    for (uint32_t s = from_s; s < to_s; s++) {
        for (int i = 0; i < count; i++)
            hear((cup_index)i, s, raws[i]);
        cup_site_decide(&world.site, s * 1000, NULL);
    }
}

static bool tells(const char *text, const char *part)
{
    bool found = CHECK(strstr(text, part) != NULL);
    if (!found)
        printf("  it said: %s\n", text);
    return found;
}

/* After a late pass all that a start rests on must be heard anew. */
static void check_stale(const char *text, const int32_t *raws, int count,
                        const char *what)
{
    char why[CUP_SENTENCE_SIZE];
    world_open(&world, text);
    live(0, 30, raws, count);
    CHECK(cup_site_runs(&world.site, 0));
    live(90, 91, raws, 0); /* so late that it stops */
    CHECK(!cup_site_runs(&world.site, 0));
    live(91, 95, raws, count - 1);
    CHECK(!cup_site_runs(&world.site, 0));
    CHECK_INT(cup_site_why(&world.site, 0).reason, CUP_REASON_NOT_FRESH);
    cup_say_why(why, sizeof(why), &world.site, 0);
    tells(why, what);
    live(95, 97, raws, count);
    CHECK(cup_site_runs(&world.site, 0));
    world_close(&world);
}

CASE(a_second_condition_must_be_fresh_to_start)
{
    static const int32_t raws[] = {900, 800};
    check_stale("[site]\nboot_wait = 0s\n" PROBE("soil", "adc:0")
                    PROBE("damp", "adc:1") PUMP
                "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
                "stop = 60%\nalso = damp 40% 70%\n",
                raws, 2, "damp");
}

CASE(what_a_guard_reads_must_be_fresh_to_start)
{
    static const int32_t raws[] = {900, 2900};
    check_stale("[site]\nboot_wait = 0s\n" PROBE("soil", "adc:0")
                    RANGER("echo", "echo:0") BARREL("barrel", "echo") PUMP
                "from = barrel\ndry_below = 10%\ndry_clear = 20%\n"
                "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
                "stop = 60%\n",
                raws, 2, "barrel");
}

/* 2031-04-02 at some hour. */
static void set_clock(uint32_t s, uint32_t hour)
{
    struct cup_word word = {.verb = CUP_VERB_CLOCK,
                            .number = 1932854400u + hour * 3600};
    CHECK_INT(cup_site_steer(&world.site, s * 1000, &word), CUP_OK);
}

/* Outside its hours a flood waits, and comes when they begin. */
CASE(a_flood_keeps_to_its_hours)
{
    world_open(&world,
               "[site]\nboot_wait = 0s\n" PUMP
               "[tray]\nis = duty\nrun = pump\nflood = 5m\nevery = 20m\n"
               "between = 06:00..20:00\n");
    set_clock(0, 5);
    live(0, 3590, NULL, 0);
    CHECK(!cup_site_runs(&world.site, 0));
    live(3590, 3700, NULL, 0);
    CHECK(cup_site_runs(&world.site, 0));
    world_close(&world);
}

/* A duty with a second condition lets go of both when its hours are over. */
CASE(two_conditions_let_go_when_their_hours_are_over)
{
    static const int32_t raws[] = {900, 800};
    world_open(&world, "[site]\nboot_wait = 0s\n" PROBE("soil", "adc:0")
                           PROBE("damp", "adc:1") PUMP
               "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
               "stop = 60%\nalso = damp 40% 70%\nstops = both\n"
               "between = 06:00..20:00\n");
    set_clock(0, 19);
    live(0, 3590, raws, 2);
    CHECK(cup_site_runs(&world.site, 0));
    CHECK(cup_site_asks(&world.site, 0));
    live(3590, 3700, raws, 2);
    CHECK(!cup_site_asks(&world.site, 0));
    CHECK(!cup_site_runs(&world.site, 0));
    world_close(&world);
}

/* An alert is a matter for the status lamp. */
CASE(an_alert_lights_the_lamp_of_faults)
{
    static const int32_t raws[] = {950};
    world_open(&world, "[site]\n" PROBE("soil", "adc:0") PUMP
               "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
               "stop = 60%\n"
               "[dry]\nis = alert\nof = soil\nbelow = 10%\nclear = 20%\n");
    live(0, 2, raws, 1);
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_FAULT);
    world_close(&world);
}

/* A watch in a plan written by hand, over a tank that two floats tell. */
CASE(a_tank_of_floats_has_no_depth_to_leak)
{
    static const int32_t wet[] = {1};
    static const int32_t dry[] = {0};
    static const struct cup_watch watches[] = {{.change = 1,
                                                .within_ms = 2000,
                                                .about = 1,
                                                .pump = CUP_NONE,
                                                .kind = CUP_WATCH_LEAK}};
    struct cup_watch_state states[1] = {{0}};
    world_open(&world, "[site]\n[lift_float]\nis = sensor\nform = switch\n"
                       "port = pin:1\nevery = 1s\nlost_after = 1m\n"
                       "[sump]\nis = tank\nfloats = lift_float 40%\n" PUMP
                       "from = sump\ndry_below = 30%\ndry_clear = 35%\n"
                       "[empty]\nis = duty\nrun = pump\nflood = 1m\n"
                       "every = 20h\n");
    struct cup_plan plan = *world.site.plan;
    plan.watches = watches;
    plan.watch_count = 1;
    world.site.plan = &plan;
    world.site.watches = states;
    live(0, 10, wet, 1);
    struct cup_reading level = cup_site_reading(&world.site, 1);
    CHECK_INT(level.value, 4000);
    CHECK_INT(level.unit, CUP_UNIT_PERCENT);
    CHECK_INT(level.quality, CUP_QUALITY_GOOD);
    live(10, 100, dry, 1);
    CHECK_INT(cup_site_reading(&world.site, 1).value, 0);
    CHECK(!(states[0].flags & CUP_WATCH_TOLD));
    CHECK(states[0].flags & CUP_WATCH_BEGUN);
    world_close(&world);
}

CASE(a_sensor_below_the_floor_measures_no_depth)
{
    struct cup_tank tank = {
        .form = CUP_TANK_PRESSURE, .rise = {1, 1, 1, 0}, .top = -5};
    CHECK_INT(cup_tank_depth(&tank, 3), 0);
    CHECK_INT(cup_tank_depth(&tank, 7), 2);
}

/* Steps of the panel in bar and degrees, a soak as a setting. */
#define UNITS                                                                  \
    "[site]\n[line]\nis = sensor\nmeasures = pressure\nform = counts\n"        \
    "port = adc:0\npoints = 0:0bar 1000:10bar\nevery = 1s\n"                   \
    "[air]\nis = sensor\nmeasures = temperature\nform = temp9\n"               \
    "port = wire:0\nevery = 1s\n" PROBE("soil", "adc:1") PUMP                  \
        "[fan]\nis = fan\nport = relay:1\n"                                    \
        "[bed_pump]\nis = pump\nport = relay:2\nlongest = 1h\n"                \
        "[trough]\nis = duty\nrun = pump\nkeep = line\nstart = 2bar\n"         \
        "stop = 4bar\nchange = start\n"                                        \
        "[cooling]\nis = duty\nrun = fan\nkeep = air\nstart = 30C\nstop = "    \
        "25C\n"                                                                \
        "change = start\n"                                                     \
        "[bed]\nis = duty\nrun = bed_pump\nkeep = soil\nstart = 30%\n"         \
        "stop = 60%\ndose = 45s\nsoak = 7m\ndoses = 6\nchange = soak\n"        \
        "[door]\nis = panel\nport = panel:0\nwidth = 20\n"

static const struct cup_site *at_page(struct cup_panel *panel, const char *name,
                                      char *below)
{
    char top[CUP_PANEL_SIZE];
    for (int page = 0; page < 20; page++) {
        cup_panel_press(panel, &world.site, 0, CUP_INPUT_NEXT);
        cup_panel_show(panel, &world.site, 0, top, below);
        if (strncmp(top, name, strlen(name)) == 0)
            return &world.site;
    }
    CHECK_TEXT(top, name);
    return &world.site;
}

CASE(the_panel_steps_bar_and_degrees)
{
    static const struct {
        const char *page;
        const char *before;
        const char *after;
    } steps[] = {{"trough.start", "2.000 bar", "2.100 bar"},
                 {"cooling.start", "30.00 C", "30.50 C"},
                 {"bed.soak", "7m", "7m 30s"}};
    struct cup_panel panel = {.touched_ms = 0};
    char below[CUP_PANEL_SIZE];
    char top[CUP_PANEL_SIZE];
    world_open(&world, UNITS);
    cup_site_decide(&world.site, 0, NULL);
    for (size_t i = 0; i < sizeof(steps) / sizeof(steps[0]); i++) {
        harness_at("%s", steps[i].page);
        at_page(&panel, steps[i].page, below);
        tells(below, steps[i].before);
        cup_panel_press(&panel, &world.site, 0, CUP_INPUT_MORE);
        cup_panel_show(&panel, &world.site, 0, top, below);
        tells(below, steps[i].after);
    }
    harness_at(NULL);
    world_close(&world);
}

/* What is not known well is said with its value; a pump that wants nothing has
 * no time to show. */
CASE(the_panel_says_when_a_reading_is_held)
{
    static const int32_t raws[] = {300, 400, 200};
    struct cup_panel panel = {.touched_ms = 0};
    char below[CUP_PANEL_SIZE];
    world_open(&world, UNITS);
    live(0, 100, raws, 3);
    cup_site_hear(&world.site, 2, 100000,
                  (struct cup_sample){.reject = CUP_REASON_NO_ANSWER});
    cup_site_decide(&world.site, 100000, NULL);
    at_page(&panel, "soil", below);
    tells(below, "80.00 % held");
    at_page(&panel, "bed_pump", below);
    CHECK_TEXT(below, "off                 ");
    world_close(&world);
}

/* The console of a site in which nothing may be changed. */
static char answer[200];

static void keep_line(void *self, const char *text)
{
    (void)self;
    snprintf(answer, sizeof(answer), "%s", text);
}

CASE(a_site_without_settings_says_so)
{
    static const struct cup_printer printer = {keep_line, NULL};
    world_open(&world, "[site]\n" PROBE("soil", "adc:0") PUMP
               "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
               "stop = 60%\n");
    cup_console_line(&world.site, 0, "ask settings", &printer);
    tells(answer, "no duty has change");
    world_close(&world);
}

/* A cause that is about a guard which the pump has not. */
CASE(a_sentence_about_a_guard_that_is_not_there)
{
    char text[CUP_SENTENCE_SIZE];
    struct cup_word word = {.verb = CUP_VERB_OFF};
    struct cup_cause cause = {
        .reason = CUP_REASON_SOURCE_LOW, .value = 900, .limit = 1000};
    world_open(&world, "[site]\n" PROBE("soil", "adc:0") PUMP
               "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
               "stop = 60%\n");
    cup_index pump = cup_pump_thing(world.site.plan, 0);
    CHECK(cup_say_cause(text, sizeof(text), world.site.plan, pump, &cause,
                        false) > 0);
    tells(text, "9.00 %");
    CHECK_TEXT(cup_refusal_text(CUP_ERROR_NAME, &word),
               cup_error_text(CUP_ERROR_NAME));
    world_close(&world);
}

static struct flash flash;
static struct cup_store store;

#define LIMITED                                                                \
    "[site]\nboot_wait = 0s\n" PROBE("soil", "adc:0") PUMP                     \
        "per_day = 1h\n[tray_pump]\nis = pump\nport = relay:1\n"               \
        "longest = 1h\n"                                                       \
        "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"             \
        "stop = 60%\ndose = 45s\nsoak = 7m\ndoses = 6\n"                       \
        "[tray]\nis = duty\nrun = tray_pump\nflood = 5m\nevery = 20m\n"

static void write_journal(void)
{
    static const int32_t raws[] = {900};
    struct cup_journal journal;
    store = flash_begin(&flash);
    world_open(&world, LIMITED);
    CHECK_INT(cup_journal_open(&journal, &world.site, 0, &store, NULL), CUP_OK);
    live(0, 30, raws, 1);
    struct cup_word off = {.verb = CUP_VERB_OFF, .target = 1};
    CHECK_INT(cup_site_steer(&world.site, 30000, &off), CUP_OK);
    live(30, 32, raws, 1);
    CHECK_INT(cup_journal_close(&journal, &world.site), CUP_OK);
}

/* What can't be read is lost, whichever read it is, and nothing by halves. */
CASE(a_journal_that_fails_to_be_read_is_lost_as_a_whole)
{
    bool read = false;
    bool before = false;
    write_journal();
    for (int n = 0; n < 90; n++) {
        struct cup_journal journal;
        harness_at("reads %d", n);
        CHECK(!cup_site_bind(&world.site, world.site.plan, world.state,
                             cup_site_size(world.site.plan)));
        flash.reads_left = n;
        CHECK_INT(cup_journal_open(&journal, &world.site, 0, &store, NULL),
                  CUP_OK);
        const struct cup_plan *plan = world.site.plan;
        const struct cup_choice_state *hold =
            &world.site.choices[plan->pump_count + plan->duty_count];
        bool off = world.site.pumps[1].mode == CUP_MODE_OFF ||
                   cup_choice_is(hold, CUP_CHOICE_STANDS);
        CHECK(off); /* or else on hold: what was switched off stays off */
        read = world.site.doses[0].given > 0;
        CHECK(read || !before); /* once it suffices, it does from then on */
        before = read;
    }
    CHECK(read &&
          !cup_choice_is(&world.site.choices[world.site.plan->pump_count +
                                             world.site.plan->duty_count],
                         CUP_CHOICE_STANDS));
    harness_at(NULL);
    world_close(&world);
}

/* The plan has changed: the same things, without limits, doses and turns. */
CASE(a_journal_of_a_plan_with_more_is_read_as_far_as_it_goes)
{
    struct cup_journal journal;
    struct cup_pump pumps[2];
    struct cup_duty duties[2];
    write_journal();
    struct cup_plan plan = *world.site.plan;
    for (int i = 0; i < 2; i++) {
        pumps[i] = plan.pumps[i];
        pumps[i].per_day = NULL;
        duties[i] = plan.duties[i];
        duties[i].dose = NULL;
        duties[i].turn = NULL;
        duties[i].keep = 0;
    }
    plan.pumps = pumps;
    plan.duties = duties;
    plan.per_days = plan.doses = plan.turns = 0;
    CHECK(
        !cup_site_bind(&world.site, &plan, world.state, cup_site_size(&plan)));
    CHECK_INT(cup_journal_open(&journal, &world.site, 0, &store, NULL), CUP_OK);
    CHECK_INT(world.site.pumps[1].mode, CUP_MODE_OFF);
    CHECK_INT(cup_journal_close(&journal, &world.site), CUP_OK);
    world_close(&world);
}
