/* The truth of a rehearsal, as text and as JSON. */
#include "summary.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#include "../../ports/common/json.h"

/* Litres of the garden, as the site shows volumes. */
struct volume {
    char text[24];
};
static struct volume volume_of(const struct tally *tally, double litres)
{
    struct volume volume = {""};
    cup_say_value(volume.text, sizeof(volume.text), tally->site->plan,
                  (int32_t)lround(fmin(litres, 2e6) * 1000), CUP_UNIT_LITRE);
    return volume;
}

struct span_text {
    char text[24];
};
static struct span_text span_of(double s)
{
    struct span_text span = {""};
    cup_say_value(span.text, sizeof(span.text), NULL,
                  (int32_t)fmin(s * 1000, INT32_MAX), CUP_UNIT_SECOND);
    return span;
}

static void print_beds(const struct tally *tally, double days)
{
    const struct garden *garden = tally->garden;
    double weeks = days < 7 ? 1 : days / 7; /* less is told as it is */
    for (int i = 0; i < garden_beds(garden); i++) {
        struct garden_bed bed = garden_bed_truth(garden, i);
        printf("  %-12s %6.1f h too dry, %6.1f h right, %5.1f h too wet\n"
               "  %-12s %s%s given, %s of rain; its plants used %s\n",
               bed.name, bed.dry_h, bed.right_h, bed.wet_h, "",
               days < 7 ? "" : "a week: ",
               volume_of(tally, bed.given_l / weeks).text,
               volume_of(tally, bed.rain_l / weeks).text,
               volume_of(tally, bed.used_l / weeks).text);
    }
}

static void print_more(const struct tally *tally, double litres,
                       const char *what)
{
    if (litres > 0.05)
        printf(", %s %s", volume_of(tally, litres).text, what);
}

static void print_hours(double hours, const char *what)
{
    if (hours > 0.05)
        printf(", %s for %.1f h", what, hours);
}

static void print_vessels(const struct tally *tally)
{
    const struct garden *garden = tally->garden;
    for (int i = 0; i < garden_vessels(garden); i++) {
        struct garden_vessel vessel = garden_vessel_truth(garden, i);
        printf("  %-12s %5.1f %% to %5.1f %% of %s", vessel.name,
               100 * vessel.lowest_l / vessel.capacity_l,
               100 * vessel.highest_l / vessel.capacity_l,
               volume_of(tally, vessel.capacity_l).text);
        print_hours(vessel.empty_h, "empty");
        print_hours(vessel.over_h, "ran over");
        print_more(tally, vessel.overflow_l, "overflowed");
        print_more(tally, vessel.leaked_l, "leaked away");
        printf("\n");
    }
}

/* A code as words: "below-start" is "below start". */
static void print_code(uint8_t reason)
{
    for (const char *at = cup_reason_code(reason); *at; at++)
        putchar(*at == '-' ? ' ' : *at);
}

static void print_starts(const struct pump_tally *pump)
{
    const char *between = ":";
    for (uint8_t reason = 0; reason < CUP_REASON_COUNT; reason++) {
        if (pump->starts[reason] == 0)
            continue;
        printf("%s %u ", between, pump->starts[reason]);
        print_code(reason);
        between = ",";
    }
}

static void print_trips(const struct pump_tally *pump)
{
    if (pump->trips > 0)
        printf("\n  %-12s tripped %u time%s%s", "", pump->trips,
               pump->trips == 1 ? "" : "s",
               pump->locks > 0 ? " and locked" : "");
    if (pump->trips_well > 0)
        printf(", %u of them while it was well", pump->trips_well);
    if (pump->unanswered > 0)
        printf("\n  %-12s not done %u time%s after its longest run", "",
               pump->unanswered, pump->unanswered == 1 ? "" : "s");
    if (pump->dry_untold > 0)
        printf("\n  %-12s ran dry %u time%s without a word", "",
               pump->dry_untold, pump->dry_untold == 1 ? "" : "s");
}

