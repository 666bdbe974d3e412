/* What people choose of pumps, duties and the site stands until they say
 * otherwise, or for so long, whatever becomes of the power and the journal.
 * Soil counts: 0 is wet, 1000 dry, so 700 is 30 %. */
#include <stdio.h>

#include "../../ports/common/table.h"
#include "../harness/flash.h"
#include "../harness/harness.h"
#include "../harness/scenario.h"
#include "../harness/world.h"

#define SITE "[site]\nscan = 1s\nlate = 12h\n"
#define SOIL                                                                   \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"                \
    "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\nevery = 1s\n"     \
    "[other]\nis = sensor\nmeasures = moisture\nform = counts\n"               \
    "port = adc:1\ndry = 1000\nwet = 0\nplausible = 0..1100\nevery = 1s\n"
#define PUMP "[pump]\nis = pump\nrest = 0s\nport = relay:0\nhand_limit = 1m\n"
#define BED                                                                    \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"
#define BEANS                                                                  \
    "[beans]\nis = duty\nrun = pump\nkeep = other\nstart = 30%\nstop = 60%\n"
#define VALVES                                                                 \
    "[left]\nis = valve\nport = relay:1\n[right]\nis = valve\n"                \
    "port = relay:2\n"
#define FLOOD "[tray]\nis = duty\nrun = pump\nflood = 2m\nevery = 20m\n"
#define DRY "soil=900 other=900"

/* Duties */

SCENARIO(a_duty_that_is_off_leaves_its_pump_to_others, SITE SOIL PUMP BED BEANS,
         {"0s", "soil=900 other=500", NULL, "pump=1", NULL},
         {"5s", NULL, "bed off", "pump=0", "bed mode off, pump stop duty-off"},
         {"6s", NULL, "?bed bed is switched off, until auto or hand", "pump=0",
          ""},
         {"8s", "other=900", NULL, "pump=1", "pump start below-start"},
         {"9s", NULL, "bed auto", "pump=1", "bed mode duty-auto"},
         {"12s", "other=300", NULL, "pump=0", "pump stop above-stop"},
         {"13s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(off_for_a_time_is_over_by_itself, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"5s", NULL, "bed off 2h", "pump=0",
          "bed mode off-for, pump stop duty-off-for"},
         {"2h4s", NULL, NULL, "pump=0", NULL},
         {"2h5s", NULL, NULL, "pump=1",
          "bed mode duty-auto, pump start below-start"})

SCENARIO(a_pump_that_is_off_for_a_time_is_at_auto_after_it, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"5s", NULL, "pump off 1h", "pump=0",
          "pump mode off-for, pump stop off"},
         {"1h4s", NULL, NULL, "pump=0", NULL},
         {"1h5s", NULL, NULL, "pump=1",
          "pump mode auto, pump start below-start"})

SCENARIO(a_word_with_an_end_never_shortens_what_stands, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"1s", NULL, "site hold", "pump=0", "site mode hold, pump stop hold"},
         {"2s", NULL, "site hold 1m", "pump=0", ""},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1s", NULL, "site go", "pump=1",
          "site mode go, pump start below-start"},
         {"1h2s", NULL, "bed off 3h", "pump=0", NULL},
         {"1h3s", NULL, "bed off 1m", "pump=0", ""},
         {"4h1s", NULL, NULL, "pump=0", NULL},
         {"4h2s", NULL, NULL, "pump=1", NULL},
         {"4h3s", NULL, "bed off 1m", "pump=0", NULL},
         {"4h4s", NULL, "bed off", "pump=0", NULL},
         {"10h", NULL, NULL, "pump=0", NULL})

SCENARIO(a_hold_for_a_time_is_over_by_itself, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"1s", NULL, "site hold 12h", "pump=0",
          "site mode hold-for, pump stop hold"},
         {"12h", NULL, NULL, "pump=0", NULL},
         {"12h1s", NULL, NULL, "pump=1",
          "site mode go, pump start below-start"})

SCENARIO(off_and_auto_of_a_duty_in_one_pass_count_as_both, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"5s", NULL, "bed off, bed auto", "pump=0",
          "bed mode duty-auto, pump stop off"},
         {"6s", NULL, NULL, "pump=1", "pump start below-start"})

/* By hand */

SCENARIO(by_hand_under_the_second_bed_waters_the_second,
         SITE SOIL PUMP VALVES BED "through = left\n" BEANS "through = right\n",
         {"0s", "soil=900 other=500", NULL, NULL, NULL},
         {"1s", NULL, NULL, "pump=1 left=1 right=0", NULL},
         {"5s", "soil=300", NULL, "pump=0 left=1 right=0", NULL},
         {"10s", NULL, "beans hand 30s", "pump=0 left=0 right=1", NULL},
         {"11s", NULL, NULL, "pump=1 left=0 right=1", "pump start hand"},
         {"40s", NULL, NULL, "pump=0 left=0 right=1",
          "pump mode hand-over, pump stop hand-over"},
         {"41s", NULL, NULL, "pump=0 left=0 right=0", NULL})

