/* Whole sites in scenarios: each line a time, what is heard, what must come.
 * Raw values are chosen to be read at a glance: soil counts 0 (wet) to 1000
 * (dry), so 700 is 30 %; echo 1000 us is 171.7 mm. */
#include "../harness/harness.h"
#include "../harness/scenario.h"

#define SOIL                                                                   \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"                \
    "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\n"
#define SITE "[site]\nscan = 1s\n"
#define BED                                                                    \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"
#define ECHO                                                                   \
    "[echo]\nis = sensor\nmeasures = distance\nform = echo\nport = echo:0\n"   \
    "every = 1s\nlost_after = 20s\nplausible = 100..20000\n"                   \
    "[tank]\nis = tank\nsensor = echo\nshape = upright\ndiameter = 1m\n"       \
    "depth = 1000mm\ngap = 100mm\n"
#define RESTING "[pump]\nis = pump\nport = relay:0\n"
#define PUMP RESTING "rest = 0s\n"
#define DRY "from = tank\ndry_below = 20%\ndry_clear = 30%\n"

/* Echo times of the tank above, per cent full. */
#define FULL "echo=583"
#define AT_50 "echo=3494"
#define AT_25 "echo=4950"
#define AT_10 "echo=5824"

SCENARIO(a_dry_bed_is_watered_until_its_stop_mark,
         SITE SOIL "every = 1s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=700", NULL, "pump=0", "site boot power-on"},
         {"1s", "soil=701", NULL, "pump=1", "pump start below-start"},
         {"9s", "soil=400", NULL, "pump=1", ""},
         {"10s", "soil=399", NULL, "pump=0", "pump stop above-stop"},
         {"30s", "soil=700", NULL, "pump=0", ""})

SCENARIO(at_boot_inside_the_band_it_is_off,
         SITE SOIL "every = 1s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=600", NULL, "pump=0", "site boot power-on"},
         {"1m", NULL, NULL, "pump=0", ""})

SCENARIO(a_crossing_must_hold_and_be_seen_twice,
         SITE SOIL "every = 10s\n" PUMP "longest = 1h\n" BED "confirm = 15s\n",
         {"0s", "soil=800", NULL, "pump=0", "site boot power-on"},
         {"15s", NULL, NULL, "pump=1", "pump start below-start"},
         {"20s", "soil=100", NULL, "pump=1", ""},
         {"30s", "soil=500", NULL, "pump=1", ""},
         {"40s", "soil=100", NULL, "pump=1", ""},
         {"54s", NULL, NULL, "pump=1", ""},
         {"55s", NULL, NULL, "pump=0", "pump stop above-stop"})

SCENARIO(one_sample_confirms_nothing,
         SITE SOIL "every = 60s\nlost_after = 5m\n" PUMP "longest = 1h\n" BED
                   "confirm = 15s\n",
         {"0s", "soil=800", NULL, "pump=0", "site boot power-on"},
         {"59s", NULL, NULL, "pump=0", ""},
         {"60s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_sump_is_emptied_when_start_is_above_stop,
         SITE ECHO PUMP "longest = 1h\n"
                        "[drain]\nis = duty\nrun = pump\nkeep = tank\n"
                        "start = 80%\nstop = 20%\n",
         {"0s", AT_50, NULL, "pump=0", "site boot power-on"},
         {"10s", FULL, NULL, "pump=1", "pump start above-start"},
         {"20s", AT_50, NULL, "pump=1", ""},
         {"30s", AT_10, NULL, "pump=0", "pump stop below-stop"})

SCENARIO(nothing_starts_before_boot_wait_and_rest,
         "[site]\nscan = 1s\nboot_wait = 10s\n" SOIL "every = 1s\n" RESTING
         "rest = 20s\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=0", "site boot power-on"},
         {"19s", NULL, NULL, "pump=0", ""},
         {"20s", NULL, NULL, "pump=1", "pump start below-start"},
         {"21s", "soil=100", NULL, "pump=0", "pump stop above-stop"},
         {"22s", "soil=900", NULL, "pump=0", ""},
         {"40s", NULL, NULL, "pump=0", ""},
         {"41s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(boot_wait_longer_than_rest_counts,
         "[site]\nscan = 1s\nboot_wait = 30s\n" SOIL "every = 1s\n" RESTING
         "rest = 20s\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=0", "site boot power-on"},
         {"29s", NULL, NULL, "pump=0", ""},
         {"30s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_lost_bed_stops_its_pump_and_must_start_afresh,
         SITE SOIL "every = 1s\nlost_after = 30s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1",
          "site boot power-on, pump start below-start"},
         {"1s", "soil=-", NULL, "pump=1", ""},
         {"29s", NULL, NULL, "pump=1", ""},
         {"30s", NULL, NULL, "pump=0",
          "soil quality reading-lost, pump stop reading-lost"},
         {"40s", "soil=600", NULL, "pump=0", "soil quality readable"},
         {"50s", "soil=900", NULL, "pump=1", "pump start below-start"})

