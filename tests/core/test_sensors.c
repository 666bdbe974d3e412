/* Sensors in a site: checks, steady, supplies, switches, meters. Distances of
 * a laser ranger are in mm, so that they can be read at a glance. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "../harness/harness.h"
#include "../harness/scenario.h"

#define SITE "[site]\nscan = 1s\n"
#define LASER                                                                  \
    "[laser]\nis = sensor\nform = range-word\nport = i2c:1\nevery = 1s\n"
#define PUMP                                                                   \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\n"             \
    "[keep]\nis = duty\nrun = pump\nkeep = laser\nstart = 500mm\n"             \
    "stop = 300mm\n"

SCENARIO(a_first_sample_needs_a_second_that_agrees_when_jumps_are_judged,
         SITE LASER "jump = 10mm/s\nlost_after = 20s\n" PUMP,
         {"0s", "laser=600", NULL, "pump=0", "site boot power-on"},
         {"1s", "laser=700", NULL, "pump=0", ""},
         {"2s", "laser=705", NULL, "pump=1", "pump start above-start"})

SCENARIO(a_jump_is_rejected_until_the_time_allows_it,
         SITE LASER "jump = 10mm/s\nlost_after = 60s\n" PUMP,
         {"0s", "laser=600", NULL, "pump=0", NULL},
         {"1s", NULL, NULL, "pump=1", NULL},
         {"2s", "laser=250", NULL, "pump=1", ""},
         {"35s", NULL, NULL, "pump=1", ""},
         {"36s", NULL, NULL, "pump=0", "pump stop below-stop"})

SCENARIO(a_value_that_never_changes_is_stuck_and_then_lost,
         SITE LASER "stuck = 10s\nlost_after = 20s\n" PUMP,
         {"0s", "laser=600", NULL, "pump=1", NULL},
         {"9s", "laser=601", NULL, "pump=1", ""},
         {"38s", NULL, NULL, "pump=0",
          "laser quality reading-lost, pump stop reading-lost"},
         {"39s", "laser=602", NULL, "pump=1",
          "laser quality readable, pump start above-start"})

SCENARIO(stuck_lasts_over_fifty_days,
         SITE LASER "stuck = 10s\nlost_after = 20s\n" PUMP,
         {"0s", "laser=600", NULL, "pump=1", NULL},
         {"50d", NULL, NULL, "pump=0", NULL},
         {"50d 1s", "laser=601", NULL, "pump=1", NULL})

SCENARIO(steady_delays_a_start_but_never_a_stop,
         SITE LASER "steady = 20mm 5s\n" PUMP,
         {"0s", "laser=400", NULL, "pump=0", "site boot power-on"},
         {"1s", "laser=600", NULL, "pump=0", ""},
         {"5s", NULL, NULL, "pump=0", ""},
         {"6s", NULL, NULL, "pump=1", "pump start above-start"},
         {"7s", "laser=250", NULL, "pump=0", "pump stop below-stop"})

SCENARIO(a_value_that_leaves_the_band_starts_the_time_again,
         SITE LASER "steady = 20mm 5s\n" PUMP,
         {"0s", "laser=400", NULL, "pump=0", NULL},
         {"1s", "laser=600", NULL, "pump=0", ""},
         {"4s", "laser=700", NULL, "pump=0", ""},
         {"8s", NULL, NULL, "pump=0", ""},
         {"9s", NULL, NULL, "pump=1", "pump start above-start"})

#define BARREL                                                                 \
    "[tank]\nis = tank\nsensor = laser\nshape = upright\n"                     \
    "diameter = 1m\ndepth = 1000mm\ngap = 200mm\nblanking = 100mm\n"           \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\n"
#define SUMP                                                                   \
    "[tank]\nis = tank\nsensor = laser\nshape = upright\ngains = 9L/min\n"     \
    "diameter = 1m\ndepth = 1000mm\ngap = 200mm\nblanking = 100mm\n"           \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\n"
#define FILL                                                                   \
    "into = tank\n[fill]\nis = duty\nrun = pump\nkeep = tank\n"                \
    "start = 30%\nstop = 90%\n"

/* Where a level is taken by its number; test_leaps.c has what is believed of
 * it. */
SCENARIO(near_the_brim_two_samples_nearer_than_blanking_are_a_full_tank,
         SITE LASER BARREL FILL, {"0s", "laser=1100", NULL, "pump=1", NULL},
         {"1s", "laser=299", NULL, "pump=0", "pump stop above-stop"},
         {"2s", "laser=99", NULL, "pump=0", ""},
         {"3s", NULL,
          "?pump tank 100.00 % is above full_at 97.00 %, until "
          "below 96.00 %",
          "pump=0", ""},
         {"1m", NULL, NULL, "pump=0", ""},
         {"61s", "laser=1100", NULL, "pump=1", "pump start below-start"})