/* What kept a pump off, with the numbers of the last time. */
static void print_blocks(const struct tally *tally,
                         const struct pump_tally *pump)
{
    char why[CUP_SENTENCE_SIZE];
    for (uint8_t reason = 0; reason < CUP_REASON_COUNT; reason++) {
        if (pump->blocks[reason] == 0)
            continue;
        cup_say_event(why, sizeof(why), tally->site->plan, &pump->last[reason]);
        printf("\n  %-12s kept off %u time%s: %s", "", pump->blocks[reason],
               pump->blocks[reason] == 1 ? "" : "s", why);
    }
}

static void print_pump(struct tally *tally, int i)
{
    struct garden_pump pump = garden_pump_truth(tally->garden, i);
    const struct pump_tally *count = tally_pump(tally, pump.name);
    printf("  %-12s ran %s, %s", pump.name, span_of(pump.ran_s).text,
           volume_of(tally, pump.moved_l).text);
    print_more(tally, pump.spilled_l, "spilled");
    printf(", dry for %.0f s\n  %-12s %u start%s", pump.dry_s, "", pump.starts,
           pump.starts == 1 ? "" : "s");
    if (count) {
        print_starts(count);
        print_trips(count);
        print_blocks(tally, count);
    }
    printf("\n");
}

static void print_troubles(const struct tally *tally)
{
    if (garden_troubles(tally->garden) > 0)
        printf("\nWhat went wrong, and what was told of it\n");
    for (int i = 0; i < garden_troubles(tally->garden); i++) {
        struct garden_trouble trouble = garden_trouble_truth(tally->garden, i);
        const struct trouble_tally *told = &tally->troubles[i];
        unsigned at_s = (unsigned)trouble.at_s;
        printf("  %s of %s, day %u %02u:%02u for %s:", trouble.kind,
               trouble.what, at_s / 86400 + 1, at_s / 3600 % 24, at_s / 60 % 60,
               span_of(trouble.for_s).text);
        if (told->told)
            printf(" told after %s: %s\n", span_of(told->after_s).text,
                   told->why);
        else
            printf(" nothing\n");
    }
}

static double energy_of(const struct garden *garden)
{
    double energy = 0;
    for (int i = 0; i < garden_pumps(garden); i++)
        energy += garden_pump_truth(garden, i).energy_wh;
    return energy;
}

/* How far the books are from closing: all of them, and of each vessel. */
static double gap_of(const struct garden *garden)
{
    struct garden_balance balance = garden_balance(garden);
    double gap = fabs(balance.in - balance.stored - balance.used -
                      balance.overflowed - balance.leaked);
    for (int i = 0; i < garden_vessels(garden); i++)
        gap = fmax(gap, fabs(garden_vessel_truth(garden, i).off_l));
    return gap;
}

void summary_print(struct tally *tally, double days)
{
    const struct garden *garden = tally->garden;
    struct garden_balance balance = garden_balance(garden);
    double gap = gap_of(garden);
    printf("\nAfter %g day%s, by the garden's own count\n\nBeds\n", days,
           days == 1 ? "" : "s");
    print_beds(tally, days);
    printf("\nWater\n");
    print_vessels(tally);
    printf("\nPumps\n");
    for (int i = 0; i < garden_pumps(garden); i++)
        print_pump(tally, i);
    print_troubles(tally);
    printf("\nIn all %s used, %s overflowed, %s leaked or spilled; "
           "%.0f Wh for pumps.\n",
           volume_of(tally, balance.used).text,
           volume_of(tally, balance.overflowed).text,
           volume_of(tally, balance.leaked).text, energy_of(garden));
    if (gap > 0.001)
        printf("The garden's books are off by %g L: this should not be.\n",
               gap);
    printf("%u alert%s told, of %u events.\n", tally->alerts,
           tally->alerts == 1 ? " was" : "s were", tally->events);
}