SCENARIO(lost_after_is_the_same_when_nothing_ever_answered,
         SITE SOIL "every = 1s\nlost_after = 30s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=-", NULL, "pump=0", "site boot power-on"},
         {"29s", NULL, NULL, "pump=0", ""},
         {"30s", NULL, NULL, "pump=0", "soil quality reading-lost"})

SCENARIO(lost_after_is_the_same_when_nonsense_is_answered,
         SITE SOIL "every = 1s\nlost_after = 30s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1",
          "site boot power-on, pump start below-start"},
         {"1s", "soil=4095", NULL, "pump=1", ""},
         {"29s", NULL, NULL, "pump=1", ""},
         {"30s", NULL, NULL, "pump=0",
          "soil quality reading-lost, pump stop reading-lost"})

SCENARIO(a_sample_in_the_pass_that_would_lose_it_is_in_time,
         SITE SOIL "every = 1s\nlost_after = 30s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"1s", "soil=-", NULL, "pump=1", ""},
         {"30s", "soil=900", NULL, "pump=1", ""})

SCENARIO(a_low_source_stops_the_pump_and_blocks_it_until_it_clears,
         SITE SOIL "every = 1s\n" ECHO RESTING DRY
                   "rest = 10s\nlongest = 1h\n" BED,
         {"0s", "soil=900 " AT_50, NULL, "pump=0", "site boot power-on"},
         {"10s", NULL, NULL, "pump=1", "pump start below-start"},
         {"20s", AT_10, NULL, "pump=0", "pump stop source-low"},
         {"40s", AT_25, NULL, "pump=0", ""},
         {"60s", AT_50, NULL, "pump=1",
          "pump clear source-low, pump start below-start"})

SCENARIO(a_wish_against_a_guard_is_refused_once,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=500 " AT_25, NULL, "pump=0", "site boot power-on"},
         {"10s", "soil=900", NULL, "pump=0", "pump block source-not-clear"},
         {"20s", AT_10, NULL, "pump=0", ""},
         {"30s", AT_50, NULL, "pump=1",
          "pump clear source-not-clear, pump start below-start"})

SCENARIO(a_guard_says_no_inside_its_band_at_boot,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=900 " AT_25, NULL, "pump=0",
          "site boot power-on, pump block source-not-clear"},
         {"1m", NULL, NULL, "pump=0", ""})

SCENARIO(a_lost_source_stops_the_pump,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"10s", "echo=0", NULL, "pump=1", ""},
         {"29s", NULL, NULL, "pump=0",
          "echo quality reading-lost, pump stop source-lost"},
         {"35s", AT_25, NULL, "pump=1",
          "echo quality readable, pump clear source-lost, "
          "pump start below-start"})

#define FILL                                                                   \
    "[fill]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"

