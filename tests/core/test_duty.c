/* Duties in scenarios: doses, floods by daylight, times of the clock, the
 * second condition, routes, settings. Soil counts as in test_site.c: 0 is wet,
 * 1000 dry, so 700 is 30 %; light counts are tenths of a per cent. */
#include "../harness/harness.h"
#include "../harness/scenario.h"

#define SITE "[site]\nscan = 1s\n"
#define SOIL                                                                   \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"                \
    "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\nevery = 1s\n"     \
    "lost_after = 60s\n"
#define PUMP "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 2h\n"
#define DOSED                                                                  \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"     \
    "dose = 20s\nsoak = 1m\ndoses = 3\n"
#define BOOT "site boot power-on"

/* Doses */

SCENARIO(a_bed_gets_a_dose_soaks_and_is_looked_at_again, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", BOOT ", pump start below-start"},
         {"19s", NULL, NULL, "pump=1", ""},
         {"20s", NULL, NULL, "pump=0", "pump stop dose-given"},
         {"50s", NULL, "?pump soil soaks, 30 s left of 1m", "pump=0", ""},
         {"79s", "soil=500", NULL, "pump=0", ""},
         {"80s", NULL, NULL, "pump=1", "pump start under-way"},
         {"100s", NULL, NULL, "pump=0", "pump stop dose-given"},
         {"110s", "soil=300", NULL, "pump=0", ""},
         {"10m", NULL,
          "?pump soil 70.00 % is above stop 60.00 %, "
          "until below 30.00 %",
          "pump=0", ""})

SCENARIO(a_soil_that_does_not_answer_gets_no_more_doses_until_cleared,
         SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", BOOT ", pump start below-start"},
         {"3m", NULL, NULL, "pump=0",
          "pump stop dose-given, pump start below-start, "
          "pump stop dose-given, pump start below-start, "
          "pump stop dose-given"},
         {"4m", NULL, NULL, "pump=0", "bed alert doses-out"},
         {"1h", NULL,
          "?bed soil is not past stop after 3 doses: no more are given, until "
          "it is, or "
          "cleared",
          "pump=0", ""},
         {"61m", NULL, "!reboot", "pump=0", "site setting journal, " BOOT},
         {"62m", NULL, NULL, "pump=0", ""},
         {"63m", NULL, "bed clear", "pump=1",
          "bed over doses-anew, pump start below-start"})

SCENARIO(doses_come_back_once_the_stop_mark_was_passed, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", BOOT ", pump start below-start"},
         {"10m", NULL, NULL, "pump=0", NULL},
         {"11m", "soil=300", NULL, "pump=0", ""},
         {"11m1s", NULL, NULL, "pump=0", "bed over doses-anew"},
         {"12m", "soil=800", NULL, "pump=1", "pump start below-start"})

SCENARIO(a_dose_cut_short_counts, SITE SOIL PUMP DOSED,
         {"0s", "soil=800", NULL, "pump=1", BOOT ", pump start below-start"},
         {"5s", NULL, "site hold", "pump=0", "site mode hold, pump stop hold"},
         {"6s", NULL, "site go", "pump=0", "site mode go"},
         {"64s", NULL, NULL, "pump=0", ""},
         {"66s", NULL, NULL, "pump=1", "pump start below-start"})

/* Floods */

#define SKY                                                                    \
    "[sky]\nis = sensor\nmeasures = light\nform = counts\nport = adc:1\n"      \
    "points = 0:0% 1000:100%\nplausible = 0..1000\nevery = 10s\n"              \
    "[outdoors]\nis = day\nlight = sky\nday_above = 60%\nnight_below = 40%\n"  \
    "steady = 8m\n"
#define FLOAT                                                                  \
    "[float]\nis = sensor\nform = switch\nport = pin:0\nevery = 1s\n"          \
    "lost_after = 30s\n"
#define FLOOD                                                                  \
    "[tray]\nis = duty\nrun = pump\nflood = 9m\nevery = 2h\nby = outdoors\n"   \
    "at_most_apart = 10h\n"

