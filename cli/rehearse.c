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
#include "../ports/sim/sim.h"
#include "common/cli.h"
#include "rehearse/chronicle.h"
#include "rehearse/news.h"
#include "rehearse/record.h"
#include "rehearse/summary.h"

/* What was asked for on the command line. */
struct wishes {
    char *garden; /* each text is the caller's, from popt */
    char *out;
    char *from;
    char *history;
    const char **faults; /* ended by null, or null */
    const char **visits;
    double days;
    uint32_t seed;
    uint32_t from_s;
    bool json;
    bool story;
};

struct rehearsal {
    const struct cup_site *site;
    struct garden *garden;
    struct record *record;
    struct chronicle *chronicle; /* null: no history is kept */
    struct tally tally;
    struct news news;
    bool story;
    uint64_t now_s;
};

static void take(void *self, const struct cup_event *event)
{
    struct rehearsal *rehearsal = self;
    tally_event(&rehearsal->tally, (double)rehearsal->now_s, event);
    if (rehearsal->record)
        record_event(rehearsal->record, rehearsal->now_s, event);
    if (rehearsal->chronicle)
        chronicle_event(rehearsal->chronicle, event);
    if (rehearsal->story)
        news_event(&rehearsal->news, rehearsal->now_s, event);
}

static void said(void *self, const char *text, const char *refused)
{
    struct rehearsal *rehearsal = self;
    if (rehearsal->story)
        news_word(&rehearsal->news, rehearsal->now_s, text, refused);
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

static struct cup_onlooker *onlooker_of(const struct rehearsal *rehearsal)
{
    if (rehearsal->chronicle)
        return chronicle_onlooker(rehearsal->chronicle);
    return rehearsal->record ? record_onlooker(rehearsal->record) : NULL;
}

static int play(struct rehearsal *rehearsal, struct cup_sim *sim,
                const struct wishes *wishes)
{
    struct cup_sink sink = {take, rehearsal};
    struct cup_ear ear = {said, rehearsal};
    cup_sim_hear(sim, &ear);
    cup_sim_watch(sim, &sink, onlooker_of(rehearsal));
    double days = play_days(rehearsal, sim, wishes->days);
    news_end(&rehearsal->news);
    if (wishes->json)
        summary_json(&rehearsal->tally, days);
    else
        summary_print(&rehearsal->tally, days);
    if (days == wishes->days)
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: was told to stop after %g of %g days\n", days,
            wishes->days);
    return EXIT_OUTSIDE;
}

/* Adds what was given with one option, again and again. */
static bool add_each(struct garden *garden, const char **texts, double days,
                     const char *option,
                     const char *(*add)(struct garden *, const char *, double))
{
    for (; texts && *texts; texts++) {
        const char *wrong = add(garden, *texts, days);
        if (!wrong)
            continue;
        fprintf(stderr, "cuplatch: --%s \"%s\": %s\n", option,
                text_mend((char *)*texts), wrong);
        return false;
    }
    return true;
}

static struct garden *garden_for(struct words *words,
                                 const struct wishes *wishes, int *code)
{
    struct garden *garden = garden_read(wishes->garden, wishes->seed, stdout);
    if (!garden) {
        *code = errno ? cannot_open(words, wishes->garden) : EXIT_NO;
        return NULL;
    }
    if (!add_each(garden, wishes->faults, wishes->days, "fault",
                  garden_fault) ||
        !add_each(garden, wishes->visits, wishes->days, "visit",
                  garden_visit)) {
        *code = EXIT_USAGE;
        garden_close(garden);
        return NULL;
    }
    garden_begin(garden, wishes->from_s);
    return garden;
}

/* What is to be kept of it; false, told on stderr, when that cannot be. */
static bool open_kept(struct rehearsal *rehearsal, const struct site *site,
                      const struct wishes *wishes, const char *id)
{
    if (wishes->out) {
        rehearsal->record = record_open(wishes->out, site->file, &site->site,
                                        wishes->from_s, rehearsal->garden);
        if (!rehearsal->record)
            return false;
    }
    if (!wishes->history)
        return true;
    rehearsal->chronicle = chronicle_open(
        wishes->history, id, site->file, &site->site, wishes->from_s,
        rehearsal->record ? record_onlooker(rehearsal->record) : NULL);
    return rehearsal->chronicle != NULL;
}

static bool close_kept(struct rehearsal *rehearsal, enum record_end end)
{
    bool done = !rehearsal->chronicle || chronicle_close(rehearsal->chronicle);
    return (!rehearsal->record || record_close(rehearsal->record, end)) && done;
}

static int rehearse_with(struct site *site, struct garden *garden,
                         const struct wishes *wishes)
{
    char wrong[120];
    struct rehearsal rehearsal = {
        .site = &site->site, .garden = garden, .story = !wishes->json};
    struct cup_sim *sim =
        cup_sim_join(garden, &site->site, wrong, sizeof(wrong));
    if (!sim) {
        fprintf(stderr, "cuplatch: %s: %s\n", wishes->garden, wrong);
        return EXIT_NO;
    }
    int code = EXIT_DONE;
    tally_open(&rehearsal.tally, &site->site, garden);
    news_open(&rehearsal.news, site->site.plan);
    if (open_kept(&rehearsal, site, wishes, site_id(site)))
        code = play(&rehearsal, sim, wishes);
    else
        code = EXIT_OUTSIDE;
    if (!close_kept(&rehearsal, wishes->json ? RECORD_DRAWS : RECORD_TELLS))
        code = EXIT_OUTSIDE;
    news_close(&rehearsal.news);
    tally_close(&rehearsal.tally);
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

static bool read_wishes(struct words *words, int argc, const char **argv,
                        struct wishes *wishes)
{
    static char *garden, *out, *from, *history;
    static const char **faults, **visits;
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
        {"fault", 'f', POPT_ARG_ARGV, &faults, 0,
         "something that goes wrong: KIND of WHAT at TIME for TIME", "FAULT"},
        {"visit", 'v', POPT_ARG_ARGV, &visits, 0,
         "what a person does: refill VESSEL at TIME, or a word at TIME",
         "VISIT"},
        {"out", 'o', POPT_ARG_STRING, &out, 0,
         "write events, levels, the raw log and a picture there", "DIR"},
        {"history", 0, POPT_ARG_STRING, &history, 0,
         "add levels, runs and events to a history, for report", "FILE"},
        {"json", 'j', POPT_ARG_NONE, &json, 0, "the summary as JSON Lines",
         NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    bool read =
        words_read(words, argc, argv, options, "SITE --garden GARDEN", 1, 1);
    wishes->faults = faults;
    wishes->visits = visits;
    wishes->garden = garden;
    wishes->out = out;
    wishes->history = history;
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
    if (read_wishes(&words, argc, argv, &wishes))
        code = rehearse(&words, &wishes);
    free(wishes.garden);
    free(wishes.out);
    free(wishes.history);
    free(wishes.from);
    texts_free(wishes.faults);
    texts_free(wishes.visits);
    words_free(&words);
    return code;
}
