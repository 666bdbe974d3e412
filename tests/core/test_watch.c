/* What the site notices: floats as a tank's source, leaks, a relay that
 * sticks, volumes that cannot be, outputs that do not obey, a line whose far
 * valve shuts, alerts. Echo times as in test_site.c: 1000 us is 171.7 mm. */
#include "../harness/harness.h"
#include "../harness/scenario.h"

#define SITE "[site]\nscan = 1s\n"
#define ECHO                                                                   \
    "[echo]\nis = sensor\nmeasures = distance\nform = echo\nport = echo:0\n"   \
    "every = 1s\nlost_after = 20s\nplausible = 100..20000\n"                   \
    "[tank]\nis = tank\nsensor = echo\nshape = upright\ndiameter = 1m\n"       \
    "depth = 1000mm\ngap = 100mm\n"
#define AT_50 "echo=3494"
#define AT_49 "echo=3552"
#define AT_48 "echo=3611"
#define AT_47 "echo=3669"
#define AT_25 "echo=4950"
#define AT_10 "echo=5824"
#define RESTING "[pump]\nis = pump\nport = relay:0\nlongest = 1h\n"
#define PUMP RESTING "rest = 0s\n"
#define DRY "from = tank\ndry_below = 20%\ndry_clear = 30%\n"
#define BOOT "site boot power-on"

/* Floats */

#define FLOATS                                                                 \
    "[low]\nis = sensor\nform = switch\nport = pin:0\nevery = 1s\n"            \
    "lost_after = 20s\n[high]\nis = sensor\nform = switch\nport = pin:1\n"     \
    "every = 1s\nlost_after = 20s\n"                                           \
    "[tank]\nis = tank\nfloats = low 15% high 90%\n"

SCENARIO(two_floats_tell_a_tank,
         SITE FLOATS PUMP
         "into = tank\nfull_at = 85%\n"
         "[fill]\nis = duty\nrun = pump\nkeep = tank\nstart = 10%\n"
         "stop = 80%\n",
         {"0s", "low=0 high=0", NULL, "pump=1",
          BOOT ", pump start below-start"},
         {"10s", "low=1", NULL, "pump=1", ""},
         {"20s", "high=1", NULL, "pump=0", "pump stop destination-full"},
         {"30s", "low=0",
          "?pump the floats of tank contradict each other: only the upper is "
          "lifted",
          "pump=0", ""},
         {"40s", "low=0 high=0", NULL, "pump=1",
          "pump clear destination-full, pump start below-start"})

SCENARIO(one_float_is_enough_for_a_source,
         SITE "[low]\nis = sensor\nform = switch\nport = pin:0\nevery = 1s\n"
              "lost_after = 20s\n[tank]\nis = tank\nfloats = low 25%\n" PUMP
              "from = tank\ndry_below = 10%\ndry_clear = 20%\n",
         {"0s", "low=0", "pump hand 5m", "pump=0",
          "site boot power-on, pump mode hand, pump block source-low, "
          "pump mode auto"},
         {"10s", "low=1", "pump hand 5m", "pump=1", NULL},
         {"20s", "low=0", NULL, "pump=0",
          "pump stop source-low, pump mode auto"})

/* Leaks, relays that stick, volumes */

SCENARIO(a_leak_is_told_once_and_is_over_when_the_level_holds,
         SITE ECHO "leak = 5mm in 10m\n" PUMP DRY,
         {"0s", AT_50, NULL, "pump=0", BOOT},
         {"10m", AT_49, NULL, "pump=0", ""},
         {"20m", AT_48, NULL, "pump=0", "tank leak leak"},
         {"30m", AT_47, NULL, "pump=0", ""},
         {"40m", NULL, NULL, "pump=0", "tank over leak"})

SCENARIO(while_a_pump_moves_it_and_a_while_after_nothing_is_a_leak,
         SITE ECHO "leak = 5mm in 10m\n" PUMP DRY,
         {"0s", AT_50, "pump hand 5m", "pump=1", NULL},
         {"5m", AT_49, NULL, "pump=0", NULL},
         {"15m", AT_48, NULL, "pump=0", ""}, {"25m", NULL, NULL, "pump=0", ""})

