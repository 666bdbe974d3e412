/* Random sites of one shape: a well, a header tank above it, two beds behind
 * valves on one pump, a bed and a tray with a pump each, a lift between the
 * tanks. Which limits each has, and how tight, is chance. */
#include <stdarg.h>
#include <stdio.h>
#include <string.h>

#include "oracle.h"

const char *const output_names[OUTPUTS] = {"lift",   "beds", "single",
                                           "tray_p", "left", "right"};
const char *const duty_names[DUTIES] = {"top", "bed_a", "bed_b", "bed_c",
                                        "tray"};
const char *const level_names[LEVELS] = {"well_s", "header_s", "spare",
                                         "soil_a", "soil_b",   "soil_c",
                                         "light",  "well",     "header"};

static uint32_t seconds(struct chance *chance, int low, int high)
{
    return (uint32_t)chance_between(chance, low, high) * 1000;
}

static uint32_t perhaps(struct chance *chance, int percent, uint32_t value)
{
    return chance_of(chance, percent) ? value : 0;
}

static void make_pump(struct pump *pump, struct chance *chance, int from,
                      int into)
{
    *pump = (struct pump){.from = from, .into = into};
    pump->dry_below = chance_between(chance, 5, 20) * 100;
    pump->dry_clear = pump->dry_below + chance_between(chance, 1, 8) * 100;
    pump->full_at = into == NOBODY ? 0 : chance_between(chance, 85, 97) * 100;
    pump->rest = perhaps(chance, 60, seconds(chance, 1, 20));
    pump->longest = perhaps(chance, 70, seconds(chance, 100, 240));
    pump->shortest = perhaps(chance, 30, seconds(chance, 2, 8));
    pump->retry = perhaps(chance, 70, seconds(chance, 5, 60));
    pump->tries = pump->retry ? chance_between(chance, 1, 3) : 0;
    pump->per_day = perhaps(chance, 40, seconds(chance, 120, 600));
    pump->day_starts =
        chance_of(chance, 30) ? chance_between(chance, 3, 20) : 0;
    pump->proof = perhaps(chance, 30, seconds(chance, 14, 18));
    pump->hand_limit = pump->longest ? pump->longest - 1000 : 60000;
}

static void make_duty(struct duty *duty, struct chance *chance, enum what what,
                      int pump, int level)
{
    *duty = (struct duty){
        .what = what, .pump = pump, .level = level, .valve = NOBODY};
    duty->start = chance_between(chance, 20, 50) * 100;
    duty->stop = duty->start + chance_between(chance, 5, 30) * 100;
    duty->confirm = perhaps(chance, 30, seconds(chance, 1, 6));
    duty->dose = seconds(chance, 3, 20);
    duty->soak = seconds(chance, 10, 60);
    duty->doses = chance_of(chance, 80) ? chance_between(chance, 1, 4) : 0;
    duty->flood = seconds(chance, 10, 90);
    duty->every = seconds(chance, 240, 600);
    duty->apart = duty->every + seconds(chance, 0, 600);
    duty->least = perhaps(chance, 50, duty->every - seconds(chance, 0, 100));
}

/* The site as a grower writes it. */

static void say(struct own_site *site, const char *form, ...)
    __attribute__((format(printf, 2, 3)));
static void say(struct own_site *site, const char *form, ...)
{
    size_t used = strlen(site->text);
    va_list rest;
    va_start(rest, form);
    vsnprintf(site->text + used, sizeof(site->text) - used, form, rest);
    va_end(rest);
}

static void say_time(struct own_site *site, const char *key, uint32_t ms)
{
    if (ms > 0)
        say(site, "%s = %us\n", key, (unsigned)ms / 1000);
}

static void say_level(struct own_site *site, const char *key, int level)
{
    say(site, "%s = %d.%02d%%\n", key, level / 100, level % 100);
}

static void say_sensors(struct own_site *site)
{
    for (int i = 0; i < SENSORS; i++) {
        say(site, "[%s]\nis = sensor\nmeasures = level\nform = counts\n",
            level_names[i]);
        say(site, "port = adc:%d\npoints = 0:0%% 1000:100%%\nevery = 1s\n", i);
        say(site, "plausible = 0..1000\n");
        if (site->smooth)
            say(site, "smooth = median 5\n");
        say_time(site, "lost_after", site->lost_after);
    }
    for (int i = 0; i < TANKS; i++)
        say(site,
            "[%s]\nis = tank\nsensor = %s\nshape = upright\ndiameter = 1m\n"
            "depth = 1000mm\nbelieve = %us\n",
            level_names[TANK(i)], level_names[i],
            (unsigned)site->believe / 1000);
}

