/* The simulated garden: its weather against worked examples of FAO-56, its
 * books, and that the same seed gives the same days. */
#include "../../garden/garden.h"

#include <math.h>
#include <string.h>
#include <unistd.h>

#include "../harness/harness.h"

#define KEEPER KEEPER_DIR "/keeper.garden.ini"
#define FROM_S UINT32_C(1936137600)

static bool near(double got, double expected, double share)
{
    harness_at("%g, expected %g", got, expected);
    return CHECK(fabs(got - expected) <= share * expected);
}

/* FAO-56, example 8: 20 degrees south, 3 September: 32.2 MJ/m2. */
CASE(extraterrestrial_radiation_is_that_of_the_worked_example)
{
    near(garden_radiation(-20, 246), 32.2, 0.01);
    /* table 2.6, mid-month, 40 degrees north: June 41.9, January 15.0 */
    near(garden_radiation(40, 162), 41.9, 0.01);
    near(garden_radiation(40, 15), 15.0, 0.01);
    harness_at(NULL);
}

/* FAO-56, example 20: Lyon in July, 40.6 MJ/m2, 26.6 and 14.8 C: 5.0 mm. */
CASE(hargreaves_is_that_of_the_worked_example)
{
    near(garden_hargreaves(40.6, 26.6, 14.8), 5.0, 0.01);
    harness_at(NULL);
}

CASE(the_sun_is_up_by_day_and_down_by_night)
{
    CHECK(garden_sun(57.3, 172, 0.5) > 0.8);
    CHECK(garden_sun(57.3, 172, 0.0) == 0);
    CHECK(garden_sun(57.3, 355, 0.5) < 0.2);
}

static struct garden *begin(uint32_t seed)
{
    struct garden *garden = garden_read(KEEPER, seed, stdout);
    if (CHECK(garden != NULL) && garden)
        garden_begin(garden, FROM_S);
    return garden;
}

/* Everything is driven on and off by turns, with leaks and hoses off. */
static void mistreat(struct garden *garden, uint32_t s)
{
    static const char *const names[] = {"lift",       "bed_pump",
                                        "tray_pump",  "trough_pump",
                                        "kale_valve", "leek_valve"};
    for (int i = 0; i < 6; i++)
        garden_drive(garden, garden_output(garden, names[i]),
                     s / (300 + 70 * (uint32_t)i) % 3 == 0);
}

CASE(every_litre_is_stored_used_overflowed_or_leaked)
{
    struct garden *garden = begin(5);
    CHECK(!garden_fault(garden, "leak of header at 1h for 5h 2L/min", 60));
    CHECK(!garden_fault(garden, "hose-off of lift at 8h for 4h", 60));
    CHECK(!garden_fault(garden, "relay-on of bed_pump at 20h for 9h", 60));
    for (uint32_t s = 0; s < 4 * 86400; s++) {
        mistreat(garden, s);
        garden_step(garden);
    }
    struct garden_balance balance = garden_balance(garden);
    double out =
        balance.stored + balance.used + balance.overflowed + balance.leaked;
    harness_at("%.9f in, %.9f out", balance.in, out);
    CHECK(fabs(balance.in - out) < 1e-6);
    CHECK(balance.overflowed > 1 && balance.leaked > 100);
    harness_at(NULL);
    garden_close(garden);
}

/* What every sensor says over an hour, as one number. */
static uint64_t hash_of(uint32_t seed)
{
    struct garden *garden = begin(seed);
    uint64_t hash = 14695981039346656037u;
    for (uint32_t s = 0; s < 3600; s++) {
        int32_t raw;
        garden_step(garden);
        for (int i = 0; i < 12; i++) {
            bool heard = garden_raw(garden, i, &raw);
            hash = (hash ^ (uint64_t)(heard ? raw : -99999)) * 1099511628211u;
        }
    }
    garden_close(garden);
    return hash;
}

CASE(the_same_seed_gives_the_same_and_another_does_not)
{
    CHECK(hash_of(3) == hash_of(3));
    CHECK(hash_of(3) != hash_of(4));
}