SCENARIO(a_relay_that_sticks_is_told,
         SITE ECHO PUMP DRY "proof = tank falls 5mm in 1m\nretry = 1m x1\n",
         {"0s", AT_50, NULL, "pump=0", BOOT}, {"1m", AT_49, NULL, "pump=0", ""},
         {"2m", AT_48, NULL, "pump=0", ""}, {"3m", AT_47, NULL, "pump=0", ""},
         {"4m", "echo=3728", NULL, "pump=0", "pump alert still-falls"},
         {"5m", NULL, NULL, "pump=0", "pump over still-falls"})

/* Half of the tank is 393 L: 39.3 minutes at 10 L a minute. */
SCENARIO(a_run_that_gives_more_than_the_tank_held_is_told,
         SITE ECHO PUMP DRY "flow = 10L/min\nhand_limit = 1h\n",
         {"0s", AT_50, "pump hand 50m", "pump=1", NULL},
         {"39m", NULL, NULL, "pump=1", ""},
         {"40m", NULL, NULL, "pump=1", "pump alert volume"},
         {"50m", NULL, "pump off", "pump=0", NULL},
         {"51m", NULL, "pump hand 5m", "pump=1",
          "pump mode hand, pump start hand, pump over volume"})

/* Outputs that do not obey */

SCENARIO(a_pump_that_does_not_obey_stops_all_that_shares_its_tank,
         SITE ECHO PUMP DRY "[other]\nis = pump\nrest = 0s\nport = relay:1\n"
                            "longest = 1h\n" DRY
                            "[apart]\nis = pump\nrest = 0s\nport = relay:2\n"
                            "longest = 1h\n",
         {"0s", AT_50, "pump hand 5m, other hand 5m, apart hand 5m",
          "pump=1 other=1 apart=1", NULL},
         {"10s", NULL, "!fail pump", "pump=1 other=1 apart=1", ""},
         {"11s", NULL, NULL, "pump=1 other=0 apart=1",
          "pump alert cannot-drive, pump stop cannot-drive, "
          "other stop shares-failed, pump mode auto, other mode auto"},
         {"12s", NULL, "?other a pump at tank does not obey, until it obeys",
          "pump=1 other=0 apart=1", ""},
         {"20s", NULL, "!work pump", "pump=0 other=0 apart=1", ""},
         {"21s", NULL, NULL, "pump=0 other=0 apart=1",
          "pump over cannot-drive, pump clear cannot-drive, "
          "other clear shares-failed"})

/* A long line with a float valve at its end */

#define LINE                                                                   \
    "[line]\nis = sensor\nmeasures = pressure\nform = counts\nport = adc:0\n"  \
    "points = 0:0bar 1000:10bar\nplausible = 0..1000\nevery = 1s\n"            \
    "[trough]\nis = duty\nrun = pump\nkeep = line\nstart = 1.4bar\n"           \
    "stop = 3.2bar\n"

SCENARIO(a_line_stops_when_its_far_end_is_full_and_rests_visibly,
         SITE RESTING "rest = 90s\n" LINE,
         {"0s", "line=100", NULL, "pump=0", BOOT},
         {"90s", NULL, NULL, "pump=1", "pump start below-start"},
         {"100s", "line=330", NULL, "pump=0", "pump stop far-full"},
         {"102s", "line=90", NULL, "pump=0", ""},
         {"148s", NULL, "?pump pump rests, 42 s left of 1m 30s", "pump=0", ""},
         {"190s", NULL, NULL, "pump=1", "pump start below-start"})

/* Alerts */

#define LOW                                                                    \
    "[low]\nis = alert\nof = tank\nbelow = 24%\nclear = 28%\nsteady = 15m\n"   \
    "repeat = 2h\nsay = fetch water\n"

SCENARIO(an_alert_is_said_once_repeated_and_said_to_be_over, SITE ECHO LOW,
         {"0s", AT_50, NULL, "", BOOT}, {"1m", AT_10, NULL, "", ""},
         {"10m", AT_25, NULL, "", ""}, {"11m", AT_10, NULL, "", ""},
         {"25m59s", NULL, NULL, "", ""},
         {"26m", NULL, NULL, "", "low alert alert-below"},
         {"2h25m", AT_25, NULL, "", ""},
         {"2h26m", NULL, NULL, "", "low alert alert-lasts"},
         {"3h", AT_50, NULL, "", ""},
         {"3h15m", NULL, NULL, "", "low over alert-below"})

SCENARIO(a_lost_level_is_neither_an_alert_nor_its_end, SITE ECHO LOW,
         {"0s", AT_10, NULL, "", BOOT},
         {"15m", NULL, NULL, "", "low alert alert-below"},
         {"16m", "echo=-", NULL, "", ""},
         {"1h", NULL, NULL, "", "echo quality reading-lost"},
         {"70m", AT_10, NULL, "", "echo quality readable"})

