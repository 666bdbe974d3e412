/* Proof of flow in sites: a tank 1000 mm deep under a ranger at 1100 mm, so
 * that far = 900 is 20 %. */
#include "../harness/harness.h"
#include "../harness/scenario.h"
#include "cuplatch/proof.h"

#define SITE                                                                   \
    "[site]\nscan = 1s\n"                                                      \
    "[far]\nis = sensor\nform = range-word\nport = i2c:1\nevery = 1s\n"        \
    "lost_after = 5s\n"                                                        \
    "[tank]\nis = tank\nsensor = far\nshape = box\nlength = 1m\nwidth = 1m\n"  \
    "depth = 1000mm\ngap = 100mm\n"
#define PUMP                                                                   \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\ninto = tank\nlongest = "    \
    "1h\n"                                                                     \
    "retry = 20s x1\n"
#define FILL                                                                   \
    "[fill]\nis = duty\nrun = pump\nkeep = tank\nstart = 30%\nstop = 90%\n"
#define RISES "proof = tank rises 6mm in 10s\n"

SCENARIO(a_pump_that_moves_nothing_trips_retries_and_locks,
         SITE PUMP RISES FILL, {"0s", "far=900", NULL, "pump=1", NULL},
         {"9s", NULL, NULL, "pump=1", ""},
         {"10s", NULL, NULL, "pump=0", "pump stop no-rise, pump trip no-rise"},
         {"29s", NULL, NULL, "pump=0", ""},
         {"30s", NULL, NULL, "pump=1", "pump start below-start"},
         {"40s", NULL, NULL, "pump=0",
          "pump stop no-rise, pump trip no-rise, pump lock locked"},
         {"50d", NULL, NULL, "pump=0", ""},
         {"50d 1s", NULL, "pump clear", "pump=1",
          "pump clear cleared, pump start below-start"})

SCENARIO(a_rise_of_just_enough_is_enough_and_sets_the_tries_back,
         SITE PUMP RISES FILL, {"0s", "far=900", NULL, "pump=1", NULL},
         {"10s", NULL, NULL, "pump=0", NULL},
         {"30s", NULL, NULL, "pump=1", NULL},
         {"39s", "far=894", NULL, "pump=1", ""},
         {"40s", NULL, NULL, "pump=1", ""},
         {"50s", NULL, NULL, "pump=0", "pump stop no-rise, pump trip no-rise"},
         {"70s", NULL, NULL, "pump=1", "pump start below-start"})

SCENARIO(a_tenth_too_little_is_too_little,
         SITE PUMP "proof = tank rises 6.1mm in 10s\n" FILL,
         {"0s", "far=900", NULL, "pump=1", NULL},
         {"5s", "far=894", NULL, "pump=1", ""},
         {"10s", NULL, NULL, "pump=0", "pump stop no-rise, pump trip no-rise"})

SCENARIO(runs_shorter_than_the_window_add_up, SITE PUMP RISES FILL,
         {"0s", "far=900", NULL, "pump=1", NULL},
         {"6s", "far=897", "pump off", "pump=0", NULL},
         {"60s", "far=910", "pump auto", "pump=1", NULL},
         {"63s", "far=909", NULL, "pump=1", ""},
         {"64s", NULL, NULL, "pump=0", "pump stop no-rise, pump trip no-rise"})

SCENARIO(a_proof_that_is_lost_fails,
         SITE PUMP
         "proof = tank rises 6mm in 60s\n"
         "[soil]\nis = sensor\nform = range-word\nport = i2c:2\n"
         "every = 1s\n"
         "[fill]\nis = duty\nrun = second\nkeep = soil\n"
         "start = 500mm\nstop = 300mm\n"
         "[second]\nis = pump\nrest = 0s\nport = relay:1\nlongest = 1h\n"
         "retry = 20s x1\nproof = tank falls 6mm in 60s\n",
         {"0s", "far=900 soil=600", NULL, "pump=0 second=1", NULL},
         {"1s", "far=-", NULL, "pump=0 second=1", ""},
         {"5s", NULL, NULL, "pump=0 second=0",
          "far quality reading-lost, second stop proof-lost, "
          "second trip proof-lost"})

SCENARIO(a_window_that_another_pump_disturbs_proves_nothing_three_times,
         SITE PUMP RISES FILL "[other]\nis = pump\nrest = 0s\nport = "
                              "relay:1\nfrom = tank\ndry_below = 5%\n"
                              "dry_clear = 6%\nlongest = 1h\nhand_limit = 1h\n",
         {"0s", "far=900", "other hand 50s", "pump=1 other=1", NULL},
         {"29s", NULL, NULL, "pump=1 other=1", ""},
         {"30s", NULL, NULL, "pump=0 other=1",
          "pump stop proof-unsure, pump trip proof-unsure"},
         {"50s", NULL, NULL, "pump=1 other=0", NULL})

SCENARIO(a_meter_must_run,
         SITE PUMP "proof = meter above 2L/min in 10s\n" FILL
                   "[meter]\nis = sensor\nform = pulses\nper_litre = 600\n"
                   "port = pin:1\nevery = 1s\n",
         {"0s", "far=900 meter=0", NULL, "pump=0", NULL},
         {"1s", "meter=20", NULL, "pump=1", "pump start below-start"},
         {"10s", NULL, NULL, "pump=1", ""},
         {"11s", NULL, NULL, "pump=0", "pump stop no-flow, pump trip no-flow"})