SCENARIO(a_full_destination_stops_the_pump_until_it_has_room,
         SITE SOIL "every = 1s\n" ECHO PUMP
                   "into = tank\nfull_at = 90%\nlongest = 1h\n" FILL,
         {"0s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"10s", FULL, NULL, "pump=0", "pump stop destination-full"},
         {"20s", "echo=1200", NULL, "pump=0", ""},
         {"30s", AT_50, NULL, "pump=1",
          "pump clear destination-full, pump start below-start"})

SCENARIO(a_lost_destination_stops_the_pump,
         SITE SOIL "every = 1s\n" ECHO PUMP "into = tank\nlongest = 1h\n" FILL,
         {"0s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"1s", "echo=-", NULL, "pump=1", ""},
         {"20s", NULL, NULL, "pump=0",
          "echo quality reading-lost, pump stop destination-lost"},
         {"21s", AT_50, NULL, "pump=1",
          "echo quality readable, pump clear destination-lost, "
          "pump start below-start"})

SCENARIO(a_weak_supply_stops_the_pump_until_it_is_back,
         SITE SOIL "every = 1s\n"
                   "[battery]\nis = sensor\nform = volts\nport = adc:1\n"
                   "every = 1s\n" PUMP
                   "needs = battery above 11.9V back 12.4V\nlongest = 1h\n" BED,
         {"0s", "soil=900 battery=12600", NULL, "pump=1", NULL},
         {"1s", "battery=11900", NULL, "pump=1", ""},
         {"2s", "battery=11899", NULL, "pump=0", "pump stop supply-low"},
         {"3s", "battery=12400", NULL, "pump=0", ""},
         {"4s", "battery=12401", NULL, "pump=1",
          "pump clear supply-low, pump start below-start"})

SCENARIO(no_pump_runs_in_frost,
         SITE SOIL "every = 1s\n"
                   "[outdoors]\nis = sensor\nform = temp9\nport = wire:0\n"
                   "every = 1s\nlost_after = 20s\n" PUMP
                   "frost = outdoors above 1.5C back 3C\nlongest = 1h\n" BED,
         {"0s", "soil=900 outdoors=160", NULL, "pump=1", NULL},
         {"1s", "outdoors=24", NULL, "pump=1", ""},
         {"2s", "outdoors=23", NULL, "pump=0", "pump stop frost-cold"},
         {"3s", "outdoors=48",
          "?pump outdoors 3.00 C is not yet back above 3.00 C", "pump=0", ""},
         {"4s", "outdoors=49", NULL, "pump=1",
          "pump clear frost-cold, pump start below-start"},
         {"25s", "outdoors=-", NULL, "pump=1", ""},
         {"45s", NULL, NULL, "pump=0", NULL})

SCENARIO(each_guard_tells_its_own_numbers,
         SITE SOIL "every = 1s\n"
                   "[battery]\nis = sensor\nform = volts\nport = adc:1\n"
                   "every = 1s\n" ECHO PUMP DRY
                   "needs = battery above 11.9V back 12.4V\nlongest = 1h\n" BED,
         {"0s", "soil=900 battery=12600 " AT_50, NULL, "pump=1", NULL},
         {"1s", "battery=11500", NULL, "pump=0", "pump stop supply-low"},
         {"2s", NULL,
          "?pump battery 11.500 V is below 11.900 V, until above "
          "12.400 V",
          "pump=0", ""},
         {"3s", "battery=12000", NULL, "pump=0", ""},
         {"4s", NULL, "?pump battery 12.000 V is not yet back above 12.400 V",
          "pump=0", ""},
         {"5s", "battery=13000", NULL, "pump=1",
          "pump clear supply-low, pump start below-start"})

SCENARIO(the_first_guard_that_says_no_is_told,
         SITE SOIL "every = 1s\n"
                   "[battery]\nis = sensor\nform = volts\nport = adc:1\n"
                   "every = 1s\n" ECHO PUMP DRY
                   "needs = battery above 11.9V back 12.4V\nlongest = 1h\n" BED,
         {"0s", "soil=500 battery=10000 " AT_10, NULL, "pump=0", NULL},
         {"1s", "soil=900", NULL, "pump=0", "pump block source-low"},
         {"2s", AT_50,
          "?pump battery 10.000 V is below 11.900 V, until above "
          "12.400 V",
          "pump=0", "pump clear source-low, pump block supply-low"},
         {"3s", "battery=13000", NULL, "pump=1",
          "pump clear supply-low, pump start below-start"})

SCENARIO(after_a_guard_the_duty_goes_on_inside_its_band,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"10s", "soil=500 " AT_10, NULL, "pump=0", "pump stop source-low"},
         {"20s", AT_50, NULL, "pump=1",
          "pump clear source-low, pump start under-way"})

SCENARIO(the_longest_run_trips_retries_and_locks,
         SITE SOIL "every = 1s\n" PUMP "longest = 10s\nretry = 20s x1\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"9s", NULL, NULL, "pump=1", ""},
         {"10s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"},
         {"29s", NULL, NULL, "pump=0", ""},
         {"30s", NULL, NULL, "pump=1", "pump start below-start"},
         {"40s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered, bed lock duty-locked"},
         {"50d", NULL, NULL, "pump=0", ""},
         {"50d 1s", NULL, "pump auto", "pump=0", "pump mode auto"},
         {"50d 2s", NULL, "pump clear", "pump=1",
          "pump clear cleared, bed clear cleared, pump start below-start"})

SCENARIO(a_run_that_does_its_job_sets_the_tries_back,
         SITE SOIL "every = 1s\n" PUMP "longest = 10s\nretry = 20s x1\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"30s", NULL, NULL, "pump=1", NULL},
         {"35s", "soil=300", NULL, "pump=0", "pump stop above-stop"},
         {"40s", "soil=900", NULL, "pump=1", "pump start below-start"},
         {"50s", NULL, NULL, "pump=0",
          "pump stop longest, bed trip unanswered"})

SCENARIO(a_rest_that_is_over_stays_over_after_fifty_idle_days,
         SITE SOIL "every = 1s\n" RESTING "rest = 90s\nlongest = 1h\n" BED,
         {"0s", "soil=500", NULL, "pump=0", "site boot power-on"},
         {"49d 17h 2m 50s", "soil=900", NULL, "pump=1",
          "pump start below-start"},
         {"49d 17h 3m", "soil=300", NULL, "pump=0", "pump stop above-stop"},
         {"99d 10h 6m", "soil=900", NULL, "pump=1", "pump start below-start"})

SCENARIO(off_and_auto_are_told_and_auto_looks_afresh,
         SITE SOIL "every = 1s\n" PUMP "longest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"5s", "soil=500", "pump off", "pump=0",
          "pump mode off, pump stop off"},
         {"6s", NULL, "pump auto", "pump=0", "pump mode auto"},
         {"7s", "soil=900", NULL, "pump=1", "pump start below-start"})

