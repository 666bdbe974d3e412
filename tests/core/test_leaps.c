/* Sites whose rangers lie: what leapt is not believed, and permits nothing. The
 * laser of the barrel tells mm; 100 mm more of them are 10 % less of water. */
#include "../harness/harness.h"
#include "../harness/scenario.h"

#define SITE                                                                   \
    "[site]\nscan = 1s\n"                                                      \
    "[soil]\nis = sensor\nform = counts\nmeasures = moisture\nport = adc:0\n"  \
    "dry = 1000\nwet = 0\nevery = 1s\nlost_after = 1h\n"                       \
    "[laser]\nis = sensor\nform = range-word\nport = i2c:1\nevery = 1s\n"      \
    "smooth = median 5\nlost_after = 1m\n"
#define BARREL                                                                 \
    "[barrel]\nis = tank\nsensor = laser\nshape = upright\ndiameter = 60cm\n"  \
    "depth = 1000mm\ngap = 150mm\nblanking = 120mm\nbelieve = 15m\n"
#define GIVE                                                                   \
    "[pump]\nis = pump\nport = relay:0\nfrom = barrel\ndry_below = 12%\n"      \
    "dry_clear = 20%\nflow = 4L/min\nlongest = 9h\nrest = 5s\n"                \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 40%\nstop = 60%\n"
#define FILL                                                                   \
    "[pump]\nis = pump\nport = relay:0\ninto = barrel\nflow = 40L/min\n"       \
    "longest = 9h\nrest = 5s\n"                                                \
    "[fill]\nis = duty\nrun = pump\nkeep = barrel\nstart = 30%\nstop = 90%\n"

/* At boot nothing is known of a level before it has held for two minutes. */
SCENARIO(at_boot_a_level_must_hold_for_two_minutes, SITE BARREL GIVE,
         {"0s", "laser=650 soil=900", NULL, "pump=0", NULL},
         {"119s", NULL,
          "?pump barrel is not known yet, until it answers steadily", "pump=0",
          ""},
         {"120s", NULL, NULL, "pump=1",
          "pump clear source-unknown, pump start below-start"})

/* What is not believed has not leaked: a rung, or a spider that goes. */
SCENARIO(a_leap_is_no_leak, SITE BARREL "leak = 8mm in 8m\n" GIVE,
         {"0s", "laser=600 soil=300", NULL, "pump=0", NULL},
         {"30m", NULL, NULL, "pump=0", ""},
         {"31m", "laser=700", NULL, "pump=0", NULL},
         {"36m", "laser=600", NULL, "pump=0", "barrel quality leapt"},
         {"2h", "laser=60", NULL, "pump=0", ""},
         {"2h 20m", "laser=602", NULL, "pump=0", "barrel quality leapt"},
         {"4h", NULL, NULL, "pump=0", ""},
         {"4h 1s", "laser=612", NULL, "pump=0", ""},
         {"4h 17m", NULL, NULL, "pump=0", "barrel leak leak, barrel over leak"})

SCENARIO(a_spider_before_an_empty_barrel_starts_nothing, SITE BARREL GIVE,
         {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"5m", "laser=60", NULL, "pump=0", NULL},
         {"20m", NULL,
          "?pump barrel 5.00 % is below dry_below 12.00 %, until above "
          "20.00 %",
          "pump=0", "barrel quality leapt"},
         {"1h 4m", NULL, NULL, "pump=0", ""},
         {"1h 6m", NULL, NULL, "pump=0", "barrel alert look-in"},
         {"40h", NULL, NULL, "pump=0", "bed alert kept-off"},
         {"40h 1s", NULL, "barrel is 70%", "pump=1", NULL})

/* A duty that empties goes on over a leap while a meter proves its pump; but a
 * sensor that is lost stops it, whoever asked for it. */
