/* cuplatch rehearse SITE --garden GARDEN --days N: days in seconds, against a
 * simulated garden. The summary is the garden's truth, not what the controller
 * believed. */
#include <errno.h>
#include <inttypes.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "../grammar/text.h"
#include "../ports/common/json.h"
#include "../ports/sim/sim.h"
#include "cli.h"
#include "cuplatch/say.h"
#include "record.h"

/* What was asked for on the command line. */
struct wishes {
    char *garden; /* each text is the caller's, from popt */
    char *out;
    char *from;
    const char **faults;
    int fault_count;
    double days;
    uint32_t seed;
    uint32_t from_s;
    bool json;
    bool story;
};

/* What the events of a rehearsal came to, for each pump and in all. */
struct count {
    unsigned blocks[CUP_REASON_COUNT];
    struct cup_event last[CUP_REASON_COUNT]; /* of those */
    unsigned trips;
    unsigned locks;
};

/* The last news, and how often the same came again since. */
struct news {
    struct cup_event event;
    uint64_t s;       /* of the last */
    uint64_t first_s; /* of the first again */
    unsigned again;
};

struct rehearsal {
    const struct cup_site *site;
    struct garden *garden;
    struct record *record;
    struct count *pumps;
    unsigned alerts;
    unsigned boots;
    unsigned events;
    bool story;
    struct news news;
    uint64_t now_s;
    uint32_t from_s;
};

static void count_pump(struct count *count, const struct cup_event *event,
                       const struct cup_pump_state *pump)
{
    bool guarded = event->kind == CUP_KIND_STOP && pump->no != CUP_REASON_NONE;
    if (event->kind == CUP_KIND_BLOCK || guarded) {
        count->last[event->cause.reason] = *event;
        count->blocks[event->cause.reason]++;
    }
    count->trips += event->kind == CUP_KIND_TRIP;
    count->locks += event->kind == CUP_KIND_LOCK;
}

static void print_news(const struct rehearsal *rehearsal, uint64_t s,
                       const struct cup_event *event, const char *why)
{
    const struct cup_plan *plan = rehearsal->site->plan;
    printf("day %2" PRIu64 " %02" PRIu64 ":%02" PRIu64 "  %-12s %-8s %s\n",
           s / 86400 + 1, s / 3600 % 24, s / 60 % 60,
           cup_thing_name(plan, event->of), cup_kind_code(event->kind), why);
}

/* What came again and again, in one line. */
static void print_again(struct rehearsal *rehearsal)
{
    struct news *news = &rehearsal->news;
    char why[CUP_SENTENCE_SIZE];
    uint64_t s = news->first_s;
    if (news->again == 0)
        return;
    if (news->again == 1)
        cup_say_event(why, sizeof(why), rehearsal->site->plan, &news->event);
    else
        snprintf(why, sizeof(why),
                 "%u more since day %" PRIu64 " %02" PRIu64 ":%02" PRIu64,
                 news->again, s / 86400 + 1, s / 3600 % 24, s / 60 % 60);
    print_news(rehearsal, news->s, &news->event, why);
    news->again = 0;
}

/* The sentence of an event; of an alert with what the file says, too. */
static void say_news(char *why, size_t size, const struct cup_plan *plan,
                     const struct cup_event *event)
{
    size_t used = cup_say_event(why, size, plan, event);
    for (cup_index i = 0; i < plan->alert_count; i++)
        if (event->kind == CUP_KIND_ALERT &&
            event->of == cup_alert_thing(plan, i) && plan->alerts[i].say)
            snprintf(why + used, size - used, ": %s", plan->alerts[i].say);
}

/* News is told at once; the same in a row is counted, until there is other. */
static void tell_news(struct rehearsal *rehearsal,
                      const struct cup_event *event)
{
    struct news *news = &rehearsal->news;
    char why[2 * CUP_SENTENCE_SIZE];
    bool same = news->event.of == event->of &&
                news->event.kind == event->kind &&
                news->event.cause.reason == event->cause.reason &&
                event->kind == CUP_KIND_TRIP;
    if (!same)
        print_again(rehearsal);
    if (same && news->again++ == 0)
        news->first_s = rehearsal->now_s;
    news->event = *event;
    news->s = rehearsal->now_s;
    if (same)
        return;
    say_news(why, sizeof(why), rehearsal->site->plan, event);
    print_news(rehearsal, rehearsal->now_s, event, why);
}

/* What a tired grower wants to read as it goes by: not each run. */
static bool is_news(const struct cup_event *event)
{
    return event->kind == CUP_KIND_TRIP || event->kind == CUP_KIND_LOCK ||
           event->kind == CUP_KIND_ALERT || event->kind == CUP_KIND_LEAK ||
           event->kind == CUP_KIND_OVER || event->kind == CUP_KIND_BOOT ||
           (event->kind == CUP_KIND_QUALITY &&
            event->cause.reason != CUP_REASON_READABLE);
}