SCENARIO(a_hand_run_ends_by_itself_where_it_came_from,
         SITE SOIL "every = 1s\n" PUMP "longest = 1h\nhand_limit = 1m\n" BED,
         {"0s", "soil=500", "pump off", "pump=0", NULL},
         {"1s", NULL, "pump hand 30s", "pump=1",
          "pump mode hand, pump start hand"},
         {"30s", NULL, NULL, "pump=1", ""},
         {"31s", NULL, NULL, "pump=0", "pump mode hand-over, pump stop off"},
         {"60s", "soil=900", NULL, "pump=0", ""})

SCENARIO(a_hand_run_is_refused_by_a_low_source_and_does_not_lie_in_wait,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=500 " AT_10, NULL, "pump=0", "site boot power-on"},
         {"1s", NULL, "pump hand 5m", "pump=0",
          "pump mode hand, pump block source-low, pump mode auto"},
         {"9s", AT_50, NULL, "pump=0", "pump clear source-low"})

SCENARIO(a_guard_stops_a_hand_run,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY "longest = 1h\n" BED,
         {"0s", "soil=500 " AT_50, NULL, "pump=0", NULL},
         {"1s", NULL, "pump hand 5m", "pump=1",
          "pump mode hand, pump start hand"},
         {"2s", AT_10, NULL, "pump=0", "pump stop source-low, pump mode auto"},
         {"9s", AT_50, NULL, "pump=0", "pump clear source-low"})

SCENARIO(hold_stops_everything_until_go,
         SITE SOIL "every = 1s\n" RESTING "longest = 1h\nrest = 5s\n" BED,
         {"0s", "soil=900", NULL, "pump=0", NULL},
         {"5s", NULL, NULL, "pump=1", NULL},
         {"6s", NULL, "site hold", "pump=0", "site mode hold, pump stop hold"},
         {"60s", NULL, NULL, "pump=0", ""},
         {"61s", NULL, "site go", "pump=1",
          "site mode go, pump start below-start"})