SCENARIO(by_hand_takes_no_pump_from_another_nor_one_that_is_off,
         SITE SOIL PUMP BED BEANS,
         {"0s", "soil=900 other=500", NULL, "pump=1", NULL},
         {"1s", NULL, "!not beans hand 30s", "pump=1", ""},
         {"2s", NULL, "!not bed hand 2m", "pump=1", ""},
         {"5s", "soil=300", "pump off", "pump=0", NULL},
         {"6s", NULL, "!not beans hand 30s", "pump=0", NULL},
         {"7s", NULL, "pump auto", "pump=0", NULL},
         {"8s", NULL, "site hold", "pump=0", NULL},
         {"9s", NULL, "!not beans hand 30s", "pump=0", NULL},
         {"10s", NULL, "site go", "pump=0", "site mode go"},
         {"11s", NULL, "beans off", "pump=0", "beans mode off"},
         {"12s", NULL, "beans hand 5s", "pump=1", NULL},
         {"17s", NULL, NULL, "pump=0", NULL},
         {"20s", "other=900", NULL, "pump=0", ""})

SCENARIO(off_and_auto_end_a_hand_run_of_their_duty, SITE SOIL PUMP BED,
         {"0s", "soil=500 other=500", "bed hand 30s", "pump=1", NULL},
         {"5s", NULL, "bed auto", "pump=0", NULL},
         {"6s", NULL, "bed hand 30s", "pump=1", NULL},
         {"9s", NULL, "bed off", "pump=0", NULL},
         {"10s", DRY, NULL, "pump=0", ""})

/* The next one */

