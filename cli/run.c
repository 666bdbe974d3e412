/* cuplatch run SITE --port KIND: the site runs for real. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../controller/controller.h"
#include "../grammar/quantity.h"
#include "../ports/common/store.h"
#include "../ports/lines/lines.h"
#include "run/wishes.h"

static int run_lines(const struct site *site, struct cup_file_store *journal,
                     int faster)
{
    stop_flag();
    struct cup_lines_more more = {.faster = (uint32_t)faster,
                                  .store = journal ? cup_file_store_of(journal)
                                                   : NULL,
                                  .stop_fd = stop_fd()};
    if (!cup_lines_run(&site->site, stdin, stdout, &more))
        return EXIT_DONE;
    tell_failure(more.failed, more.why);
    return EXIT_OUTSIDE;
}

/* Where time runs faster, a pass comes late so many times later: else each one
 * would, and stop what runs. Rests and runs are over sooner by themselves. */
static void hurry(struct site *site, struct cup_plan *plan, int faster)
{
    uint64_t late_ms = (uint64_t)site->site.plan->late_ms * (uint32_t)faster;
    *plan = *site->site.plan;
    plan->late_ms =
        (uint32_t)(late_ms < CUP_TIME_MAX_MS ? late_ms : CUP_TIME_MAX_MS);
    site->site.plan = plan;
}

/* `plan` is room for a plan in a hurry, and must live as long as the site. */
static int over_lines(struct site *site, struct cup_plan *plan,
                      const struct run_wishes *wishes)
{
    struct cup_file_store *journal = NULL;
    char wrong[200];
    if (wishes->faster > 1)
        hurry(site, plan, wishes->faster);
    if (wishes->journal) {
        journal = cup_file_store_open(wishes->journal, site->site.plan, stderr,
                                      wrong, sizeof(wrong));
        if (!journal) {
            fprintf(stderr, "cuplatch: %s: %s\n", wishes->journal, wrong);
            return EXIT_OUTSIDE;
        }
    }
    int code = run_lines(site, journal, wishes->faster);
    if (journal)
        cup_file_store_close(journal);
    return code;
}

/* A kind of port: what runs it, and whether what was wished goes with it. */
struct kind_of_port {
    const char *name;
    int (*run)(struct words *words, struct site *site,
               const struct run_wishes *wishes);
    bool (*is_right)(struct words *words, struct run_wishes *wishes);
};

/* Options that a port does not take. */
struct strange {
    const char *name;
    bool given;
};

static bool takes_none(struct words *words, const char *port,
                       const struct strange *list, size_t count)
{
    char text[120];
    for (size_t i = 0; i < count; i++)
        if (list[i].given) {
            snprintf(text, sizeof(text), "%s; leave it out for --port %s",
                     list[i].name, port);
            wrong_use(words, "%s", text);
            return false;
        }
    return true;
}

/* Days of the raw log that are kept, and the most that may be. */
#define KEEP_DAYS 30
#define KEEP_MOST 3650

#define COUNT(list) (sizeof(list) / sizeof((list)[0]))

static bool is_sim_right(struct words *words, struct run_wishes *wishes)
{
    const struct strange strange[] = {
        {"a simulated garden keeps no --journal", wishes->journal != NULL},
        {"--pins are those of a machine", wishes->pins != NULL},
        {"--keep goes with --port linux", wishes->keep != KEEP_DAYS},
        {"--faster is for lines; here it is --speed", wishes->faster != 1}};
    wishes->from_s =
        wishes->from ? moment_read(wishes->from) : (uint32_t)time(NULL);
    if (!takes_none(words, "sim", strange, COUNT(strange)))
        return false;
    if (!wishes->garden)
        wrong_use(words, "%s needs --garden GARDEN for --port sim",
                  words->list[0]);
    else if (wishes->speed < 1 || wishes->speed > 100000)
        wrong_use(words, "--speed takes 1 to 100000%s", "");
    else if (wishes->from_s == 0)
        wrong_use(words, "--from takes a date such as 2031-05-10%s", "");
    else if (wishes->span &&
             (quantity_read_time(wishes->span, &wishes->span_s) ||
              wishes->span_s <= 0))
        wrong_use(words, "--for %s: expected a time such as 7d", wishes->span);
    else
        return true;
    return false;
}

/* What goes with a simulated garden alone. */
static bool takes_no_garden(struct words *words, const char *port,
                            const struct run_wishes *wishes)
{
    const struct strange strange[] = {
        {"--garden goes with --port sim", wishes->garden != NULL},
        {"--from goes with --port sim", wishes->from != NULL},
        {"--for goes with --port sim", wishes->span != NULL},
        {"--speed goes with --port sim", wishes->speed != 1}};
    return takes_none(words, port, strange, COUNT(strange));
}

static bool is_lines_right(struct words *words, struct run_wishes *wishes)
{
    const struct strange strange[] = {
        {"--socket goes with --port sim and linux", wishes->socket != NULL},
        {"--record goes with --port sim and linux", wishes->record != NULL},
        {"--keep goes with --port linux", wishes->keep != KEEP_DAYS},
        {"--pins go with --port linux", wishes->pins != NULL}};
    return takes_no_garden(words, "lines", wishes) &&
           takes_none(words, "lines", strange, COUNT(strange));
}

static bool is_linux_right(struct words *words, struct run_wishes *wishes)
{
    const struct strange strange[] = {
        {"--faster goes with --port lines", wishes->faster != 1}};
    if (!takes_no_garden(words, "linux", wishes) ||
        !takes_none(words, "linux", strange, COUNT(strange)))
        return false;
    if (!wishes->pins)
        wrong_use(words, "%s needs --pins PINS for --port linux",
                  words->list[0]);
    else if (wishes->keep < 1 || wishes->keep > KEEP_MOST)
        wrong_use(words, "--keep takes 1 to 3650 days%s", "");
    else
        return true;
    return false;
}