static json_t *json_starts(const struct pump_tally *count)
{
    json_t *json = json_object();
    for (uint8_t reason = 0; count && reason < CUP_REASON_COUNT; reason++)
        if (count->starts[reason] > 0)
            json_object_set_new(json, cup_reason_code(reason),
                                json_integer(count->starts[reason]));
    return json;
}

static json_t *json_pump(struct tally *tally, int i)
{
    struct garden_pump pump = garden_pump_truth(tally->garden, i);
    const struct pump_tally *count = tally_pump(tally, pump.name);
    json_t *json = json_pack(
        "{s:s, s:i, s:f, s:f, s:f, s:f, s:f}", "pump", pump.name, "starts",
        (int)pump.starts, "ran_s", pump.ran_s, "dry_s", pump.dry_s, "moved_l",
        pump.moved_l, "spilled_l", pump.spilled_l, "energy_wh", pump.energy_wh);
    if (count)
        json_object_update_new(
            json, json_pack("{s:o, s:i, s:i, s:i, s:i}", "starts_for",
                            json_starts(count), "trips", (int)count->trips,
                            "unanswered", (int)count->unanswered, "trips_well",
                            (int)count->trips_well, "dry_untold",
                            (int)count->dry_untold));
    return json;
}

static json_t *json_trouble(const struct tally *tally, int i)
{
    struct garden_trouble trouble = garden_trouble_truth(tally->garden, i);
    const struct trouble_tally *told = &tally->troubles[i];
    json_t *json =
        json_pack("{s:s, s:s, s:f, s:f, s:b}", "trouble", trouble.kind, "of",
                  trouble.what, "at_s", trouble.at_s, "for_s", trouble.for_s,
                  "told", told->told);
    if (told->told)
        json_object_update_new(json,
                               json_pack("{s:f, s:s}", "after_s", told->after_s,
                                         "why", told->why));
    return json;
}

static json_t *json_bed(const struct garden *garden, int i)
{
    struct garden_bed bed = garden_bed_truth(garden, i);
    return json_pack("{s:s, s:f, s:f, s:f, s:f, s:f, s:f}", "bed", bed.name,
                     "dry_h", bed.dry_h, "right_h", bed.right_h, "wet_h",
                     bed.wet_h, "given_l", bed.given_l, "rain_l", bed.rain_l,
                     "used_l", bed.used_l);
}

static json_t *json_vessel(const struct garden *garden, int i)
{
    struct garden_vessel vessel = garden_vessel_truth(garden, i);
    return json_pack("{s:s, s:f, s:f, s:f, s:f, s:f, s:f}", "vessel",
                     vessel.name, "lowest_l", vessel.lowest_l, "highest_l",
                     vessel.highest_l, "overflow_l", vessel.overflow_l,
                     "leaked_l", vessel.leaked_l, "empty_h", vessel.empty_h,
                     "over_h", vessel.over_h);
}

void summary_json(struct tally *tally, double days)
{
    const struct garden *garden = tally->garden;
    struct garden_balance balance = garden_balance(garden);
    for (int i = 0; i < garden_beds(garden); i++)
        cup_json_line(stdout, json_bed(garden, i));
    for (int i = 0; i < garden_vessels(garden); i++)
        cup_json_line(stdout, json_vessel(garden, i));
    for (int i = 0; i < garden_pumps(garden); i++)
        cup_json_line(stdout, json_pump(tally, i));
    for (int i = 0; i < garden_troubles(garden); i++)
        cup_json_line(stdout, json_trouble(tally, i));
    cup_json_line(stdout,
                  json_pack("{s:f, s:f, s:f, s:f, s:f, s:f, s:f, s:i, s:i}",
                            "days", days, "in_l", balance.in, "stored_l",
                            balance.stored, "used_l", balance.used,
                            "overflowed_l", balance.overflowed, "leaked_l",
                            balance.leaked, "off_l", gap_of(garden), "alerts",
                            (int)tally->alerts, "events", (int)tally->events));
}