/* A sump that runs over is pumped all the same. */
SCENARIO(a_source_that_is_over_full_is_still_a_source,
         SITE LASER SUMP "from = tank\ndry_below = 10%\ndry_clear = 20%\n"
                         "[empty]\nis = duty\nrun = pump\nkeep = tank\n"
                         "start = 80%\nstop = 30%\n",
         {"0s", "laser=250", NULL, "pump=1", NULL},
         {"10s", "laser=60", NULL, "pump=1", ""},
         {"10m", NULL, NULL, "pump=1", ""})

SCENARIO(one_near_echo_does_not_fill_an_empty_source,
         SITE LASER BARREL "from = tank\ndry_below = 10%\ndry_clear = 20%\n",
         {"0s", "laser=1190", NULL, "pump=0", NULL},
         {"2s", "laser=60", NULL, "pump=0", ""},
         {"3s", "laser=1190", "pump hand 5m", "pump=0",
          "pump mode hand, pump block source-low, pump mode auto"})

/* Smoothed, it takes two samples in a row to clear a source that was low. */
SCENARIO(no_single_sample_clears_a_source_that_is_smoothed,
         SITE "[laser]\nis = sensor\nmeasures = distance\nform = range-word\n"
              "port = bus:0\nevery = 1s\nlost_after = 20s\n"
              "smooth = mean 3\n" SUMP
              "from = tank\ndry_below = 10%\ndry_clear = 20%\n"
              "[empty]\nis = duty\nrun = pump\nkeep = tank\n"
              "start = 5%\nstop = 1%\n",
         {"0s", "laser=200", NULL, "pump=0", NULL},
         {"1s", "laser=1170", NULL, "pump=0", ""},
         {"5s", "laser=200", NULL, "pump=0", ""},
         {"6s", "laser=1170", NULL, "pump=0", ""},
         {"9s", "laser=200", NULL, "pump=0", ""},
         {"10s", NULL, NULL, "pump=1",
          "pump clear source-unknown, pump start above-start"})

/* A probe powered only to be read, heard between passes. */
SCENARIO(a_powered_probe_is_heard_after_its_warm_up,
         SITE "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"
              "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\n"
              "every = 10s\nsupply = out:1\nwarm_up = 2500ms\n"
              "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\n"
              "[keep]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"
              "stop = 60%\n",
         {"0s", "soil=900", NULL, "pump=0", "site boot power-on"},
         {"2s", NULL, NULL, "pump=0", ""},
         {"3s", NULL, NULL, "pump=1", "pump start below-start"},
         {"4s", "soil=100", NULL, "pump=1", ""},
         {"12s", NULL, NULL, "pump=1", ""},
         {"13s", NULL, NULL, "pump=0", "pump stop above-stop"})

/* Asking, supplies and channels, looked at want by want. */

#define SHARED(name, out)                                                      \
    "[" name "]\nis = sensor\nmeasures = moisture\nform = counts\n"            \
    "port = adc:0\ndry = 1000\nwet = 0\nplausible = 0..1100\nevery = 10s\n"    \
    "supply = out:" out "\nwarm_up = 100ms\n"

struct asked {
    struct cup_file *file;
    struct cup_site site;
    uint32_t state[300];
};

static void open_site(struct asked *asked, const char *text)
{
    FILE *in = fmemopen((void *)text, strlen(text), "r");
    asked->file = cup_file_read_from(in, "site");
    fclose(in);
    cup_file_problems(asked->file, stdout);
    CHECK_INT(cup_site_bind(&asked->site, cup_file_plan(asked->file),
                            asked->state, sizeof(asked->state)),
              CUP_OK);
}

/* What is wanted now: "on 0, sample 0, off 0". */
static const char *wants(struct asked *asked, uint32_t now_ms)
{
    static const char *const kinds[] = {"sample", "request", "off"};
    static char text[200];
    size_t used = 0;
    struct cup_want want;
    *text = '\0';
    while (cup_site_ask(&asked->site, now_ms, &want)) {
        used += (size_t)snprintf(text + used, sizeof(text) - used, "%s%s %d",
                                 used ? ", " : "",
                                 want.on ? "on" : kinds[want.kind], want.index);
        if (want.kind == CUP_WANT_SAMPLE)
            cup_site_hear(&asked->site, want.index, now_ms,
                          (struct cup_sample){.raw = 500});
    }
    return text;
}

