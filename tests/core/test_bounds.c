/* What bounds water, whatever comes in between: power cuts, flaky probes,
 * people at the switch, outputs that do not obey. Soil counts as in
 * test_site.c: 0 is wet, 1000 dry, so 700 is 30 %. */
#include "../../ports/common/table.h"
#include "../harness/flash.h"
#include "../harness/harness.h"
#include "../harness/scenario.h"
#include "../harness/world.h"

#define SITE "[site]\nscan = 1s\n"
#define SOIL                                                                   \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"                \
    "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\nevery = 1s\n"     \
    "lost_after = 20s\n"
#define TANK                                                                   \
    "[gauge]\nis = sensor\nmeasures = level\nform = counts\nport = adc:1\n"    \
    "points = 0:0% 1000:100%\nplausible = 0..1000\nevery = 1s\n"               \
    "lost_after = 20s\n[tank]\nis = tank\nsensor = gauge\nshape = upright\n"   \
    "diameter = 1m\ndepth = 1m\n"
#define PUMP "[pump]\nis = pump\nrest = 0s\nport = relay:0\n"
#define KEEP                                                                   \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"
#define DOSED KEEP "dose = 5s\nsoak = 30s\ndoses = 2\n"
#define FLOOD "[tray]\nis = duty\nrun = pump\nflood = 2m\nevery = 20m\n"
#define BOOT "site boot power-on"

/* The power fails */

SCENARIO(doses_are_not_given_anew_by_power_cuts, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"3s", NULL, "!reboot", "pump=0", NULL},
         {"32s", NULL, NULL, "pump=0", ""}, {"33s", NULL, NULL, "pump=1", NULL},
         {"35s", NULL, "!reboot", "pump=0", NULL},
         {"65s", NULL, NULL, "pump=0", "bed alert doses-out"},
         {"70s", NULL, "!reboot", "pump=0", NULL},
         {"1h", NULL,
          "?bed soil is not past stop after 2 doses: no more are given, until "
          "it is, or cleared",
          "pump=0", ""})

SCENARIO(a_clear_is_not_forgotten_by_a_power_cut, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"10s", NULL, "bed clear", "pump=0", NULL},
         {"11s", NULL, "!reboot", "pump=0", NULL},
         {"42s", NULL, NULL, "pump=1", NULL},
         {"80s", NULL, NULL, "pump=1", NULL})

SCENARIO(a_flood_is_not_given_anew_by_power_cuts, SITE PUMP FLOOD,
         {"0s", NULL, NULL, "pump=1", NULL},
         {"1m", NULL, "!reboot", "pump=0", NULL},
         {"10m", NULL, NULL, "pump=0", ""},
         {"10m1s", NULL, "!reboot", "pump=0", NULL},
         {"28m", NULL, NULL, "pump=0", ""},
         {"30m2s", NULL, NULL, "pump=1", "pump start due"})

/* A clock that is set after each cut tells how long ago the last flood was,
 * however seldom the journal was written. */
SCENARIO(a_clock_tells_how_long_the_power_was_away, SITE PUMP FLOOD,
         {"0s", NULL, "site clock 2031-05-10T06:00:00", "pump=1", NULL},
         {"5s", NULL, "!reboot", "pump=0", NULL},
         {"6s", NULL, "site clock 2031-05-10T06:10:00", "pump=0", NULL},
         {"7s", NULL, "!reboot", "pump=0", NULL},
         {"8s", NULL, "site clock 2031-05-10T06:19:50", "pump=0", NULL},
         {"17s", NULL, NULL, "pump=0", NULL},
         {"18s", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_days_limit_is_not_given_anew_by_power_cuts,
         SITE SOIL PUMP "longest = 1m\nretry = 1s x9\nper_day = 2m\n" KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"5s", NULL, "!reboot", "pump=1", NULL},
         {"10s", NULL, "!reboot", "pump=0",
          "site setting journal, site boot power-on, pump block day-time"},
         {"1h", NULL, NULL, "pump=0", ""})

/* A flaky probe */

SCENARIO(a_session_outlives_a_loss, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"5s", "soil=-", NULL, "pump=0", NULL},
         {"40s", "soil=800", NULL, "pump=1", NULL},
         {"45s", "soil=-", NULL, "pump=0", NULL},
         {"2m", "soil=800", NULL, "pump=0",
          "bed alert doses-out"}) /* lost again within the hour: not told */