SCENARIO(a_shortest_run_goes_on_but_guards_and_people_do_not_wait,
         SITE SOIL "every = 1s\n" ECHO PUMP DRY
                   "shortest = 10s\nlongest = 1h\n" BED,
         {"0s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"1s", "soil=100", NULL, "pump=1", ""},
         {"9s", NULL, NULL, "pump=1", ""},
         {"10s", NULL, NULL, "pump=0", "pump stop above-stop"},
         {"20s", "soil=900", NULL, "pump=1", NULL},
         {"21s", "soil=100", NULL, "pump=1", ""},
         {"22s", AT_10, NULL, "pump=0", "pump stop source-low"},
         {"30s", "soil=900 " AT_50, NULL, "pump=1", NULL},
         {"31s", "soil=100", NULL, "pump=1", ""},
         {"32s", NULL, "pump off", "pump=0", "pump mode off, pump stop off"})

SCENARIO(a_shortest_run_ends_when_its_reading_is_lost,
         SITE SOIL "every = 1s\nlost_after = 5s\n" PUMP
                   "shortest = 1m\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"1s", "soil=100", NULL, "pump=1", ""},
         {"2s", "soil=-", NULL, "pump=1", ""},
         {"6s", NULL, NULL, "pump=0",
          "soil quality reading-lost, pump stop reading-lost"})

SCENARIO(a_days_time_is_a_limit_until_the_next_day,
         SITE SOIL "every = 1s\n" PUMP "per_day = 20s\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"15s", "soil=100", NULL, "pump=0", NULL},
         {"1h", "soil=900", NULL, "pump=1", NULL},
         {"1h 5s", NULL, NULL, "pump=0", "pump stop day-time"},
         {"23h 59m 59s", NULL, NULL, "pump=0", "bed alert kept-off"},
         {"24h", NULL, NULL, "pump=1",
          "pump clear day-time, pump start below-start"},
         {"24h 20s", NULL, NULL, "pump=0",
          "bed over kept-off, pump stop day-time"})

SCENARIO(a_run_over_midnight_counts_from_midnight,
         SITE SOIL "every = 1s\n" PUMP "per_day = 20s\nlongest = 1h\n" BED,
         {"0s", "soil=500", NULL, "pump=0", NULL},
         {"23h 59m 50s", "soil=900", NULL, "pump=1", NULL},
         {"24h 19s", NULL, NULL, "pump=1", ""},
         {"24h 20s", NULL, NULL, "pump=0", "pump stop day-time"})

SCENARIO(a_days_volume_is_a_limit,
         SITE SOIL "every = 1s\n" PUMP
                   "per_day = 3L\nflow = 6L/min\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"29s", NULL, NULL, "pump=1", ""},
         {"30s", NULL, NULL, "pump=0", "pump stop day-volume"})

SCENARIO(a_days_starts_are_a_limit_that_lets_the_last_run_end,
         SITE SOIL "every = 1s\n" PUMP "per_day = 2starts\nlongest = 1h\n" BED,
         {"0s", "soil=900", NULL, "pump=1", NULL},
         {"1s", "soil=100", NULL, "pump=0", NULL},
         {"2s", "soil=900", NULL, "pump=1", NULL},
         {"1m", NULL, NULL, "pump=1", ""},
         {"2m", "soil=100", NULL, "pump=0", "pump stop above-stop"},
         {"3m", "soil=900", NULL, "pump=0", "pump block day-starts"},
         {"24h", NULL, NULL, "pump=1",
          "bed alert kept-off, pump clear day-starts, pump start below-start"})

SCENARIO(pumps_that_may_run_at_once_start_in_file_order,
         "[site]\nscan = 1s\nat_once = 1\n" SOIL "every = 1s\n" PUMP
         "longest = 10s\n[second]\nis = pump\nrest = 0s\n"
         "port = relay:1\nactive = low\nlongest = 1h\n" BED
         "[two]\nis = duty\nrun = second\nkeep = soil\nstart = 30%\n"
         "stop = 60%\n",
         {"0s", "soil=900", NULL, "pump=1 second=0", NULL},
         {"10s", NULL, NULL, "pump=0 second=1",
          "pump stop longest, bed trip unanswered, bed lock duty-locked, "
          "second start below-start"})