static void take(void *self, const struct cup_event *event)
{
    struct rehearsal *rehearsal = self;
    const struct cup_plan *plan = rehearsal->site->plan;
    cup_index first = cup_pump_thing(plan, 0);
    rehearsal->events++;
    rehearsal->boots += event->kind == CUP_KIND_BOOT;
    rehearsal->alerts +=
        event->kind == CUP_KIND_ALERT || event->kind == CUP_KIND_LEAK;
    if (event->of != CUP_NONE && event->of >= first &&
        event->of < first + plan->pump_count)
        count_pump(&rehearsal->pumps[event->of - first], event,
                   &rehearsal->site->pumps[event->of - first]);
    if (rehearsal->record)
        record_event(rehearsal->record, rehearsal->now_s, event);
    if (rehearsal->story && is_news(event))
        tell_news(rehearsal, event);
}

/* The summary */

/* Litres of the garden, as the site shows volumes. */
struct volume {
    char text[24];
};
static struct volume volume_of(const struct rehearsal *rehearsal, double litres)
{
    struct volume volume = {""};
    cup_say_value(volume.text, sizeof(volume.text), rehearsal->site->plan,
                  (int32_t)lround(fmin(litres, 2e6) * 1000), CUP_UNIT_LITRE);
    return volume;
}

static void print_beds(const struct rehearsal *rehearsal)
{
    const struct garden *garden = rehearsal->garden;
    for (int i = 0; i < garden_beds(garden); i++) {
        struct garden_bed bed = garden_bed_truth(garden, i);
        printf("  %-12s %6.1f h too dry, %6.1f h right, %5.1f h too wet; "
               "given %s\n",
               bed.name, bed.dry_h, bed.right_h, bed.wet_h,
               volume_of(rehearsal, bed.given_l).text);
    }
}

static void print_vessels(const struct rehearsal *rehearsal)
{
    const struct garden *garden = rehearsal->garden;
    for (int i = 0; i < garden_vessels(garden); i++) {
        struct garden_vessel vessel = garden_vessel_truth(garden, i);
        printf("  %-12s %5.1f %% to %5.1f %% of %s", vessel.name,
               100 * vessel.lowest_l / vessel.capacity_l,
               100 * vessel.highest_l / vessel.capacity_l,
               volume_of(rehearsal, vessel.capacity_l).text);
        if (vessel.overflow_l > 0.05)
            printf(", %s overflowed",
                   volume_of(rehearsal, vessel.overflow_l).text);
        if (vessel.leaked_l > 0.05)
            printf(", %s leaked away",
                   volume_of(rehearsal, vessel.leaked_l).text);
        printf("\n");
    }
}

/* What kept a pump off, with the numbers of the last time. */
static void print_blocks(const struct rehearsal *rehearsal,
                         const struct count *count)
{
    char why[CUP_SENTENCE_SIZE];
    if (count->trips > 0)
        printf("; tripped %u time%s%s", count->trips,
               count->trips == 1 ? "" : "s",
               count->locks > 0 ? " and locked" : "");
    for (uint8_t reason = 0; reason < CUP_REASON_COUNT; reason++) {
        if (count->blocks[reason] == 0)
            continue;
        cup_say_event(why, sizeof(why), rehearsal->site->plan,
                      &count->last[reason]);
        printf("\n  %-12s kept off %u time%s: %s", "", count->blocks[reason],
               count->blocks[reason] == 1 ? "" : "s", why);
    }
}

static void print_pump(const struct rehearsal *rehearsal, int i)
{
    const struct cup_plan *plan = rehearsal->site->plan;
    struct garden_pump pump = garden_pump_truth(rehearsal->garden, i);
    char ran[24];
    cup_say_value(ran, sizeof(ran), NULL, (int32_t)pump.ran_s * 1000,
                  CUP_UNIT_SECOND);
    printf("  %-12s %3u starts, ran %s, %s, dry for %.0f s", pump.name,
           pump.starts, ran, volume_of(rehearsal, pump.moved_l).text,
           pump.dry_s);
    if (pump.spilled_l > 0.05)
        printf(", %s spilled", volume_of(rehearsal, pump.spilled_l).text);
    for (cup_index p = 0; p < plan->pump_count; p++)
        if (strcmp(cup_thing_name(plan, cup_pump_thing(plan, p)), pump.name) ==
            0)
            print_blocks(rehearsal, &rehearsal->pumps[p]);
    printf("\n");
}