SCENARIO(one_spike_past_stop_ends_no_session, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"2s", "soil=300", NULL, "pump=0", "pump stop above-stop"},
         {"3s", "soil=800", NULL, "pump=0", ""},
         {"31s", NULL, NULL, "pump=0", ""},
         {"33s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(two_samples_past_stop_end_a_session, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"2s", "soil=300", NULL, "pump=0", "pump stop above-stop"},
         {"3s", NULL, NULL, "pump=0", ""},
         {"4s", "soil=800", NULL, "pump=0", ""},
         {"31s", NULL, NULL, "pump=0", ""},
         {"33s", NULL, NULL, "pump=1", "pump start below-start"})

/* A probe beside its dripper: each dose carries it past stop, and it falls back
 * at once. A soak passes all the same, and a day has an end: eight doses. */
#define DRIPS(at, then)                                                        \
    {at, "soil=800", NULL, "pump=1", NULL},                                    \
    {                                                                          \
        then, "soil=300", NULL, "pump=0", NULL                                 \
    }
SCENARIO(a_probe_beside_its_dripper_gets_what_a_day_may_give,
         SITE SOIL PUMP DOSED, DRIPS("0s", "4s"), DRIPS("40s", "44s"),
         DRIPS("80s", "84s"), DRIPS("120s", "124s"), DRIPS("160s", "164s"),
         DRIPS("200s", "204s"), DRIPS("240s", "244s"), DRIPS("280s", "284s"),
         {"320s", "soil=800", NULL, "pump=0", "bed alert doses-day"},
         {"321s", NULL, "!reboot", "pump=0", NULL},
         {"10m", "soil=300", NULL, "pump=0", NULL},
         {"11m", "soil=800", NULL, "pump=0", NULL},
         {"21h", NULL, "bed clear", "pump=1", NULL})

/* What was given counts for a day, and no longer, over a power cut, too: six
 * hours and the four parts after them. */
SCENARIO(doses_of_yesterday_count_no_more_after_a_power_cut,
         SITE SOIL PUMP DOSED, DRIPS("0s", "4s"), DRIPS("40s", "44s"),
         DRIPS("80s", "84s"), DRIPS("120s", "124s"), DRIPS("160s", "164s"),
         DRIPS("200s", "204s"), DRIPS("240s", "244s"), DRIPS("280s", "284s"),
         {"5h", NULL, "pump off, pump auto", "pump=0", NULL},
         {"5h 1s", NULL, "!reboot", "pump=0", NULL},
         {"30h 5m", "soil=800", NULL, "pump=1", NULL})

/* A contact that is loose says past stop every other second. */
SCENARIO(a_loose_contact_gets_no_more_than_its_doses, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"2s", "soil=300", NULL, "pump=0", NULL},
         {"5s", "soil=800", NULL, "pump=0", NULL},
         {"8s", "soil=300", NULL, "pump=0", NULL},
         {"12s", "soil=800", NULL, "pump=0", NULL},
         {"32s", NULL, NULL, "pump=0", ""},
         {"33s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_bed_that_answers_has_more_doses, SITE SOIL PUMP DOSED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"6s", "soil=870", NULL, "pump=0", NULL},
         {"36s", "soil=870", NULL, "pump=1", NULL},
         {"42s", "soil=840", NULL, "pump=0", NULL},
         {"72s", NULL, NULL, "pump=1", NULL},
         {"78s", "soil=810", NULL, "pump=0", NULL},
         {"3m", NULL, NULL, "pump=0", NULL}, {"4m", NULL, NULL, "pump=0", ""})

/* A sensor that is lost and found again and again: told, and then once a
 * repeat, with how often it was meanwhile; lost for good it is told when that
 * may be. */
