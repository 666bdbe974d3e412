/* Keys that few sites have: each does what it says. */
#include <string.h>

#include "../harness/harness.h"
#include "../harness/world.h"

static int32_t value_of(struct world *world, cup_index sensor, int32_t raw)
{
    cup_site_hear(&world->site, sensor, 0, (struct cup_sample){.raw = raw});
    return cup_site_reading(&world->site, sensor).value;
}

#define PROBE                                                                  \
    "[soil]\nis = sensor\nmeasures = moisture\nform = counts\nport = adc:0\n"  \
    "dry = 1000\nwet = 500\nevery = 1s\nplausible = 100..1400\n"

CASE(clamp_keeps_values_within_dry_and_wet)
{
    struct world world;
    world_open(&world, "[site]\nscan = 1s\n" PROBE);
    CHECK_INT(value_of(&world, 0, 1100), 0);
    world_close(&world);
    world_open(&world, "[site]\nscan = 1s\n" PROBE "clamp = no\n");
    CHECK_INT(value_of(&world, 0, 1100), -2000);
    world_close(&world);
}

/* 1 m of water presses 9806.65 Pa; of what is heavier, more. */
CASE(density_is_that_of_what_is_in_the_tank)
{
    static const struct {
        const char *key;
        int32_t percent100;
    } rows[] = {{"", 5000}, {"density = 1250\n", 4000}};
    for (size_t i = 0; i < 2; i++) {
        struct world world;
        char text[600];
        snprintf(text, sizeof(text),
                 "[site]\nscan = 1s\n[push]\nis = sensor\nmeasures = pressure\n"
                 "form = counts\nport = adc:0\nevery = 1s\n"
                 "points = 0:0bar 1000:0.1bar\n"
                 "[butt]\nis = tank\nsensor = push\nshape = upright\n"
                 "diameter = 600mm\ndepth = 1m\n%s",
                 rows[i].key);
        world_open(&world, text);
        harness_at("%s", rows[i].key);
        (void)value_of(&world, 0, 490);
        cup_site_decide(&world.site, 0, NULL);
        int32_t level = cup_site_reading(&world.site, 1).value;
        CHECK(level >= rows[i].percent100 - 5 &&
              level <= rows[i].percent100 + 5);
        harness_at(NULL);
        world_close(&world);
    }
}

/* Of 40 bits of ours: 583 tenths, or 2 and 71 tenths. */
CASE(scaling_says_what_a_frame_counts_in)
{
    static const uint8_t frame[5] = {0x02, 0x47, 0x00, 0xD9, 0x22};
    static const char *const keys[] = {"scaling = tenths\n",
                                       "scaling = whole\n"};
    int32_t values[2];
    for (size_t i = 0; i < 2; i++) {
        struct world world;
        char text[400];
        snprintf(text, sizeof(text),
                 "[site]\nscan = 1s\n[damp]\nis = sensor\nmeasures = humidity\n"
                 "form = pulse40\nport = pin:0\nevery = 2s\n%s",
                 keys[i]);
        world_open(&world, text);
        cup_site_hear_bytes(&world.site, 0, 0, frame, sizeof(frame));
        values[i] = cup_site_reading(&world.site, 0).value;
        world_close(&world);
    }
    CHECK_INT(values[0], 5830);
    CHECK_INT(values[1], 910);
}

CASE(lapse_is_how_long_a_change_at_the_panel_waits)
{
    struct world world;
    world_open(&world, "[site]\nscan = 1s\n" PROBE
                       "[front]\nis = panel\nport = panel:0\nlapse = 45s\n");
    CHECK_INT(world.site.plan->panel_width, 16);
    CHECK_INT(world.site.plan->lapse_ms, 45000);
    world_close(&world);
}

CASE(zone_is_for_who_runs_the_site)
{
    struct world world;
    world_open(&world, "[site]\nscan = 1s\nzone = Europe/Lisbon\n" PROBE);
    CHECK_TEXT(cup_file_value(world.file, "site", "zone"), "Europe/Lisbon");
    world_close(&world);
}