#define SUMP                                                                   \
    "[barrel]\nis = tank\nsensor = laser\nshape = upright\ndiameter = 60cm\n"  \
    "depth = 1000mm\ngap = 150mm\nbelieve = 15m\ngains = 4L/min\n"             \
    "[meter]\nis = sensor\nform = counts\nmeasures = flow\nport = adc:1\n"     \
    "points = 0:0L/min 1000:10L/min\nevery = 1s\n"                             \
    "[pump]\nis = pump\nport = relay:0\nfrom = barrel\ndry_below = 12%\n"      \
    "dry_clear = 18%\nflow = 6L/min\nlongest = 9h\nhand_limit = 1h\n"          \
    "rest = 5s\nproof = meter above 2L/min in 30s\nretry = 10m x3\n"           \
    "[drain]\nis = duty\nrun = pump\nkeep = barrel\nstart = 60%\n"             \
    "stop = 30%\n"
SCENARIO(a_sump_is_emptied_over_a_leap_but_not_without_its_sensor, SITE SUMP,
         {"0s", "laser=450 meter=0", NULL, "pump=0", NULL},
         {"2m 5s", "meter=600", NULL, "pump=1", NULL},
         {"3m", "laser=1130", NULL, "pump=1", NULL},
         {"4m", NULL, NULL, "pump=1",
          "pump stop source-low, barrel quality leapt, pump clear source-low, "
          "pump start above-start"},
         {"5m", NULL, "pump hand 30m", "pump=1", NULL},
         {"6m", "laser=-", NULL, "pump=1", NULL},
         {"6m 58s", NULL, NULL, "pump=1", NULL},
         {"7m 2s", NULL, NULL, "pump=0", NULL})

/* A brim that was there before the controller: where a meter says whether water
 * moves, the pump is tried once a pause, for as long as that takes. */
SCENARIO(a_brim_full_barrel_is_tried_where_a_meter_watches,
         SITE BARREL
         "[meter]\nis = sensor\nform = counts\nmeasures = flow\n"
         "port = adc:1\npoints = 0:0L/min 1000:10L/min\nevery = 1s\n"
         "[pump]\nis = pump\nport = relay:0\nfrom = barrel\n"
         "dry_below = 12%\ndry_clear = 20%\nflow = 4L/min\nlongest = 9h\n"
         "rest = 5s\nproof = meter above 2L/min in 30s\nretry = 10m x3\n"
         "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 40%\n"
         "stop = 60%\n",
         {"0s", "laser=60 soil=900 meter=0", NULL, "pump=0", NULL},
         {"59m", NULL, NULL, "pump=0", ""},
         {"1h 1s", "meter=400", NULL, "pump=1",
          "pump clear source-unknown, pump start below-start"},
         {"1h 30s", NULL, NULL, "pump=1", ""},
         {"1h 32s", NULL, NULL, "pump=0", "pump stop source-unknown"},
         {"1h 1m", "meter=0", NULL, "pump=0", ""},
         {"1h 10m", NULL, NULL, "pump=0", ""},
         {"1h 11m", NULL, NULL, "pump=1", NULL},
         {"1h 12m", NULL, NULL, "pump=0", "pump stop source-unknown"},
         {"1h 21m 30s", NULL, NULL, "pump=1", NULL},
         {"1h 22m", NULL, NULL, "pump=0",
          "pump stop no-flow, pump trip no-flow, pump block source-unknown"},
         {"2h 50m", NULL, NULL, "pump=0", NULL})

SCENARIO(a_rung_starts_nothing_until_it_has_stayed, SITE BARREL GIVE,
         {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"5m", "laser=500", NULL, "pump=0", NULL},
         {"6m", NULL, NULL, "pump=0", "barrel quality leapt"},
         {"20m", NULL, NULL, "pump=0", ""},
         {"22m", NULL, NULL, "pump=1",
          "barrel quality believed, pump clear source-unknown, pump start "
          "below-start"})