SCENARIO(a_loose_wire_is_told_once_a_repeat,
         "[site]\nscan = 1s\nrepeat = 10m\n"
         "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"
         "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\n"
         "every = 1s\nlost_after = 20s\n"
         "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 9m\n",
         {"0s", "soil=500", NULL, "pump=0", NULL},
         {"1m", "soil=-", NULL, "pump=0", ""},
         {"1m 20s", NULL, NULL, "pump=0", "soil quality reading-lost"},
         {"2m", "soil=500", NULL, "pump=0", "soil quality readable"},
         {"3m", "soil=-", NULL, "pump=0", ""},
         {"4m", "soil=500", NULL, "pump=0", ""},
         {"5m", "soil=-", NULL, "pump=0", ""},
         {"6m", "soil=500", NULL, "pump=0", ""},
         {"7m", "soil=-", NULL, "pump=0", ""},
         {"11m", NULL, NULL, "pump=0", ""},
         {"11m 20s", NULL, NULL, "pump=0",
          "soil quality meanwhile, soil quality reading-lost"},
         {"12m", "soil=500", NULL, "pump=0", "soil quality readable"})

/* So does what a sensor that comes and goes keeps off, and an alert whose level
 * wavers at its mark. */
SCENARIO(what_a_loose_wire_keeps_off_is_told_as_often,
         "[site]\nscan = 1s\nrepeat = 10m\n" SOIL TANK PUMP
         "from = tank\ndry_below = 5%\ndry_clear = 10%\n" KEEP,
         {"0s", "soil=900 gauge=500", NULL, "pump=1", NULL},
         {"1m", "gauge=-", NULL, "pump=1", ""},
         {"1m 20s", NULL, NULL, "pump=0",
          "gauge quality reading-lost, pump stop source-lost"},
         {"3m", "gauge=500", NULL, "pump=1",
          "gauge quality readable, pump clear source-lost, pump start "
          "below-start"},
         {"4m", "gauge=- soil=100", NULL, "pump=0", "pump stop above-stop"},
         {"5m", "soil=900", NULL, "pump=0", ""},
         {"6m", "gauge=500", NULL, "pump=1", "pump start below-start"})

/* What asks and is kept off is told of once the site is patient no more, and
 * when it is served; what a person switched off is not. */
SCENARIO(what_is_kept_off_for_long_is_told_of,
         "[site]\nscan = 1s\npatience = 30m\n" SOIL TANK PUMP
         "from = tank\ndry_below = 20%\ndry_clear = 25%\n" KEEP,
         {"0s", "soil=900 gauge=100", NULL, "pump=0", NULL},
         {"29m 59s", NULL, NULL, "pump=0", ""},
         {"30m", NULL, NULL, "pump=0", "bed alert kept-off"},
         {"5h", NULL, NULL, "pump=0", ""},
         {"5h 1s", "gauge=900", NULL, "pump=1",
          "pump clear source-low, pump start below-start"},
         {"5h 3s", NULL, NULL, "pump=1", "bed over kept-off"},
         {"6h", "gauge=100", NULL, "pump=0", "pump stop source-low"},
         {"6h 1s", NULL, "bed off", "pump=0", NULL},
         {"9h", NULL, NULL, "pump=0", ""})

SCENARIO(an_alert_that_wavers_is_told_once_a_repeat,
         "[site]\nscan = 1s\nrepeat = 10m\n" SOIL PUMP
         "[dry]\nis = alert\nof = soil\nbelow = 20%\nclear = 30%\n",
         {"0s", "soil=900", NULL, "pump=0", NULL},
         {"1m", "soil=500", NULL, "pump=0", "dry over alert-below"},
         {"2m", "soil=900", NULL, "pump=0", ""},
         {"3m", "soil=500", NULL, "pump=0", ""},
         {"4m", "soil=900", NULL, "pump=0", ""},
         {"9m 58s", NULL, NULL, "pump=0", ""},
         {"10m 1s", NULL, NULL, "pump=0",
          "dry quality meanwhile, dry alert alert-below"},
         {"12m", "soil=500", NULL, "pump=0", "dry over alert-below"})

/* People */

/* A hold ends a run by hand, and none lies in wait for its end. */
SCENARIO(nothing_runs_by_hand_after_a_hold, SITE SOIL PUMP "hand_limit = 1h\n",
         {"0s", "soil=500", NULL, "pump=0", NULL},
         {"1s", NULL, "pump hand 10m", "pump=1", NULL},
         {"1m", NULL, "site hold", "pump=0", NULL},
         {"2m", NULL, "!not pump hand 5m", "pump=0", NULL},
         {"3m", NULL, "site go", "pump=0", NULL},
         {"4m", NULL, NULL, "pump=0", ""},
         {"5m", NULL, "site hold, site go, pump hand 5m", "pump=1", NULL})