CASE(sensors_on_one_channel_are_powered_one_at_a_time)
{
    static struct asked asked;
    open_site(&asked, SITE SHARED("one", "1") SHARED("two", "2"));
    CHECK_TEXT(wants(&asked, 0), "on 0");
    CHECK_INT(cup_site_warming(&asked.site, 0), 100);
    CHECK_TEXT(wants(&asked, 99), "");
    CHECK_INT(cup_site_reading(&asked.site, 1).reason, CUP_REASON_NO_READING);
    CHECK_TEXT(wants(&asked, 100), "sample 0, off 0, on 1");
    CHECK_TEXT(wants(&asked, 200), "sample 1, off 1");
    CHECK_INT(cup_site_warming(&asked.site, 200), UINT32_MAX);
    CHECK_TEXT(wants(&asked, 9999), "");
    CHECK_TEXT(wants(&asked, 10000), "on 0");
    CHECK_TEXT(wants(&asked, 10150), "sample 0, off 0, on 1");
    CHECK_INT(cup_site_reading(&asked.site, 1).quality, CUP_QUALITY_GOOD);
    cup_file_free(asked.file);
}

CASE(a_sensor_that_waits_for_its_turn_says_so)
{
    static struct asked asked;
    open_site(&asked, SITE SHARED("one", "1") SHARED("two", "2"));
    wants(&asked, 0);
    wants(&asked, 100);
    wants(&asked, 200);
    CHECK_TEXT(wants(&asked, 10110), "on 0");
    CHECK_INT(cup_site_reading(&asked.site, 1).reason, CUP_REASON_TURN);
    CHECK_INT(cup_site_reading(&asked.site, 1).quality, CUP_QUALITY_GOOD);
    wants(&asked, 10210);
    wants(&asked, 10310);
    CHECK_INT(cup_site_reading(&asked.site, 1).reason, CUP_REASON_NONE);
    cup_file_free(asked.file);
}

CASE(a_pass_in_the_middle_of_asking_forgets_no_sensor)
{
    static struct asked asked;
    struct cup_want want;
    open_site(&asked, SITE "[one]\nis = sensor\nform = volts\nport = adc:0\n"
                           "every = 1s\n"
                           "[two]\nis = sensor\nform = volts\nport = adc:1\n"
                           "every = 10s\n");
    CHECK(cup_site_ask(&asked.site, 0, &want));
    CHECK_INT(want.index, 0);
    cup_site_hear(&asked.site, 0, 0, (struct cup_sample){.raw = 500});
    cup_site_decide(&asked.site, 0, NULL);
    CHECK_TEXT(wants(&asked, 0), "sample 1");
    CHECK_TEXT(wants(&asked, 1000), "sample 0");
    cup_file_free(asked.file);
}

CASE(a_shared_supply_goes_off_with_its_last_user)
{
    static struct asked asked;
    open_site(&asked, SITE
              "[one]\nis = sensor\nform = volts\nport = adc:0\nevery = 10s\n"
              "supply = out:1\nwarm_up = 100ms\n"
              "[two]\nis = sensor\nform = volts\nport = adc:1\nevery = 10s\n"
              "supply = out:1\nwarm_up = 300ms\n");
    CHECK_TEXT(wants(&asked, 0), "on 0");
    CHECK_TEXT(wants(&asked, 100), "sample 0");
    CHECK_TEXT(wants(&asked, 300), "sample 1, off 0");
    cup_file_free(asked.file);
}

CASE(a_block_is_requested_once_for_all_its_sensors)
{
    static struct asked asked;
    uint8_t answer[] = {29, 3, 4, 1, 0xA1, 0xFF, 0xDA, 0, 0};
    uint16_t crc = cup_crc16(answer, 7);
    answer[7] = (uint8_t)crc;
    answer[8] = (uint8_t)(crc >> 8);
    open_site(&asked, SITE
              "[bus]\nis = source\nform = modbus\nport = serial:0\nunit = 29\n"
              "read = holding 16 2\nevery = 5s\n"
              "[wet]\nis = sensor\nsource = bus 0 x0.1\nmeasures = moisture\n"
              "[warm]\nis = sensor\nsource = bus 1 signed x0.1\n"
              "measures = temperature\n");
    CHECK_TEXT(wants(&asked, 0), "request 0");
    cup_site_answer(&asked.site, 0, 0, answer, sizeof(answer));
    CHECK_INT(cup_site_reading(&asked.site, 0).value, 4170);
    CHECK_INT(cup_site_reading(&asked.site, 1).value, -380);
    CHECK_TEXT(wants(&asked, 4999), "");
    CHECK_TEXT(wants(&asked, 5000), "request 0");
    cup_site_answer(&asked.site, 0, 5000, answer, 8);
    CHECK_INT(cup_site_reading(&asked.site, 0).reason, CUP_REASON_BAD_FRAME);
    cup_site_answer(&asked.site, 0, 5000, NULL, 0);
    CHECK_INT(cup_site_reading(&asked.site, 1).reason, CUP_REASON_NO_ANSWER);
    CHECK_INT(cup_site_reading(&asked.site, 1).quality, CUP_QUALITY_HELD);
    cup_file_free(asked.file);
}