/* Days with a clock */

#define DAY SITE PUMP "per_day = 2starts\nhand_limit = 1h\n"
#define HAND "pump hand 10s"

SCENARIO(a_day_is_a_date_and_ends_at_midnight, DAY,
         {"0s", NULL, "site clock 2031-04-02T20:00:00, " HAND, "pump=1", NULL},
         {"1h", NULL, HAND, "pump=1", NULL},
         {"3h59m", NULL, HAND, "pump=0", NULL},
         {"4h", NULL, HAND, "pump=1", NULL}, {"5h", NULL, HAND, "pump=1", NULL},
         {"6h", NULL, HAND, "pump=0",
          "pump mode hand-over, pump stop hand-over, pump mode hand, "
          "pump block day-starts, pump mode auto"},
         {"27h59m", NULL, HAND, "pump=0", NULL},
         {"28h", NULL, HAND, "pump=1", NULL})

/* Whatever was off or set in between: a bed has its day on every day. */
SCENARIO(
    a_restart_or_a_clock_set_by_a_second_is_no_new_day, DAY,
    {"0s", NULL, "site clock 2031-04-02T08:00:00, " HAND, "pump=1", NULL},
    {"1h", NULL, HAND, "pump=1", NULL},
    {"2h", NULL, "site clock 2031-04-02T10:00:01, " HAND, "pump=0", NULL},
    {"3h", NULL, "!reboot", "pump=0", NULL},
    {"3h 1s", NULL, "site clock 2031-04-02T11:00:02, " HAND, "pump=0", NULL},
    {"16h", NULL, HAND, "pump=1", NULL}, {"17h", NULL, HAND, "pump=1", NULL},
    {"18h", NULL, HAND, "pump=0", NULL}, {"40h", NULL, HAND, "pump=1", NULL})

/* Off over midnight: the clock tells that it is another day. */
SCENARIO(off_over_midnight_is_another_day, DAY,
         {"0s", NULL, "site clock 2031-04-02T20:00:00, " HAND, "pump=1", NULL},
         {"1h", NULL, HAND, "pump=1", NULL},
         {"2h", NULL, "!reboot", "pump=0", NULL},
         {"2h 1s", NULL, HAND, "pump=0", NULL},
         {"2h 9s", NULL, "site clock 2031-04-03T06:00:00, " HAND, "pump=1",
          NULL})

/* A clock that is set back over midnight, and an hour of summer time: no date
 * comes twice. */
SCENARIO(no_date_comes_twice, DAY,
         {"0s", NULL, "site clock 2031-04-02T23:00:00, " HAND, "pump=1", NULL},
         {"30m", NULL, HAND, "pump=1", NULL},
         {"1h", NULL, HAND, "pump=1", NULL},
         {"1h 20s", NULL, HAND, "pump=1", NULL},
         {"1h 40s", NULL, "site clock 2031-04-02T23:00:40, " HAND, "pump=0",
          NULL},
         {"2h 1m", NULL, HAND, "pump=0", NULL},
         {"25h 59m", NULL, HAND, "pump=0", NULL},
         {"26h 1m", NULL, HAND, "pump=1", NULL})

/* Set far back, it has the date that it is told. */
SCENARIO(a_clock_that_was_years_ahead_keeps_no_day_for_years, DAY,
         {"0s", NULL, "site clock 2061-04-02T20:00:00, " HAND, "pump=1", NULL},
         {"1h", NULL, HAND, "pump=1", NULL},
         {"2h", NULL, "site clock 2031-04-02T22:00:00, " HAND, "pump=0", NULL},
         {"3h 59m", NULL, HAND, "pump=0", NULL},
         {"4h", NULL, HAND, "pump=1", NULL})

/* Without a clock it is 24 h; once one is set, until its next midnight. */
SCENARIO(the_day_under_way_ends_at_the_clocks_first_midnight, DAY,
         {"0s", NULL, HAND, "pump=1", NULL}, {"1h", NULL, HAND, "pump=1", NULL},
         {"23h", NULL, HAND, "pump=0", NULL},
         {"24h", NULL, HAND, "pump=1", NULL},
         {"24h 1m", NULL, HAND, "pump=1", NULL},
         {"25h", NULL, "site clock 2031-04-02T22:00:00, " HAND, "pump=0", NULL},
         {"27h", NULL, HAND, "pump=1", NULL})