/* Filled by somebody's hose, not by the pump: the duty is done, and yet the
 * second failure locks it. */
SCENARIO(a_duty_that_is_done_does_not_forgive_a_pump_with_a_proof,
         SITE PUMP "proof = meter above 2L/min in 10s\n" FILL
                   "[meter]\nis = sensor\nform = pulses\nper_litre = 600\n"
                   "port = pin:1\nevery = 1s\n",
         {"0s", "far=900 meter=0", NULL, "pump=0", NULL},
         {"11s", NULL, NULL, "pump=0", NULL},
         {"31s", NULL, NULL, "pump=1", "pump start below-start"},
         {"32s", "far=150", NULL, "pump=0", "pump stop above-stop"},
         {"40s", "far=900", NULL, "pump=1", "pump start below-start"},
         {"49s", NULL, NULL, "pump=0",
          "pump stop no-flow, pump trip no-flow, pump lock locked"})

CASE(wild_readings_at_both_ends_do_not_overflow)
{
    static const int32_t wild[] = {INT32_MIN, -1, 0, 1, INT32_MAX};
    static const struct cup_proof rises = {.change = 60, .within_ms = 1000};
    static const struct cup_proof falls = {
        .change = 60, .within_ms = 1000, .kind = CUP_PROOF_FALLS};
    for (int a = 0; a < 5; a++)
        for (int b = 0; b < 5; b++)
            for (int k = 0; k < 2; k++) {
                const struct cup_proof *proof = k ? &falls : &rises;
                struct cup_proof_state state = {0};
                struct cup_cause cause;
                int64_t change = (int64_t)wild[b] - wild[a];
                cup_proof_start(&state, 0, wild[a]);
                cup_proof_stop(proof, &state, 500);
                CHECK_INT(cup_proof_settle(proof, &state, 500, wild[b], 0), 0);
                cup_proof_start(&state, 700, wild[b]);
                harness_at("%d to %d", wild[a], wild[b]);
                CHECK_INT(cup_proof_left(proof, &state, 700), 500);
                CHECK_INT(cup_proof_judge(proof, &state, 1200, wild[b], &cause),
                          (k ? -change : change) >= 60 ? CUP_PROVED
                                                       : CUP_FAILED);
            }
}

/* Doses that are shorter than what smoothing keeps back: each shows only after
 * it is over, and yet they add up. */
SCENARIO(a_healthy_pump_of_short_doses_never_trips,
         "[site]\nscan = 1s\n"
         "[far]\nis = sensor\nform = range-word\nport = i2c:1\nevery = 1s\n"
         "smooth = median 9\nlost_after = 20s\n"
         "[tank]\nis = tank\nsensor = far\nshape = box\nlength = 1m\n"
         "width = 1m\ndepth = 1000mm\ngap = 100mm\n" PUMP
         "hand_limit = 1h\nproof = tank rises 6mm in 12s\n",
         {"0s", "far=900", NULL, "pump=0", NULL},
         {"1m", NULL, "pump hand 3s", "pump=1", NULL},
         {"1m 1s", "far=898", NULL, "pump=1", NULL},
         {"1m 20s", NULL, "pump hand 3s", "pump=1", NULL},
         {"1m 21s", "far=896", NULL, "pump=1", NULL},
         {"1m 40s", NULL, "pump hand 3s", "pump=1", NULL},
         {"1m 41s", "far=893", NULL, "pump=1", NULL},
         {"2m", NULL, "pump hand 4s", "pump=1", NULL},
         {"2m 3s", NULL, NULL, "pump=1", ""},
         {"2m 10s", NULL, NULL, "pump=0", NULL})

/* It rises though another pump draws from it: that proves, however often. */
SCENARIO(a_rise_in_spite_of_a_draw_proves,
         SITE PUMP RISES FILL "[other]\nis = pump\nrest = 0s\nport = "
                              "relay:1\nfrom = tank\ndry_below = 5%\n"
                              "dry_clear = 6%\nlongest = 1h\nhand_limit = 1h\n",
         {"0s", "far=900", "other hand 50s", "pump=1 other=1", NULL},
         {"9s", "far=890", NULL, "pump=1 other=1", ""},
         {"19s", "far=880", NULL, "pump=1 other=1", ""},
         {"29s", "far=870", NULL, "pump=1 other=1", ""},
         {"31s", NULL, NULL, "pump=1 other=1", ""},
         {"50s", NULL, NULL, "pump=1 other=0", NULL})

/* Two pumps that one meter should prove: what it says while both run is
 * nobody's. */
SCENARIO(pumps_at_one_meter_do_not_prove_each_other,
         "[site]\nscan = 1s\n"
         "[meter]\nis = sensor\nform = counts\nmeasures = flow\nport = adc:0\n"
         "points = 0:0L/min 1000:10L/min\nevery = 1s\n"
         "[dead]\nis = pump\nport = relay:0\nlongest = 9m\nrest = 5s\n"
         "proof = meter above 2L/min in 10s\n"
         "[well]\nis = pump\nport = relay:1\nlongest = 9m\nrest = 5s\n"
         "proof = meter above 2L/min in 10s\n",
         {"0s", "meter=500", NULL, "dead=0 well=0", NULL},
         {"10s", NULL, "well hand 5m", "dead=0 well=1", NULL},
         {"25s", NULL, "dead hand 5m", "dead=1 well=1", NULL},
         {"40s", NULL, NULL, "dead=1 well=1", ""},
         {"1m", NULL, NULL, "dead=0 well=0", NULL})