/* Told once, and once more at the soonest when all of it is over. */
SCENARIO(a_rung_for_half_a_minute_again_and_again_starts_nothing,
         SITE BARREL GIVE, {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"5m", "laser=500", NULL, "pump=0", NULL},
         {"5m 30s", "laser=1100", NULL, "pump=0", "barrel quality leapt"},
         {"8m", "laser=500", NULL, "pump=0", ""},
         {"8m 30s", "laser=1100", NULL, "pump=0", ""},
         {"16m", "laser=500", NULL, "pump=0", ""},
         {"16m 30s", "laser=1100", NULL, "pump=0", ""},
         {"50m", NULL, NULL, "pump=0", ""})

/* What leapt down stops at once; back where it was, it goes on. */
SCENARIO(a_leap_down_stops_what_draws, SITE BARREL GIVE,
         {"0s", "laser=650 soil=900", NULL, "pump=0", NULL},
         {"2m", NULL, NULL, "pump=1", NULL},
         {"3m", "laser=1140", NULL, "pump=1", ""},
         {"3m 5s", NULL, NULL, "pump=0",
          "pump stop source-low, barrel quality leapt"},
         {"4m", "laser=655", NULL, "pump=0", ""},
         {"18m", NULL, NULL, "pump=0", ""},
         {"20m", NULL, NULL, "pump=1",
          "pump clear source-low, pump start below-start"})

/* The echo of the floor for a minute: a full tank is not filled. */
/* Two rungs one after the other are not believed as one. */
SCENARIO(wrong_echoes_one_after_the_other_do_not_add_up, SITE BARREL GIVE,
         {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"10m", "laser=700", NULL, "pump=0", NULL},
         {"20m", "laser=400", NULL, "pump=0", "barrel quality leapt"},
         {"34m", "laser=1100", NULL, "pump=0", ""},
         {"2h", NULL, NULL, "pump=0", "bed alert kept-off"},
         {"2h 1s", "laser=400", NULL, "pump=0", ""},
         {"2h 10m", NULL, NULL, "pump=0", "barrel quality leapt"},
         {"2h 14m", NULL, NULL, "pump=0", ""},
         {"2h 16m", NULL, NULL, "pump=1", NULL})

SCENARIO(the_floor_for_a_minute_fills_no_full_tank, SITE BARREL FILL,
         {"0s", "laser=200 soil=500", NULL, "pump=0", NULL},
         {"5m", "laser=1150", NULL, "pump=0", NULL},
         {"6m", "laser=200", NULL, "pump=0", "barrel quality leapt"},
         {"6h", NULL, NULL, "pump=0", ""})

/* What its pump gave may have brought it to the brim. */
SCENARIO(a_pump_fills_a_barrel_to_the_brim, SITE BARREL FILL,
         {"0s", "laser=950 soil=500", NULL, "pump=0", NULL},
         {"2m", NULL, NULL, "pump=1", NULL},
         {"2m 30s", "laser=880", NULL, "pump=1", ""},
         {"3m", "laser=810", NULL, "pump=1", ""},
         {"3m 30s", "laser=740", NULL, "pump=1", ""},
         {"4m", "laser=670", NULL, "pump=1", ""},
         {"4m 30s", "laser=600", NULL, "pump=1", ""},
         {"5m", "laser=530", NULL, "pump=1", ""},
         {"5m 30s", "laser=460", NULL, "pump=1", ""},
         {"6m", "laser=390", NULL, "pump=1", ""},
         {"6m 30s", "laser=320", NULL, "pump=1", ""},
         {"7m", "laser=260", NULL, "pump=1", ""},
         {"7m 10s", "laser=100", NULL, "pump=1", ""},
         {"7m 12s", NULL, NULL, "pump=0", "pump stop destination-full"},
         {"5h", NULL, NULL, "pump=0", ""})