CASE(a_meter_gives_flow_over_a_missed_answer_and_the_end_of_its_count)
{
    static struct asked asked;
    open_site(&asked, SITE "[meter]\nis = sensor\nform = pulses\nport = pin:1\n"
                           "per_litre = 380\nevery = 1s\n");
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t ml_min;
    } heard[] = {{0, 65480, 0},    {1000, 65518, 6000}, {2000, 20, 6000},
                 {4000, 96, 6000}, {4500, 115, 6000},   {5500, 115, 0}};
    for (size_t i = 0; i < sizeof(heard) / sizeof(heard[0]); i++) {
        cup_site_hear(&asked.site, 0, heard[i].at_ms,
                      (struct cup_sample){.raw = heard[i].raw});
        cup_site_decide(&asked.site, heard[i].at_ms, NULL);
        harness_at("at %u", heard[i].at_ms);
        CHECK_INT(cup_site_reading(&asked.site, 0).value, heard[i].ml_min);
    }
    cup_file_free(asked.file);
}

CASE(a_switch_is_debounced_by_time_in_either_polarity)
{
    static const char *const polarities[] = {"high", "low"};
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t closed;
    } heard[] = {{0, 1, 1},   {10, 0, 1},  {50, 1, 1},  {60, 0, 1},
                 {109, 0, 1}, {110, 0, 0}, {120, 1, 0}, {170, 1, 1}};
    for (int low = 0; low < 2; low++) {
        static struct asked asked;
        char text[300];
        snprintf(text, sizeof(text),
                 SITE "[float]\nis = sensor\nform = switch\nport = pin:1\n"
                      "every = 10ms\ndebounce = 50ms\nactive = %s\n",
                 polarities[low]);
        open_site(&asked, text);
        for (size_t i = 0; i < sizeof(heard) / sizeof(heard[0]); i++) {
            cup_site_hear(&asked.site, 0, heard[i].at_ms,
                          (struct cup_sample){.raw = heard[i].raw ^ low});
            harness_at("%s at %u", polarities[low], heard[i].at_ms);
            CHECK_INT(cup_site_reading(&asked.site, 0).value, heard[i].closed);
        }
        cup_file_free(asked.file);
    }
}

/* A noisy tank: what an echo over a rippled surface between walls sends. */

static double near_normal(struct chance *chance)
{
    double sum = -6;
    for (int i = 0; i < 12; i++)
        sum += chance_bits(chance) / 4294967296.0;
    return sum;
}

static struct cup_sample noisy(struct chance *chance, double mm)
{
    double seen = mm + 6 * near_normal(chance);
    if (chance_of(chance, 20))
        return (struct cup_sample){.raw = 0};
    if (chance_of(chance, 5))
        seen = mm - chance_between(chance, 300, 700);
    else if (chance_of(chance, 2))
        seen = 2 * mm;
    return (struct cup_sample){.raw = (int32_t)lround(seen / 0.17171)};
}

static void play_noisy_tank(struct cup_site *site, uint64_t seed)
{
    enum { SECONDS = 20000, LAG = 5 };
    static double truth[SECONDS];
    struct chance chance = chance_from(seed);
    double rate = 0;
    double square = 0;
    int32_t last = 0;
    truth[0] = 1100;
    for (int s = 0; s < SECONDS && !harness_failed(); s++) {
        if (s % 300 == 0)
            rate = chance_between(&chance, -500, 500) / 1000.0;
        if (s > 0)
            truth[s] = truth[s - 1] + rate;
        if (truth[s] < 900 || truth[s] > 1500)
            rate = truth[s] < 900 ? 0.3 : -0.3;
        cup_site_hear(site, 0, (uint32_t)s * 1000, noisy(&chance, truth[s]));
        cup_site_decide(site, (uint32_t)s * 1000, NULL);
        int32_t now = cup_site_reading(site, 0).value;
        if (s < 60) {
            last = now;
            continue;
        }
        double error = now / 10.0 - truth[s - LAG];
        square += error * error;
        CHECK(abs(now - last) <= 150);
        last = now;
    }
    if (!CHECK(sqrt(square / (SECONDS - 60)) < 3))
        printf("rms %.2f mm\n", sqrt(square / (SECONDS - 60)));
}

CASE(a_noisy_tank_is_read_within_three_millimetres)
{
    for (uint64_t seed = 0; seed < 40 && !harness_failed(); seed++) {
        static struct asked asked;
        open_site(&asked,
                  SITE "[echo]\nis = sensor\nform = echo\nport = echo:0\n"
                       "every = 1s\nsmooth = trimmed 11 3\njump = 20mm/s\n");
        harness_at("tank seed %u", (unsigned)(harness_seed() + seed));
        play_noisy_tank(&asked.site, harness_seed() + seed);
        cup_file_free(asked.file);
    }
}