static void print_summary(const struct rehearsal *rehearsal, double days)
{
    const struct garden *garden = rehearsal->garden;
    struct garden_balance balance = garden_balance(garden);
    double energy = 0;
    printf("\nAfter %g day%s, by the garden's own count\n\nBeds\n", days,
           days == 1 ? "" : "s");
    print_beds(rehearsal);
    printf("\nWater\n");
    print_vessels(rehearsal);
    printf("\nPumps\n");
    for (int i = 0; i < garden_pumps(garden); i++) {
        print_pump(rehearsal, i);
        energy += garden_pump_truth(garden, i).energy_wh;
    }
    printf("\nIn all %s used, %s overflowed, %s leaked or spilled; "
           "%.0f Wh for pumps.\n%u alert%s told, of %u events.\n",
           volume_of(rehearsal, balance.used).text,
           volume_of(rehearsal, balance.overflowed).text,
           volume_of(rehearsal, balance.leaked).text, energy, rehearsal->alerts,
           rehearsal->alerts == 1 ? " was" : "s were", rehearsal->events);
}

static json_t *json_pump(const struct garden *garden, int i)
{
    struct garden_pump pump = garden_pump_truth(garden, i);
    return json_pack("{s:s, s:i, s:f, s:f, s:f, s:f, s:f}", "pump", pump.name,
                     "starts", (int)pump.starts, "ran_s", pump.ran_s, "dry_s",
                     pump.dry_s, "moved_l", pump.moved_l, "spilled_l",
                     pump.spilled_l, "energy_wh", pump.energy_wh);
}

static void print_json(const struct garden *garden)
{
    for (int i = 0; i < garden_beds(garden); i++) {
        struct garden_bed bed = garden_bed_truth(garden, i);
        cup_json_line(stdout,
                      json_pack("{s:s, s:f, s:f, s:f, s:f}", "bed", bed.name,
                                "dry_h", bed.dry_h, "right_h", bed.right_h,
                                "wet_h", bed.wet_h, "given_l", bed.given_l));
    }
    for (int i = 0; i < garden_vessels(garden); i++) {
        struct garden_vessel vessel = garden_vessel_truth(garden, i);
        cup_json_line(
            stdout, json_pack("{s:s, s:f, s:f, s:f, s:f}", "vessel",
                              vessel.name, "lowest_l", vessel.lowest_l,
                              "highest_l", vessel.highest_l, "overflow_l",
                              vessel.overflow_l, "leaked_l", vessel.leaked_l));
    }
    for (int i = 0; i < garden_pumps(garden); i++)
        cup_json_line(stdout, json_pump(garden, i));
}

/* Playing */

static void progress(const struct rehearsal *rehearsal, double days)
{
    if (rehearsal->now_s % 86400 == 0)
        fprintf(stderr, "\rday %" PRIu64 " of %g ", rehearsal->now_s / 86400,
                days);
}

/* Plays until the end, or until it is told to stop; how many days it played. */
static double play_days(struct rehearsal *rehearsal, struct cup_sim *sim,
                        double days)
{
    uint64_t end_ms = (uint64_t)(days * 86400) * 1000;
    uint32_t scan_ms = rehearsal->site->plan->scan_ms;
    bool shows = isatty(STDERR_FILENO) && !rehearsal->story;
    const volatile int *stop = stop_flag();
    uint64_t ms = 0;
    for (; ms < end_ms && !*stop; ms += scan_ms) {
        rehearsal->now_s = ms / 1000;
        cup_sim_pass(sim);
        if (shows)
            progress(rehearsal, days);
    }
    if (shows)
        fprintf(stderr, "\r                    \r");
    return ms < end_ms ? floor((double)ms / 864000) / 100 : days;
}

static int play(struct rehearsal *rehearsal, struct cup_sim *sim,
                const struct wishes *wishes)
{
    struct cup_sink sink = {take, rehearsal};
    cup_sim_watch(sim, &sink,
                  rehearsal->record ? record_onlooker(rehearsal->record)
                                    : NULL);
    double days = play_days(rehearsal, sim, wishes->days);
    print_again(rehearsal);
    if (wishes->json)
        print_json(rehearsal->garden);
    else
        print_summary(rehearsal, days);
    if (days == wishes->days)
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: was told to stop after %g of %g days\n", days,
            wishes->days);
    return EXIT_OUTSIDE;
}

static struct garden *garden_for(struct words *words,
                                 const struct wishes *wishes, int *code)
{
    struct garden *garden = garden_read(wishes->garden, wishes->seed, stdout);
    if (!garden) {
        *code = errno ? cannot_open(words, wishes->garden) : EXIT_NO;
        return NULL;
    }
    for (int i = 0; i < wishes->fault_count; i++) {
        const char *wrong =
            garden_fault(garden, wishes->faults[i], wishes->days);
        if (!wrong)
            continue;
        fprintf(stderr, "cuplatch: --fault \"%s\": %s\n",
                text_mend((char *)wishes->faults[i]), wrong);
        *code = EXIT_USAGE;
        garden_close(garden);
        return NULL;
    }
    garden_begin(garden, wishes->from_s);
    return garden;
}