static void say_pump(struct own_site *site, int i)
{
    const struct pump *pump = &site->pumps[i];
    say(site, "[%s]\nis = pump\nport = relay:%d\nfrom = %s\n", output_names[i],
        i, level_names[TANK(pump->from)]);
    say_level(site, "dry_below", pump->dry_below);
    say_level(site, "dry_clear", pump->dry_clear);
    if (pump->into != NOBODY) {
        say(site, "into = %s\n", level_names[TANK(pump->into)]);
        say_level(site, "full_at", pump->full_at);
    }
    say(site, "rest = %us\n", (unsigned)pump->rest / 1000);
    say_time(site, "shortest", pump->shortest);
    say_time(site, "longest", pump->longest);
    say_time(site, "hand_limit", pump->hand_limit);
    if (pump->proof)
        say(site, "proof = %s above %d%% in %us\n", level_names[METER],
            METER_LEAST / 100, (unsigned)pump->proof / 1000);
    if (pump->retry)
        say(site, "retry = %us x%d\n", (unsigned)pump->retry / 1000,
            pump->tries);
    if (pump->per_day || pump->day_starts)
        say(site, "per_day =");
    if (pump->per_day)
        say(site, " %us", (unsigned)pump->per_day / 1000);
    if (pump->day_starts)
        say(site, " %dstarts", pump->day_starts);
    say(site, "\n");
}

static void say_duty(struct own_site *site, int i)
{
    const struct duty *duty = &site->duties[i];
    say(site, "[%s]\nis = duty\nrun = %s\n", duty_names[i],
        output_names[duty->pump]);
    if (duty->valve != NOBODY)
        say(site, "through = %s\n", output_names[duty->valve]);
    if (duty->what == FLOODS) {
        say_time(site, "flood", duty->flood);
        say_time(site, "every", duty->every);
        say_time(site, "at_most_apart", duty->apart);
        say_time(site, "at_least_apart", duty->least);
        return;
    }
    say(site, "keep = %s\n", level_names[duty->level]);
    say_level(site, "start", duty->start);
    say_level(site, "stop", duty->stop);
    say_time(site, "confirm", duty->confirm);
    if (duty->what == KEEPS)
        return;
    say_time(site, "dose", duty->dose);
    say_time(site, "soak", duty->soak);
    if (duty->doses)
        say(site, "doses = %d\n", duty->doses);
}

void site_make(struct own_site *site, struct chance *chance)
{
    memset(site, 0, sizeof(*site));
    site->lost_after = seconds(chance, 4, 20);
    site->believe = seconds(chance, 20, 1000);
    site->late = seconds(chance, 8, 20);
    site->boot_wait = perhaps(chance, 50, seconds(chance, 1, 15));
    site->at_once = chance_between(chance, 1, 4);
    site->smooth = chance_of(chance, 40);
    make_pump(&site->pumps[0], chance, 0, 1);
    for (int i = 1; i < PUMPS; i++)
        make_pump(&site->pumps[i], chance, 1, NOBODY);
    make_duty(&site->duties[0], chance, KEEPS, 0, TANK(1));
    if (site->duties[0].stop >= site->pumps[0].full_at)
        site->duties[0].stop = site->pumps[0].full_at - 100;
    make_duty(&site->duties[1], chance, chance_of(chance, 60) ? DOSES : KEEPS,
              1, 3);
    make_duty(&site->duties[2], chance, chance_of(chance, 60) ? DOSES : KEEPS,
              1, 4);
    site->duties[1].valve = PUMPS;
    site->duties[2].valve = PUMPS + 1;
    make_duty(&site->duties[3], chance, DOSES, 2, 5);
    make_duty(&site->duties[4], chance, FLOODS, 3, NOBODY);
    say(site, "[site]\nname = oracle\nscan = 1s\nat_once = %d\n",
        site->at_once);
    say_time(site, "late", site->late);
    say_time(site, "boot_wait", site->boot_wait);
    say_sensors(site);
    for (int i = PUMPS; i < OUTPUTS; i++)
        say(site, "[%s]\nis = valve\nport = relay:%d\n", output_names[i], i);
    for (int i = 0; i < PUMPS; i++)
        say_pump(site, i);
    for (int i = 0; i < DUTIES; i++)
        say_duty(site, i);
}