SCENARIO(after_a_hand_run_all_is_as_it_was,
         SITE SOIL PUMP "longest = 30s\nretry = 5s x1\n" KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"30s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"36s", NULL, NULL, "pump=1", NULL},
         {"40s", NULL, "pump hand 5s", "pump=1", "pump mode hand"},
         {"45s", NULL,
          "?pump soil 20.00 % is below start 30.00 %, until above "
          "60.00 %",
          "pump=1", "pump mode hand-over"},
         {"50s", "soil=300", NULL, "pump=0", "pump stop above-stop"},
         {"60s", "soil=800", NULL, "pump=1", NULL},
         {"90s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"})

SCENARIO(a_hand_run_takes_nothing_of_a_flood, SITE PUMP FLOOD,
         {"0s", NULL, NULL, "pump=1", NULL},
         {"60s", NULL, "pump hand 30s", "pump=1", "pump mode hand"},
         {"90s", NULL, NULL, "pump=1", "pump mode hand-over"},
         {"149s", NULL, NULL, "pump=1", ""},
         {"150s", NULL, NULL, "pump=0", "pump stop given"},
         {"1199s", NULL, NULL, "pump=0", ""},
         {"1200s", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(clear_sets_the_tries_back_at_any_time,
         SITE SOIL PUMP "longest = 10s\nretry = 5s x1\n" KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"10s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"16s", NULL, "pump clear", "pump=1",
          "pump start below-start, pump clear cleared, bed clear cleared"},
         {"26s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"})

/* What was due and could not be */

#define TIMED "[bed]\nis = duty\nrun = pump\nat = 06:00\nfor = 2m\n"
#define DRY_PUMP PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n"
#define CLOCK(text) "site clock 2031-04-" text ":00"

SCENARIO(a_timed_run_that_a_cut_swallowed_is_given_after_it, SITE PUMP TIMED,
         {"0s", NULL, CLOCK("02T05:00"), "pump=0", NULL},
         {"10m", NULL, "!reboot", "pump=0", NULL},
         {"10m1s", NULL, CLOCK("02T07:30"), "pump=1", NULL},
         {"12m1s", NULL, NULL, "pump=0", "pump stop given"},
         {"20m", NULL, "!reboot", "pump=0", NULL},
         {"20m1s", NULL, CLOCK("02T08:00"), "pump=0", NULL},
         {"30m", NULL, NULL, "pump=0", NULL})

SCENARIO(after_days_without_power_one_is_given_and_the_others_are_told,
         SITE PUMP TIMED, {"0s", NULL, CLOCK("02T05:00"), "pump=0", NULL},
         {"10m", NULL, "!reboot", "pump=0", NULL},
         {"10m1s", NULL, CLOCK("05T07:30"), "pump=1",
          "site setting clock, bed alert missed, pump start due"},
         {"12m1s", NULL, NULL, "pump=0", "pump stop given"})

SCENARIO(no_time_of_the_clock_comes_twice, SITE PUMP TIMED,
         {"0s", NULL, CLOCK("02T05:59"), "pump=0", NULL},
         {"1m1s", NULL, NULL, "pump=1", NULL},
         {"4m", NULL, CLOCK("02T05:59"), "pump=0", NULL},
         {"10m", NULL, NULL, "pump=0", ""},
         {"11m", NULL, "!reboot", "pump=0", NULL},
         {"11m1s", NULL, CLOCK("02T05:59"), "pump=0", NULL},
         {"30m", NULL, NULL, "pump=0", ""})

SCENARIO(what_a_guard_held_up_until_the_next_is_told_as_missed,
         SITE TANK DRY_PUMP TIMED,
         {"0s", "gauge=100", CLOCK("02T05:59"), "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1d", NULL, NULL, "pump=0", "bed alert kept-off"},
         {"1d1m", NULL, NULL, "pump=0", "bed alert missed"},
         {"1d1h", "gauge=500", NULL, "pump=1", NULL})

SCENARIO(what_is_owed_for_an_hour_comes_no_later,
         SITE TANK DRY_PUMP TIMED "owed = 1h\n",
         {"0s", "gauge=100", CLOCK("02T05:59"), "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1m", NULL, NULL, "pump=0", "bed alert missed"},
         {"2h", "gauge=500", NULL, "pump=0", "pump clear source-low"},
         {"20h", NULL, NULL, "pump=0", ""},
         {"1d1m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(what_a_person_kept_off_is_not_owed, SITE PUMP TIMED,
         {"0s", NULL, CLOCK("02T05:59"), "pump=0", NULL},
         {"10s", NULL, "bed off", "pump=0", "bed mode off"},
         {"2m", NULL, NULL, "pump=0", ""},
         {"5m", NULL, "bed auto", "pump=0", "bed mode duty-auto"},
         {"10m", NULL, NULL, "pump=0", ""})

SCENARIO(a_float_that_is_stuck_up_is_told_at_the_second_flood,
         SITE "[full]\nis = sensor\nmeasures = contact\nform = switch\n"
              "port = pin:4\nevery = 1s\n" PUMP FLOOD "until = full\n",
         {"0s", "full=1", NULL, "pump=0", NULL},
         {"19m", NULL, NULL, "pump=0", ""},
         {"21m", NULL, NULL, "pump=0", "tray alert until-stands"},
         {"50m", "full=0", NULL, "pump=0", ""},
         {"1h2m", NULL, NULL, NULL, NULL}, {"1h5m", NULL, NULL, "pump=0", NULL})

/* Two beds at one pump */

#define BEDS_OF_ONE                                                            \
    SITE SOIL "[other]\nis = sensor\nmeasures = moisture\nform = counts\n"     \
              "port = adc:1\ndry = 1000\nwet = 0\nevery = 1s\n" PUMP           \
              "longest = 10s\nretry = 20s x2\n" KEEP                           \
              "[beans]\nis = duty\nrun = pump\nkeep = other\nstart = 30%\n"    \
              "stop = 60%\n"

SCENARIO(a_bed_that_does_not_answer_leaves_its_pump_to_others, BEDS_OF_ONE,
         {"0s", "soil=800 other=500", NULL, "pump=1", NULL},
         {"10s", NULL, "?bed bed tripped and tries again in 20 s", "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"12s", "other=800", NULL, "pump=1", "pump start below-start"},
         {"15s", "other=300", NULL, "pump=0", "pump stop above-stop"},
         {"29s", NULL, NULL, "pump=0", ""},
         {"31s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(what_another_bed_got_sets_no_tries_back, BEDS_OF_ONE,
         {"0s", "soil=800 other=500", NULL, "pump=1", NULL},
         {"10s", NULL, NULL, "pump=0", NULL},
         {"12s", "other=800", NULL, "pump=1", NULL},
         {"15s", "other=300", NULL, "pump=0", "pump stop above-stop"},
         {"30s", NULL, NULL, "pump=1", NULL},
         {"40s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"42s", "other=800", NULL, "pump=1", NULL},
         {"45s", "other=300", NULL, "pump=0", NULL},
         {"60s", NULL, NULL, "pump=1", NULL},
         {"70s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered, bed lock duty-locked"},
         {"72s", "other=800", NULL, "pump=1", "pump start below-start"},
         {"75s", "other=300", NULL, "pump=0", NULL},
         {"76s", NULL, "!reboot", "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"1h1s", NULL, "bed clear", "pump=1",
          "bed clear cleared, pump start below-start"})

SCENARIO(two_beds_in_a_row_that_do_not_answer_trip_the_pump, BEDS_OF_ONE,
         {"0s", "soil=800 other=800", NULL, "pump=1", NULL},
         {"10s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"11s", NULL, NULL, "pump=1", NULL},
         {"21s", NULL, NULL, "pump=0",
          "pump stop longest, beans trip unanswered, pump trip two-duties"},
         {"22s", "soil=300", NULL, "pump=0", ""},
         {"40s", NULL, NULL, "pump=0", ""},
         {"41s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_bed_that_answers_late_has_answered,
         SITE SOIL PUMP "longest = 10s\nretry = 20s x1\n" KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"10s", NULL, NULL, "pump=0", NULL},
         {"15s", "soil=300", NULL, "pump=0", ""},
         {"16s", "soil=800", NULL, "pump=1", "pump start below-start"},
         {"26s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"})

SCENARIO(off_and_auto_in_one_pass_count_as_both, SITE SOIL PUMP KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"5s", NULL, "pump off, pump auto", "pump=0",
          "pump mode off, pump mode auto, pump stop off"},
         {"6s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_hand_run_past_stop_says_so_once,
         SITE TANK PUMP
         "into = tank\n[fill]\nis = duty\nrun = pump\nkeep = tank\n"
         "start = 30%\nstop = 60%\n",
         {"0s", "gauge=500", "pump hand 1m", "pump=1", NULL},
         {"10s", "gauge=610", NULL, "pump=1", "pump alert hand-past-stop"},
         {"20s", "gauge=620", NULL, "pump=1", ""},
         {"1m", NULL, NULL, "pump=0",
          "pump mode hand-over, pump stop hand-over, "
          "pump over hand-past-stop"})

SCENARIO(a_hand_run_that_trips_looks_afresh,
         SITE SOIL PUMP "longest = 10s\nhand_limit = 1m\nretry = 5s x3\n" KEEP,
         {"0s", "soil=800", NULL, "pump=1", NULL},
         {"5s", "soil=500", "pump hand 1m", "pump=1", "pump mode hand"},
         {"10s", NULL, NULL, "pump=0", NULL}, {"1m", NULL, NULL, "pump=0", ""})

/* Floods */

SCENARIO(what_a_guard_cut_short_goes_on_and_the_next_counts_from_its_start,
         SITE TANK PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n" FLOOD,
         {"0s", "gauge=500", NULL, "pump=1", NULL},
         {"1m", "gauge=100", NULL, "pump=0", "pump stop source-low"},
         {"12m", "gauge=500", NULL, "pump=1",
          "pump clear source-low, pump start due"},
         {"13m", NULL, NULL, "pump=0", "pump stop given"},
         {"19m", NULL, NULL, "pump=0", ""},
         {"20m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(what_a_guard_held_up_is_given_instead_of_the_next,
         SITE TANK PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n" FLOOD,
         {"0s", "gauge=500", NULL, "pump=1", NULL},
         {"1m", "gauge=100", NULL, "pump=0", "pump stop source-low"},
         {"25m", "gauge=500", NULL, "pump=1",
          "pump clear source-low, pump start due"},
         {"27m", NULL, NULL, "pump=0", "pump stop given"},
         {"44m", NULL, NULL, "pump=0", ""},
         {"45m", NULL, NULL, "pump=1", "pump start due"},
         {"46m", "gauge=100", NULL, "pump=0", "pump stop source-low"},
         {"64m30s", "gauge=500", NULL, "pump=1",
          "pump clear source-low, pump start due"},
         {"65m30s", NULL, NULL, "pump=0", "pump stop given"},
         {"84m", NULL, NULL, "pump=0", ""},
         {"85m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(
    a_flood_that_is_owed_for_too_long_is_missed_and_the_next_keeps_its_time,
    SITE TANK PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n" FLOOD,
    {"0s", "gauge=500", NULL, "pump=1", NULL},
    {"2m", "gauge=100", NULL, "pump=0", NULL},
    {"20m", NULL, NULL, "pump=0", NULL},
    {"30m", NULL, NULL, "pump=0", "tray alert missed"},
    {"31m", "gauge=500", NULL, "pump=0", "pump clear source-low"},
    {"39m", NULL, NULL, "pump=0", ""},
    {"40m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(what_was_missed_is_due_anew_after_a_cut,
         SITE TANK PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n" FLOOD,
         {"0s", "gauge=500", NULL, "pump=1", NULL},
         {"2m", "gauge=100", NULL, "pump=0", NULL},
         {"30m", NULL, NULL, "pump=0", "tray alert missed"},
         {"31m", NULL, "!reboot", "pump=0", NULL},
         {"31m10s", "gauge=500", NULL, "pump=1", NULL},
         {"33m10s", NULL, NULL, "pump=0", "pump stop given"},
         {"51m", NULL, NULL, "pump=0", ""},
         {"51m10s", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_flood_that_a_person_cuts_short_or_keeps_off_is_not_owed,
         SITE PUMP FLOOD, {"0s", NULL, NULL, "pump=1", NULL},
         {"20s", NULL, "tray off", "pump=0",
          "tray mode off, pump stop duty-off"},
         {"30s", NULL, "tray auto", "pump=0", "tray mode duty-auto"},
         {"19m", NULL, "site hold 2m", "pump=0", "site mode hold-for"},
         {"21m1s", NULL, NULL, "pump=0", "site mode go"},
         {"39m", NULL, NULL, "pump=0", ""},
         {"40m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(an_owed_flood_is_as_long_as_floods_are_now,
         SITE TANK PUMP "from = tank\ndry_below = 20%\ndry_clear = 30%\n" FLOOD
                        "change = flood\n",
         {"0s", "gauge=100", NULL, "pump=0", NULL},
         {"1m", NULL, "tray.flood 30s", "pump=0", "tray setting set-run"},
         {"2m", "gauge=500", NULL, "pump=1",
          "pump clear source-low, pump start due"},
         {"149s", NULL, NULL, "pump=1", ""},
         {"150s", NULL, NULL, "pump=0", "pump stop given"})

/* Valves, groups, outputs that do not obey */

#define TWO_BEDS                                                               \
    SOIL "[wetter]\nis = sensor\nmeasures = moisture\nform = counts\n"         \
         "port = adc:2\ndry = 1000\nwet = 0\nplausible = 0..1100\n"            \
         "every = 1s\nlost_after = 20s\n"                                      \
         "[left]\nis = valve\nport = relay:1\n"
#define BEDS                                                                   \
    PUMP "group = together\n[right]\nis = valve\nport = relay:2\n"             \
         "[together]\nis = group\nat_once = 1\n" KEEP "through = left\n"       \
         "[other]\nis = duty\nrun = pump\nkeep = wetter\nstart = 30%\n"        \
         "stop = 60%\nthrough = right\n"

SCENARIO(a_valve_that_is_off_gives_the_pump_to_the_next, SITE TWO_BEDS BEDS,
         {"0s", "soil=800 wetter=800", "left off", "left=0 pump=0 right=1",
          NULL},
         {"1s", NULL, NULL, "left=0 pump=1 right=1", "pump start below-start"},
         {"2s", NULL, "left auto", "left=0 pump=1 right=1", "left mode auto"},
         {"5s", "wetter=300", NULL, "left=0 pump=0 right=1",
          "pump stop above-stop"},
         {"7s", NULL, NULL, "left=1 pump=1 right=0", NULL})

SCENARIO(a_valve_keeps_its_longest_and_its_pump_stops_first,
         SITE TWO_BEDS "longest = 20s\n" BEDS,
         {"0s", "soil=800 wetter=300", NULL, "left=1 pump=1 right=0", NULL},
         {"20s", NULL, NULL, "left=1 pump=0 right=0", "pump stop route-shut"},
         {"21s", NULL, NULL, "left=0 pump=0 right=0",
          "left stop longest, left trip longest, left lock locked"},
         {"1m", NULL,
          "?pump left is shut, and pump needs it open, until it "
          "opens",
          "left=0 pump=0 right=0", ""})

SCENARIO(a_valve_in_the_group_of_its_pump_does_not_count_against_it,
         SITE TWO_BEDS "group = together\n" BEDS,
         {"0s", "soil=800 wetter=300", NULL, "left=1 pump=1 right=0", NULL})

SCENARIO(an_output_that_does_not_obey_counts_as_running,
         "[site]\nscan = 1s\nat_once = 1\n" SOIL PUMP KEEP
         "[fan]\nis = pump\nrest = 0s\nport = relay:3\n",
         {"0s", "soil=800", NULL, "pump=1 fan=0", NULL},
         {"5s", NULL, "!fail pump", "pump=1 fan=0", NULL},
         {"10s", NULL, "fan hand 1m", "pump=1 fan=0", NULL},
         {"11s", NULL,
          "?fan fan waits: 1 pumps run, at_once is 1, until one "
          "stops",
          "pump=1 fan=0", ""},
         {"12s", NULL, "pump off", "pump=1 fan=0", "pump mode off"},
         {"13s", NULL, "!work pump", "pump=0 fan=0", NULL},
         {"15s", NULL, NULL, "pump=0 fan=1", NULL})

/* Reasons */

SCENARIO(a_mark_passed_for_too_short_is_told_as_that,
         SITE SOIL PUMP KEEP "confirm = 1m\n",
         {"0s", "soil=800", NULL, "pump=0", NULL},
         {"10s", NULL,
          "?pump soil 20.00 % is past start 30.00 %, but not for long enough "
          "yet",
          "pump=0", ""},
         {"1m", NULL, NULL, "pump=1", "pump start below-start"},
         {"70s", "soil=300", NULL, "pump=1", ""},
         {"80s", NULL,
          "?pump soil 70.00 % is past stop 60.00 %, but not for long enough "
          "yet",
          "pump=1", ""})

/* A store that fails */

static enum cup_error cannot_write(void *self, uint32_t at,
                                   const uint8_t *bytes, size_t count)
{
    (void)self, (void)at, (void)bytes, (void)count;
    return CUP_ERROR_PORT;
}

/* What was told last of the journal, as kind and reason. */
static void note_journal(void *self, const struct cup_event *event)
{
    if (event->cause.reason == CUP_REASON_JOURNAL_FAILS)
        *(int *)self = event->kind;
}

CASE(a_store_that_fails_is_told_and_tried_again)
{
    static const char text[] =
        "[site]\nscan = 1s\n[pump]\nis = pump\nrest = 0s\nport = relay:0\n"
        "longest = 5m\n[tray]\nis = duty\nrun = pump\nflood = 1m\n"
        "every = 20m\n";
    struct world world;
    struct flash memory;
    struct cup_journal journal = {.store = NULL};
    int kind = -1;
    struct cup_sink listener = {note_journal, &kind};
    world_open(&world, text);
    struct cup_store keeps = flash_begin(&memory);
    enum cup_error (*write)(void *, uint32_t, const uint8_t *, size_t) =
        keeps.write;
    keeps.write = cannot_write;
    CHECK_INT(cup_journal_open(&journal, &world.site, 0, &keeps, &listener),
              CUP_OK);
    cup_site_decide(&world.site, 0, &listener);
    CHECK(cup_site_runs(&world.site, 0));
    CHECK_INT(cup_journal_step(&journal, &world.site), CUP_ERROR_PORT);
    cup_site_decide(&world.site, 1000, &listener);
    CHECK_INT(kind, CUP_KIND_ALERT);
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_FAULT);
    keeps.write = write;
    CHECK_INT(cup_journal_step(&journal, &world.site), CUP_OK);
    cup_site_decide(&world.site, 2000, &listener);
    CHECK_INT(kind, CUP_KIND_OVER);
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_WELL);
    world_close(&world);
}

/* A port that looks, as its pump goes on, whether that is written. */
struct yard {
    const struct cup_store *store;
    int started;
    int written;
};

static uint32_t zero_ms(void *self)
{
    (void)self;
    return 0;
}

static enum cup_error drive(void *self, cup_index pump, bool high)
{
    struct yard *yard = self;
    (void)pump;
    yard->started += high;
    yard->written += high && cup_journal_is_there(yard->store);
    return CUP_OK;
}

static void ignore(void *self, const struct cup_event *event)
{
    (void)self, (void)event;
}

CASE(what_bounds_a_run_is_written_before_its_output_is_driven)
{
    static const struct cup_port_table table = {
        .now_ms = zero_ms, .drive = drive, .tell = ignore};
    struct world world;
    struct flash memory;
    struct cup_store keeps = flash_begin(&memory);
    struct cup_journal journal = {.store = NULL};
    struct yard yard = {.store = &keeps};
    struct cup_port port = {&table, &yard};
    struct cup_sink nobody = {ignore, NULL};
    world_open(&world, SITE PUMP FLOOD);
    CHECK_INT(cup_journal_open(&journal, &world.site, 0, &keeps, &nobody),
              CUP_OK);
    CHECK(!cup_journal_is_there(&keeps));
    CHECK_INT(cup_journal_pass(&journal, &world.site, &port), CUP_OK);
    CHECK_INT(yard.started, 1);
    CHECK_INT(yard.written, 1);
    world_close(&world);
}