static int rehearse_with(struct site *site, struct garden *garden,
                         const struct wishes *wishes)
{
    char wrong[120];
    struct rehearsal rehearsal = {.site = &site->site,
                                  .garden = garden,
                                  .story = !wishes->json,
                                  .from_s = wishes->from_s};
    struct cup_sim *sim =
        cup_sim_join(garden, &site->site, wrong, sizeof(wrong));
    if (!sim) {
        fprintf(stderr, "cuplatch: %s: %s\n", wishes->garden, wrong);
        return EXIT_NO;
    }
    int code = EXIT_DONE;
    rehearsal.pumps =
        calloc(site->site.plan->pump_count + 1u, sizeof(*rehearsal.pumps));
    if (wishes->out) {
        rehearsal.record =
            record_open(wishes->out, site->file, &site->site, wishes->from_s);
        if (!rehearsal.record)
            code = EXIT_OUTSIDE;
    }
    if (code == EXIT_DONE && rehearsal.pumps)
        code = play(&rehearsal, sim, wishes);
    if (rehearsal.record && !record_close(rehearsal.record, !wishes->json))
        code = EXIT_OUTSIDE;
    free(rehearsal.pumps);
    cup_sim_close(sim);
    return code;
}

static int rehearse(struct words *words, const struct wishes *wishes)
{
    struct site site;
    int code = site_open(&site, words);
    if (code == EXIT_DONE) {
        struct garden *garden = garden_for(words, wishes, &code);
        if (garden) {
            code = rehearse_with(&site, garden, wishes);
            garden_close(garden);
        }
    }
    site_close(&site);
    return code;
}

static bool is_right(struct words *words, const struct wishes *wishes)
{
    if (!wishes->garden)
        wrong_use(words, "%s needs --garden GARDEN", words->list[0]);
    else if (!(wishes->days > 0 && wishes->days <= 3660))
        wrong_use(words, "--days takes more than 0, at most 3660%s", "");
    else if (wishes->from_s == 0)
        wrong_use(words, "--from takes a date such as 2031-05-10%s", "");
    else
        return true;
    return false;
}

enum { OPTION_FAULT = 1 };

static bool read_wishes(struct words *words, int argc, const char **argv,
                        struct wishes *wishes)
{
    static char *garden, *out, *from, *fault;
    static int seed = 1;
    static int json;
    static double days = 7;
    struct poptOption options[] = {
        {"garden", 'g', POPT_ARG_STRING, &garden, 0, "the garden file",
         "GARDEN"},
        {"days", 'd', POPT_ARG_DOUBLE, &days, 0, "how long; 7 if not given",
         "N"},
        {"seed", 's', POPT_ARG_INT, &seed, 0,
         "of all chances; the same seed, the same days", "S"},
        {"from", 0, POPT_ARG_STRING, &from, 0,
         "the first day; 2031-05-10 if not given", "DATE"},
        {"fault", 'f', POPT_ARG_STRING, &fault, OPTION_FAULT,
         "something that goes wrong: KIND of WHAT at TIME for TIME", "FAULT"},
        {"out", 'o', POPT_ARG_STRING, &out, 0,
         "write events, levels, the raw log and a picture there", "DIR"},
        {"json", 'j', POPT_ARG_NONE, &json, 0, "the summary as JSON Lines",
         NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    bool read =
        words_read_each(words, argc, argv, options, "SITE --garden GARDEN", 1,
                        1, &fault, wishes->faults, &wishes->fault_count, argc);
    wishes->garden = garden;
    wishes->out = out;
    wishes->days = days;
    wishes->seed = (uint32_t)seed;
    wishes->from = from;
    wishes->from_s = moment_read(from ? from : "2031-05-10");
    wishes->json = json;
    return read && is_right(words, wishes);
}

int rehearse_main(int argc, const char **argv)
{
    struct words words;
    struct wishes wishes = {.days = 7};
    int code = EXIT_USAGE;
    wishes.faults = calloc((size_t)argc + 1, sizeof(*wishes.faults));
    if (!wishes.faults)
        abort();
    if (read_wishes(&words, argc, argv, &wishes))
        code = rehearse(&words, &wishes);
    free(wishes.garden);
    free(wishes.out);
    free(wishes.from);
    for (int i = 0; i < wishes.fault_count; i++)
        free((void *)wishes.faults[i]);
    free(wishes.faults);
    words_free(&words);
    return code;
}