/* Somebody who looked in is believed, at once and against the ranger. */
SCENARIO(who_looked_in_is_believed, SITE BARREL GIVE,
         {"0s", "laser=60 soil=900", NULL, "pump=0", NULL},
         {"1h", NULL, NULL, "pump=0", ""},
         {"1h 1s", NULL, "barrel is 70%", "pump=1", NULL},
         {"1h 10m", NULL, NULL, "pump=1", "barrel quality leapt"},
         {"1h 25m", NULL, NULL, "pump=1", ""},
         {"1h 35m", NULL, NULL, "pump=0", "pump stop source-low"},
         {"9h", NULL, NULL, "pump=0",
          "barrel alert look-in, bed alert kept-off"})

/* What was believed survives the power, and is held against what is read. */
SCENARIO(a_rung_after_a_power_cut_is_a_leap, SITE BARREL GIVE,
         {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"5m", NULL, "pump off, pump auto", "pump=0", NULL},
         {"5m 1s", "laser=500", "!reboot", "pump=0", NULL},
         {"15m", NULL, NULL, "pump=0", "barrel quality leapt"},
         {"22m", NULL, NULL, "pump=1", NULL},
         {"40m", NULL, NULL, "pump=0",
          "pump stop not-drawn, pump trip not-drawn, pump lock locked"})

SCENARIO(a_full_barrel_waters_after_a_power_cut, SITE BARREL GIVE,
         {"0s", "laser=180 soil=300", NULL, "pump=0", NULL},
         {"5m", "laser=60", NULL, "pump=0", NULL},
         {"6m", NULL, "pump off, pump auto", "pump=0", NULL},
         {"7m", "soil=900", "!reboot", "pump=0", NULL},
         {"8m", NULL, NULL, "pump=1", NULL})

SCENARIO(what_was_filled_while_the_power_was_off_waters_within_two_hours,
         SITE BARREL GIVE, {"0s", "laser=1100 soil=900", NULL, "pump=0", NULL},
         {"5m", NULL, "pump off, pump auto", "pump=0", NULL},
         {"6m", "laser=200", "!reboot", "pump=0", NULL},
         {"20m", NULL, NULL, "pump=0", NULL},
         {"25m", NULL, NULL, "pump=1", NULL})

/* A thermometer that is lost: the last temperature stands, and the level may be
 * what it would be 15 C around that. 25 % at 40 C is 22.6 % then, or 27.4 %. */
SCENARIO(
    without_its_thermometer_a_level_may_be_lower,
    "[site]\nscan = 1s\n"
    "[soil]\nis = sensor\nform = counts\nmeasures = moisture\nport = adc:0\n"
    "dry = 1000\nwet = 0\nevery = 1s\nlost_after = 1h\n"
    "[lid]\nis = sensor\nform = plain\nmeasures = temperature\n"
    "port = bus:1\nevery = 1s\nlost_after = 30s\n"
    "[eye]\nis = sensor\nform = echo\nport = echo:0\nair = lid\n"
    "every = 1s\nsmooth = median 5\nlost_after = 1m\n"
    "[butt]\nis = tank\nsensor = eye\nshape = upright\n"
    "diameter = 60cm\ndepth = 1000mm\ngap = 150mm\nbelieve = 15m\n"
    "[pump]\nis = pump\nport = relay:0\nfrom = butt\ndry_below = 23%\n"
    "dry_clear = 24%\nflow = 10ml/min\nlongest = 9h\nrest = 5s\n"
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 40%\nstop = 60%\n",
    {"0s", "eye=5063 lid=4000 soil=900", NULL, "pump=0", NULL},
    {"2m", NULL, NULL, "pump=1", NULL}, {"3m", "lid=-", NULL, "pump=1", ""},
    {"3m 28s", NULL, NULL, "pump=1", ""},
    {"3m 35s", NULL,
     "?pump butt 22.62 % is below dry_below 23.00 %, until above 24.00 %",
     "pump=0", "lid quality reading-lost, pump stop source-low"},
    {"10m", "lid=4000", NULL, "pump=1",
     "lid quality readable, pump clear source-low, pump start below-start"})