SCENARIO(bright_light_at_the_first_sample_is_not_dawn, SITE SKY PUMP FLOOD,
         {"0s", "sky=900", NULL, "pump=0", BOOT},
         {"7m59s", NULL, NULL, "pump=0", ""},
         {"8m", NULL, NULL, "pump=1", "outdoors mode day, pump start due"},
         {"17m", NULL, NULL, "pump=0", "pump stop given"},
         {"1h", NULL, "?pump tray comes in 1h 8m", "pump=0", ""},
         {"2h7m59s", NULL, NULL, "pump=0", ""},
         {"2h8m", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_cloud_of_half_the_steady_time_changes_nothing, SITE SKY PUMP FLOOD,
         {"0s", "sky=900", NULL, "pump=0", BOOT},
         {"1h", NULL, NULL, "pump=0", NULL},
         {"64m", "sky=100", NULL, "pump=0", ""},
         {"68m", "sky=900", NULL, "pump=0", ""},
         {"2h", NULL, NULL, "pump=0", ""})

SCENARIO(a_night_of_16_h_has_a_flood_at_its_limit_and_dawn_floods_even_so,
         SITE SKY PUMP FLOOD, {"0s", "sky=900", NULL, "pump=0", BOOT},
         {"2h30m", NULL, NULL, "pump=0", NULL},
         {"2h31m", "sky=100", NULL, "pump=0", ""},
         {"2h39m", NULL, NULL, "pump=0", "outdoors mode night"},
         {"12h7m", NULL, NULL, "pump=0", ""},
         {"12h8m", NULL, NULL, "pump=1", "pump start due"},
         {"13h", NULL, "?pump tray comes in 9h 8m", "pump=0",
          "pump stop given"},
         {"13h1m", "sky=900", NULL, "pump=0", ""},
         {"13h9m", NULL, NULL, "pump=1", "outdoors mode day, pump start due"})

SCENARIO(a_float_ends_a_flood_and_a_lost_float_blocks_it,
         SITE SKY FLOAT PUMP FLOOD "until = float\n",
         {"0s", "sky=900 float=0", NULL, "pump=0", BOOT},
         {"8m", NULL, NULL, "pump=1", NULL},
         {"10m", "float=1", NULL, "pump=0", "pump stop reached"},
         {"2h", "float=-", NULL, "pump=0", ""},
         {"2h9m", NULL, NULL, "pump=0", "float quality reading-lost"},
         {"2h20m", "float=0", NULL, "pump=1",
          "float quality readable, pump start due"},
         {"2h29m", NULL, NULL, "pump=0", "pump stop given"})

#define ECHO                                                                   \
    "[echo]\nis = sensor\nmeasures = distance\nform = echo\nport = echo:0\n"   \
    "every = 1s\nlost_after = 20s\nplausible = 100..20000\n"                   \
    "[tank]\nis = tank\nsensor = echo\nshape = upright\ndiameter = 1m\n"       \
    "depth = 1000mm\ngap = 100mm\n"
#define AT_50 "echo=3494"
#define AT_25 "echo=4950"
#define AT_10 "echo=5824"
#define DRY "from = tank\ndry_below = 20%\ndry_clear = 30%\n"

SCENARIO(a_blocked_flood_is_owed_once, SITE SKY ECHO PUMP DRY FLOOD,
         {"0s", "sky=900 " AT_10, NULL, "pump=0", BOOT},
         {"8m", NULL, NULL, "pump=0",
          "outdoors mode day, pump block source-low"},
         {"1h", NULL, NULL, "pump=0", ""},
         {"1h8m", NULL, NULL, "pump=0", "tray alert missed"},
         {"7h", AT_50, NULL, "pump=1",
          "tray alert missed, tray alert missed, pump clear source-low, "
          "pump start due"},
         {"7h9m", NULL, NULL, "pump=0", "pump stop given"},
         {"8h59m", NULL, NULL, "pump=0", ""},
         {"9h", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_flood_cut_by_a_guard_owes_what_is_left, SITE SKY ECHO PUMP DRY FLOOD,
         {"0s", "sky=900 " AT_50, NULL, "pump=0", BOOT},
         {"8m", NULL, NULL, "pump=1", NULL},
         {"12m", AT_10, NULL, "pump=0", "pump stop source-low"},
         {"1h", AT_50, NULL, "pump=1", "pump clear source-low, pump start due"},
         {"1h4m59s", NULL, NULL, "pump=1", ""},
         {"1h5m", NULL, NULL, "pump=0", "pump stop given"})

SCENARIO(a_reboot_in_mid_flood_owes_the_rest_and_is_no_dawn,
         SITE SKY ECHO PUMP DRY FLOOD,
         {"0s", "sky=900 " AT_50, NULL, "pump=0", BOOT},
         {"18m", NULL, "?pump tray comes in 1h 50m", "pump=0", NULL},
         {"20m", NULL, "pump off", "pump=0", "pump mode off"},
         {"21m", NULL, "pump auto", "pump=0", "pump mode auto"},
         {"22m", NULL, "!reboot", "pump=0", "site setting journal, " BOOT},
         {"31m", NULL, NULL, "pump=0", "outdoors mode day"},
         {"2h", NULL, NULL, "pump=0", ""},
         {"2h10m", NULL, NULL, "pump=1", "pump start due"},
         {"2h12m", AT_10, NULL, "pump=0", "pump stop source-low"},
         {"2h13m", NULL, "!reboot", "pump=0",
          "site setting journal, " BOOT ", pump block source-low"},
         {"2h14m", AT_50, NULL, "pump=1",
          "pump clear source-low, pump start due"},
         {"2h21m", NULL, NULL, "pump=0", "pump stop given, outdoors mode day"})

SCENARIO(a_tray_that_is_full_already_is_not_flooded,
         SITE SKY FLOAT PUMP FLOOD "until = float\n",
         {"0s", "sky=900 float=1", NULL, "pump=0", BOOT},
         {"8m", NULL, NULL, "pump=0", "outdoors mode day"},
         {"1h", "float=0", NULL, "pump=0", ""},
         {"2h8m", NULL, NULL, "pump=1", "pump start due"})

/* Times of the clock */

SCENARIO(a_timed_run_waits_for_the_clock_and_comes_at_its_times,
         SITE PUMP
         "[lamp]\nis = duty\nrun = pump\nat = 06:30 18:10\nfor = 10m\n",
         {"0s", NULL, "?pump lamp waits for the clock, which is not set",
          "pump=0", BOOT},
         {"1m", NULL, "site clock 2031-04-02T06:29:30", "pump=0",
          "site setting clock"},
         {"1m29s", NULL, NULL, "pump=0", ""},
         {"1m30s", NULL, NULL, "pump=1", "pump start due"},
         {"11m30s", NULL, NULL, "pump=0", "pump stop given"},
         {"12m", NULL, "site clock 2031-04-02T06:20:00", "pump=0",
          "site setting clock"},
         {"40m", NULL, NULL, "pump=0", ""},
         {"41m", NULL, "site clock 2031-04-02T18:09:59", "pump=0",
          "site setting clock"},
         {"41m1s", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_volume_is_a_time_by_the_flow_of_the_pump,
         SITE PUMP "flow = 6L/min\n"
                   "[drink]\nis = duty\nrun = pump\nevery = 1h\ngive = 15L\n",
         {"0s", NULL, NULL, "pump=0", BOOT},
         {"59m59s", NULL, NULL, "pump=0", ""},
         {"1h", NULL, NULL, "pump=1", "pump start due"},
         {"1h2m29s", NULL, NULL, "pump=1", ""},
         {"1h2m30s", NULL, NULL, "pump=0", "pump stop given"},
         {"2h", NULL, NULL, "pump=1", "pump start due"})

SCENARIO(a_duty_keeps_to_its_hours_once_there_is_a_clock,
         SITE SOIL PUMP "[bed]\nis = duty\nrun = pump\nkeep = soil\n"
                        "start = 30%\nstop = 60%\nbetween = 20:00..06:00\n",
         {"0s", "soil=500", "site clock 2031-04-02T12:00:00", "pump=0",
          BOOT ", site setting clock"},
         {"1m", "soil=800", NULL, "pump=0", ""},
         {"2m", NULL, "?bed bed is not within its hours", "pump=0", ""},
         {"7h59m", NULL, NULL, "pump=0", ""},
         {"8h", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_day_by_the_clock_is_day_within_its_hours,
         SITE PUMP "[hours]\nis = day\nbetween = 05:30..21:00\n"
                   "[tray]\nis = duty\nrun = pump\nflood = 5m\nevery = 2h\n"
                   "by = hours\n",
         {"0s", NULL, NULL, "pump=0", BOOT},
         {"1m", NULL, "site clock 2031-04-02T05:28:00", "pump=0",
          "site setting clock"},
         {"3m", NULL, NULL, "pump=1", "hours mode day, pump start due"})

/* The second condition */

#define AIR                                                                    \
    "[air]\nis = sensor\nmeasures = temperature\nform = counts\nport = "       \
    "adc:1\n"                                                                  \
    "points = 0:0C 1000:100C\nplausible = 0..1000\nevery = 1s\n"               \
    "[damp]\nis = sensor\nmeasures = humidity\nform = counts\nport = adc:2\n"  \
    "points = 0:0% 1000:100%\nplausible = 0..1000\nevery = 1s\n"               \
    "lost_after = 10s\n"
#define AIRING                                                                 \
    "[airing]\nis = duty\nrun = pump\nkeep = air\nstart = 27C\nstop = 22C\n"   \
    "also = damp 78% 61%\n"

SCENARIO(both_must_agree_to_start_and_either_stops, SITE AIR PUMP AIRING,
         {"0s", "air=300 damp=700", NULL, "pump=0", BOOT},
         {"1s", NULL, "?pump damp 70.00 % must first pass its start 78.00 %",
          "pump=0", ""},
         {"2s", "damp=800", NULL, "pump=1", "pump start above-start"},
         {"3s", "air=250 damp=700", NULL, "pump=1", ""},
         {"4s", "damp=600", NULL, "pump=0", "pump stop below-stop"},
         {"5s", "damp=800 air=280", NULL, "pump=1", "pump start above-start"},
         {"20s", "damp=-", NULL, "pump=1", ""},
         {"29s", NULL, NULL, "pump=0",
          "damp quality reading-lost, pump stop reading-lost"})

SCENARIO(both_stop_only_together_when_the_file_says_so,
         SITE AIR PUMP AIRING "stops = both\n",
         {"0s", "air=300 damp=800", NULL, "pump=1",
          BOOT ", pump start above-start"},
         {"1s", "damp=500", NULL, "pump=1", ""},
         {"2s", "air=210", NULL, "pump=0", "pump stop below-stop"})

/* Routes, groups, travel */

#define TWO_BEDS                                                               \
    "[dry]\nis = sensor\nmeasures = moisture\nform = counts\nport = adc:1\n"   \
    "dry = 1000\nwet = 0\nplausible = 0..1100\nevery = 1s\n"                   \
    "[left]\nis = valve\nport = relay:1\ntravel = 4s\n"                        \
    "[right]\nis = valve\nport = relay:2\n"                                    \
    "[one]\nis = duty\nrun = pump\nthrough = left\nkeep = soil\n"              \
    "start = 30%\nstop = 60%\n"                                                \
    "[two]\nis = duty\nrun = pump\nthrough = right\nkeep = dry\n"              \
    "start = 30%\nstop = 60%\n"

SCENARIO(the_valve_opens_before_the_pump_and_shuts_after_it,
         SITE SOIL PUMP TWO_BEDS,
         {"0s", "soil=800 dry=500", NULL, "pump=0 left=0 right=0", BOOT},
         {"4s", NULL, NULL, "pump=0 left=1 right=0", "left start route"},
         {"6s", NULL, "?pump left opens, 2 s left of 4 s",
          "pump=0 left=1 right=0", ""},
         {"8s", NULL, NULL, "pump=1 left=1 right=0", "pump start below-start"},
         {"9s", "dry=800",
          "?two two waits: one has the pump, until that is "
          "done",
          "pump=1 left=1 right=0", ""},
         {"10s", "soil=300", NULL, "pump=0 left=1 right=0",
          "pump stop above-stop"},
         {"11s", NULL, NULL, "pump=0 left=0 right=1",
          "left stop no-route, right start route"},
         {"12s", NULL, NULL, "pump=1 left=0 right=1", "pump start below-start"},
         {"13s", NULL, "right off", "pump=0 left=0 right=1",
          "right mode off, pump stop route-shut"},
         {"14s", NULL, NULL, "pump=0 left=0 right=0", "right stop off"},
         {"15s", NULL,
          "?pump right is shut, and pump needs it open, until it "
          "opens",
          "pump=0 left=0 right=0", ""})

SCENARIO(on_hold_the_valve_shuts_after_its_pump, SITE SOIL PUMP TWO_BEDS,
         {"0s", "soil=800 dry=500", NULL, NULL, NULL},
         {"10s", NULL, NULL, "pump=1 left=1 right=0", NULL},
         {"11s", NULL, "site hold", "pump=0 left=1 right=0",
          "site mode hold, pump stop hold"},
         {"12s", NULL, NULL, "pump=0 left=0 right=0", "left stop hold"})

SCENARIO(a_group_may_run_only_so_many_at_once,
         SITE SOIL
         "[bank]\nis = group\nat_once = 1\n" PUMP
         "group = bank\n[other]\nis = pump\nrest = 0s\nport = relay:1\n"
         "longest = 1h\ngroup = bank\n"
         "[a]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
         "stop = 60%\n"
         "[b]\nis = duty\nrun = other\nkeep = soil\nstart = 30%\n"
         "stop = 70%\n",
         {"0s", "soil=800", NULL, "pump=1 other=0",
          BOOT ", pump start below-start"},
         {"1s", NULL,
          "?other other waits: 1 of its group run, at_once is 1, "
          "until one stops",
          "pump=1 other=0", ""},
         {"2s", "soil=350", NULL, "pump=0 other=1",
          "pump stop above-stop, other start under-way"})

SCENARIO(a_vent_finds_its_place_at_boot_and_says_where_it_is,
         SITE AIR "[vent]\nis = vent\nport = servo:0\ntravel = 100% in 20s\n"
                  "[cool]\nis = duty\nrun = vent\nkeep = air\nstart = 27C\n"
                  "stop = 22C\n",
         {"0s", "air=300 damp=500", NULL, "vent=100.00", BOOT},
         {"10s", NULL, "?vent vent waits after boot, 10 s left of 20 s",
          "vent=50.00", ""},
         {"20s", NULL, NULL, "vent=0.00", "vent start above-start"},
         {"27s", NULL, NULL, "vent=35.00", ""},
         {"28s", "air=200", NULL, "vent=40.00", "vent stop below-stop"},
         {"30s", "air=300", NULL, "vent=30.00", "vent start above-start"},
         {"44s", NULL, NULL, "vent=100.00", ""},
         {"60s", NULL, NULL, "vent=100.00", ""})

/* Settings */

#define CHANGED                                                                \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"     \
    "change = start stop\n"

SCENARIO(marks_are_changed_while_running_and_kept_over_a_power_cut,
         SITE SOIL PUMP CHANGED, {"0s", "soil=650", NULL, "pump=0", BOOT},
         {"1s", NULL, "bed.start 40%", "pump=1",
          "bed setting set-start, pump start below-start"},
         {"2s", "soil=550", NULL, "pump=1", ""},
         {"3s", NULL, "bed.start 20% bed.stop 44.5%", "pump=0",
          "bed setting set-start, bed setting set-stop, "
          "pump stop above-stop"},
         {"4s", NULL, "!reboot", "pump=0",
          "site setting journal, site boot power-on, bed setting set-start, "
          "bed setting set-stop"},
         {"5s", "soil=790", NULL, "pump=0", ""},
         {"6s", "soil=801", NULL, "pump=1", "pump start below-start"})