SCENARIO(skip_leaves_out_exactly_the_next, SITE PUMP FLOOD,
         {"0s", NULL, NULL, "pump=1", NULL},
         {"1m", NULL, "tray skip", "pump=1", "tray mode skip"},
         {"2m", NULL, NULL, "pump=0", "pump stop given"},
         {"20m", NULL, NULL, "pump=0", "tray mode skipped"},
         {"39m", NULL, NULL, "pump=0", ""},
         {"40m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_skip_outlives_a_power_cut, SITE PUMP FLOOD,
         {"0s", NULL, NULL, "pump=1", NULL}, {"2m", NULL, NULL, "pump=0", NULL},
         {"3m", NULL, "tray skip", "pump=0", "tray mode skip"},
         {"4m", NULL, "!reboot", "pump=0", NULL},
         {"20m1s", NULL, NULL, "pump=0", NULL},
         {"40m", NULL, NULL, "pump=0", NULL},
         {"41m1s", NULL, NULL, "pump=1", NULL})

/* What stands is told */

SCENARIO(what_is_off_and_asked_for_is_told_once_a_day, SITE SOIL PUMP BED,
         {"0s", "soil=500 other=500", NULL, "pump=0", NULL},
         {"1s", NULL, "bed off", "pump=0", "bed mode off"},
         {"1d1s", NULL, NULL, "pump=0", ""},
         {"1d2h", "soil=900", NULL, "pump=0", ""},
         {"2d1s", NULL, NULL, "pump=0", "bed alert still-off"},
         {"3d1s", NULL, NULL, "pump=0", "bed alert still-off"},
         {"3d1h", "soil=500", "bed auto", "pump=0",
          "bed mode duty-auto, bed over still-off"})

SCENARIO(a_hold_that_keeps_something_off_is_told_once_a_day, SITE SOIL PUMP BED,
         {"0s", DRY, "site hold", "pump=0", NULL},
         {"1d", NULL, NULL, "pump=0", "site alert still-held"},
         {"2d", NULL, "site go", "pump=1",
          "site over still-held, site mode go, pump start below-start"})

/* The power fails, and stores do */

SCENARIO(what_was_chosen_outlives_the_power, SITE SOIL PUMP BED,
         {"0s", DRY, NULL, "pump=1", NULL},
         {"1s", NULL, "bed off 2h", "pump=0", NULL},
         {"1h", NULL, "!reboot", "pump=0", NULL},
         {"2h", NULL, NULL, "pump=0", NULL}, {"3h", NULL, NULL, "pump=1", NULL})

SCENARIO(a_spoilt_journal_forgets_no_choice, SITE SOIL PUMP BED,
         {"0s", DRY, "bed off", "pump=0", NULL},
         {"10s", NULL, "!spoil 0 1", "pump=0", ""},
         {"11s", NULL, "!reboot", "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1s", NULL, "bed auto", "pump=1", NULL})

SCENARIO(any_two_copies_may_be_spoilt, SITE SOIL PUMP BED,
         {"0s", DRY, "pump off", "pump=0", NULL},
         {"10s", NULL, "!spoil 0 1 2 3", "pump=0", ""},
         {"11s", NULL, "!reboot", "pump=0", NULL},
         {"20s", NULL, "!spoil 0 1 3 4", "pump=0", NULL},
         {"21s", NULL, "!reboot", "pump=0", NULL},
         {"30s", NULL, "!spoil 0 1 2 4", "pump=0", NULL},
         {"31s", NULL, "!reboot", "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1s", NULL, "pump auto", "pump=1", NULL})

SCENARIO(where_nothing_can_be_read_the_site_begins_on_hold, SITE SOIL PUMP BED,
         {"0s", DRY, "pump off", "pump=0", NULL},
         {"10s", NULL, "!spoil 0 1 2 3 4", "pump=0", ""},
         {"11s", NULL, "!reboot", "pump=0",
          "site alert journal-lost, site alert record-lost, site boot "
          "power-on, site mode hold"},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1s", NULL, "site go", "pump=1", NULL})

SCENARIO(a_spoilt_record_is_not_what_the_journal_says, SITE SOIL PUMP BED,
         {"0s", DRY, "bed off", "pump=0", NULL},
         {"10s", NULL, "!spoil 2 3 4", "pump=0", ""},
         {"11s", NULL, "!reboot", "pump=0",
          "site alert record-lost, site setting journal, site boot power-on, "
          "site mode hold"},
         {"1h", NULL, NULL, "pump=0", NULL})

/* The file was edited meanwhile: the pump has another name. */
static const char *by_name(const char *pump)
{
    static char text[1000];
    snprintf(text, sizeof(text),
             "%s[%s]\nis = pump\nrest = 0s\nport = relay:0\n[bed]\nis = "
             "duty\nrun = %s\n"
             "keep = soil\nstart = 30%%\nstop = 60%%\n",
             SITE SOIL, pump, pump);
    return text;
}

static bool holds(const struct cup_site *site)
{
    return cup_choice_is(
        &site->choices[site->plan->pump_count + site->plan->duty_count],
        CUP_CHOICE_STANDS);
}

static void open_as(const char *name, struct world *world,
                    struct cup_journal *journal, const struct cup_store *store)
{
    world_open(world, by_name(name));
    CHECK(!cup_journal_open(journal, &world->site, 0, store, NULL));
}

/* So does what had tripped, and was locked: a new name is no clear. */
CASE(what_tripped_and_is_renamed_begins_on_hold)
{
    static struct flash flash;
    struct cup_store store = flash_begin(&flash);
    struct world world;
    struct cup_journal journal;
    open_as("lift", &world, &journal, &store);
    cup_site_decide(&world.site, 0, NULL);
    cup_pump_trip(&world.site.plan->pumps[0], &world.site.pumps[0]);
    cup_site_decide(&world.site, 1000, NULL);
    CHECK(!cup_journal_close(&journal, &world.site));
    world_close(&world);

    open_as("lift", &world, &journal, &store);
    CHECK(!holds(&world.site));
    world_close(&world);

    open_as("raiser", &world, &journal, &store);
    CHECK(holds(&world.site));
    world_close(&world);
}

CASE(what_is_off_and_renamed_begins_on_hold)
{
    static struct flash flash;
    struct cup_store store = flash_begin(&flash);
    struct world world;
    struct cup_journal journal;
    open_as("lift", &world, &journal, &store);
    struct cup_word off = {.verb = CUP_VERB_OFF};
    CHECK(!cup_site_steer(&world.site, 0, &off));
    cup_site_decide(&world.site, 0, NULL);
    CHECK(!cup_journal_step(&journal, &world.site));
    world_close(&world);

    open_as("lift", &world, &journal, &store);
    CHECK(!holds(&world.site));
    CHECK_INT(world.site.pumps[0].mode, CUP_MODE_OFF);
    world_close(&world);

    open_as("raiser", &world, &journal, &store);
    CHECK(holds(&world.site));
    cup_site_decide(&world.site, 0, NULL);
    CHECK(!cup_journal_step(&journal, &world.site));
    struct cup_word go = {.verb = CUP_VERB_GO};
    CHECK(!cup_site_steer(&world.site, 1000, &go));
    cup_site_decide(&world.site, 1000, NULL);
    CHECK(!cup_journal_step(&journal, &world.site));
    world_close(&world);

    /* and once a person said go that is over */
    open_as("raiser", &world, &journal, &store);
    CHECK(!holds(&world.site));
    world_close(&world);
}