CASE(a_dry_intake_counts_dry_seconds_and_moves_nothing)
{
    struct garden *garden = begin(1);
    int lift = garden_output(garden, "lift");
    CHECK(!garden_fault(garden, "blocked of lift at 10s for 1h", 60));
    for (uint32_t s = 0; s < 1000; s++) {
        garden_drive(garden, lift, s >= 100);
        garden_step(garden);
    }
    struct garden_pump truth = garden_pump_truth(garden, 0);
    CHECK_TEXT(truth.name, "lift");
    CHECK_INT(truth.dry_s, 900);
    CHECK_INT(truth.moved_l, 0);
    CHECK_INT(truth.starts, 1);
    garden_close(garden);
}

/* How many of 200 looks at a sensor, a second apart, gave no answer, came torn
 * or read other than the look before. */
struct heard {
    int silent, torn, moved;
};

static struct heard listen(struct garden *garden, const char *name)
{
    struct heard heard = {0};
    int sensor = garden_sensor(garden, name);
    int32_t raw = 0;
    int32_t before = 0;
    for (int s = 0; s < 200; s++) {
        garden_step(garden);
        if (garden_raw(garden, sensor, &raw))
            heard.moved += raw != before;
        else if (garden_came_torn(garden, sensor))
            heard.torn++;
        else
            heard.silent++;
        before = raw;
    }
    return heard;
}

CASE(frames_come_torn_while_they_do_and_whole_again_after)
{
    struct garden *garden = begin(1);
    CHECK(!garden_fault(garden, "torn of tunnel_air at 1s for 5m", 60));
    struct heard heard = listen(garden, "tunnel_air");
    CHECK(heard.torn > 120 && heard.torn < 190 && heard.silent == 0);
    listen(garden, "tunnel_air");
    CHECK_INT(listen(garden, "tunnel_air").torn, 0);
    garden_close(garden);
}

CASE(a_float_bounces)
{
    struct garden *garden = begin(1);
    CHECK_INT(listen(garden, "tray_float").moved, 0);
    CHECK(!garden_fault(garden, "bounce of tray_float at 200s for 5m", 60));
    CHECK(listen(garden, "tray_float").moved > 50);
    garden_close(garden);
}

CASE(a_pump_that_starts_takes_a_sensors_supply_away)
{
    struct garden *garden = begin(1);
    CHECK(!garden_fault(garden, "dips of battery at 1s for 1h", 60));
    CHECK_INT(listen(garden, "battery").silent, 0);
    garden_drive(garden, garden_output(garden, "lift"), true);
    struct heard heard = listen(garden, "battery");
    CHECK(heard.silent >= 3 && heard.silent <= 5);
    garden_close(garden);
}

CASE(an_air_lock_moves_nothing_until_it_is_gone)
{
    struct garden *garden = begin(1);
    CHECK(!garden_fault(garden, "air-lock of lift at 1s for 3m", 60));
    garden_drive(garden, garden_output(garden, "lift"), true);
    listen(garden, "battery");
    struct garden_pump locked = garden_pump_truth(garden, 0);
    listen(garden, "battery");
    struct garden_pump freed = garden_pump_truth(garden, 0);
    CHECK(locked.moved_l < 8 && freed.moved_l > 20);
    CHECK_INT(freed.dry_s, 0);
    garden_close(garden);
}

CASE(wrong_faults_are_told_what_is_wrong)
{
    static const char *const wrong[] = {
        "",
        "leak of header",
        "melt of header at 1d for 2h",
        "leak of nothing at 1d for 2h",
        "leak of header at noon for 2h",
        "leak of header at 1d for 2h 3",
        "stuck of header at 1d for 2h",
    };
    struct garden *garden = begin(1);
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++) {
        harness_at("%s", wrong[i]);
        const char *message = garden_fault(garden, wrong[i], 60);
        CHECK(message && strlen(message) > 20);
    }
    harness_at(NULL);
    garden_close(garden);
}