static int run_over_lines(struct words *words, struct site *site,
                          const struct run_wishes *wishes)
{
    struct cup_plan plan;
    (void)words;
    return over_lines(site, &plan, wishes);
}

static int run_linux(struct words *words, struct site *site,
                     const struct run_wishes *wishes)
{
    const struct controller_wishes its = {.pins = wishes->pins,
                                          .journal = wishes->journal,
                                          .record = wishes->record,
                                          .socket = wishes->socket,
                                          .record_days = wishes->keep,
                                          .trust_clock =
                                              wishes->trust_clock != 0};
    (void)words;
    return controller_run(site, &its);
}

static const struct kind_of_port kinds[] = {
    {"lines", run_over_lines, is_lines_right},
    {"sim", run_sim, is_sim_right},
    {"linux", run_linux, is_linux_right}};

static const struct kind_of_port *kind_of(struct words *words, const char *port)
{
    if (!port) {
        wrong_use(words, "%s needs --port lines, sim or linux", words->list[0]);
        return NULL;
    }
    for (size_t i = 0; i < COUNT(kinds); i++)
        if (strcmp(kinds[i].name, port) == 0)
            return &kinds[i];
    wrong_use(words, "no such port: \"%s\"; expected lines, sim or linux",
              port);
    return NULL;
}

static int run(struct words *words, struct run_wishes *wishes)
{
    struct site site;
    const struct kind_of_port *kind = NULL;
    if (wishes->faster < 1 || wishes->faster > 10000)
        wrong_use(words, "--faster takes 1 to 10000%s", "");
    else
        kind = kind_of(words, wishes->port);
    if (!kind || !kind->is_right(words, wishes))
        return EXIT_USAGE;
    int code = site_open(&site, words);
    if (code == EXIT_DONE)
        code = kind->run(words, &site, wishes);
    site_close(&site);
    return code;
}

static void free_wishes(const struct run_wishes *wishes)
{
    free(wishes->port);
    free(wishes->journal);
    free(wishes->garden);
    free(wishes->socket);
    free(wishes->record);
    free(wishes->from);
    free(wishes->span);
    free(wishes->pins);
}

/* The same program anew, as it was started: only what the kernel keeps of a
 * process lives on. */
static int begin_anew(void)
{
    char all[8192];
    char *argv[64];
    int argc = 0;
    FILE *in = fopen("/proc/self/cmdline", "r");
    size_t length = in ? fread(all, 1, sizeof(all) - 1, in) : 0;
    if (in)
        fclose(in);
    all[length] = '\0';
    for (char *at = all; at < all + length && argc < 63; at += strlen(at) + 1)
        argv[argc++] = at;
    argv[argc] = NULL;
    fflush(NULL);
    if (argc > 0)
        execv("/proc/self/exe", argv);
    tell_failure("cannot begin anew", errno);
    return EXIT_OUTSIDE;
}

int run_main(int argc, const char **argv)
{
    struct run_wishes wishes = {
        .faster = 1, .speed = 1, .seed = 1, .keep = KEEP_DAYS};
    struct poptOption options[] = {
        {"port", 'p', POPT_ARG_STRING, &wishes.port, 0,
         "the hardware: linux (this machine), lines (another program, over "
         "stdin and stdout) or sim (a simulated garden)",
         "KIND"},
        {"journal", 'j', POPT_ARG_STRING, &wishes.journal, 0,
         "linux, lines: keep settings, trips and totals in a file over "
         "restarts",
         "FILE"},
        {"faster", 'f', POPT_ARG_INT, &wishes.faster, 0,
         "lines, on the bench: let time run N times faster than they say", "N"},
        {"pins", 0, POPT_ARG_STRING, &wishes.pins, 0,
         "linux: the file that says what its ports are on this machine",
         "PINS"},
        {"trust-clock", 0, POPT_ARG_NONE, &wishes.trust_clock, 0,
         "linux: take this machine's clock for right, even if the kernel does "
         "not say so",
         NULL},
        {"garden", 'g', POPT_ARG_STRING, &wishes.garden, 0,
         "sim: the garden file", "GARDEN"},
        {"speed", 0, POPT_ARG_INT, &wishes.speed, 0,
         "sim: so many times faster than real time", "N"},
        {"seed", 0, POPT_ARG_INT, &wishes.seed, 0, "sim: of all chances", "S"},
        {"from", 0, POPT_ARG_STRING, &wishes.from, 0,
         "sim: the first day; now if not given", "DATE"},
        {"for", 0, POPT_ARG_STRING, &wishes.span, 0,
         "sim: end after so much of the garden's time", "TIME"},
        {"record", 0, POPT_ARG_STRING, &wishes.record, 0,
         "linux: the raw log, a file a day, to replay; sim: that, and events, "
         "levels and the truth",
         "DIR"},
        {"keep", 0, POPT_ARG_INT, &wishes.keep, 0,
         "linux: days of the raw log that are kept; 30 if not given", "DAYS"},
        {"socket", 's', POPT_ARG_STRING, &wishes.socket, 0,
         "linux, sim: where it listens to ask, tell and look --live", "PATH"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE --port KIND", 1, 1))
        code = run(&words, &wishes);
    free_wishes(&wishes);
    words_free(&words);
    if (code == CONTROLLER_ANEW)
        code = begin_anew();
    return code;
}
