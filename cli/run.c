/* cuplatch run SITE --port KIND: the site runs for real. */
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../grammar/quantity.h"
#include "../ports/common/store.h"
#include "../ports/lines/lines.h"
#include "run.h"

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

static int run(struct words *words, const struct run_wishes *wishes)
{
    struct cup_plan plan;
    struct site site;
    int code = site_open(&site, words);
    if (code == EXIT_DONE)
        code = strcmp(wishes->port, "sim") == 0
                   ? run_sim(words, &site, wishes)
                   : over_lines(&site, &plan, wishes);
    site_close(&site);
    return code;
}

/* What a simulated garden needs. */
static bool is_sim_right(struct words *words, struct run_wishes *wishes)
{
    wishes->from_s =
        wishes->from ? moment_read(wishes->from) : (uint32_t)time(NULL);
    if (!wishes->garden)
        wrong_use(words, "%s needs --garden GARDEN for --port sim",
                  words->list[0]);
    else if (wishes->journal)
        wrong_use(words, "--port sim keeps no journal; leave --journal out%s",
                  "");
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

/* What only a simulated garden takes. */
static bool is_lines_right(struct words *words, const struct run_wishes *wishes)
{
    if (!wishes->garden && !wishes->socket && !wishes->record &&
        !wishes->from && !wishes->span && wishes->speed == 1)
        return true;
    wrong_use(words,
              "--garden, --speed, --from, --for, --record and --socket go with "
              "--port sim%s",
              "");
    return false;
}

static bool is_right(struct words *words, struct run_wishes *wishes)
{
    if (wishes->faster < 1 || wishes->faster > 10000)
        wrong_use(words, "--faster takes 1 to 10000%s", "");
    else if (!wishes->port)
        wrong_use(words, "%s needs --port lines or --port sim", words->list[0]);
    else if (strcmp(wishes->port, "sim") == 0)
        return is_sim_right(words, wishes);
    else if (strcmp(wishes->port, "lines") != 0)
        wrong_use(words, "no such port: \"%s\"; expected lines or sim",
                  wishes->port);
    else
        return is_lines_right(words, wishes);
    return false;
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
}

int run_main(int argc, const char **argv)
{
    struct run_wishes wishes = {.faster = 1, .speed = 1, .seed = 1};
    struct poptOption options[] = {
        {"port", 'p', POPT_ARG_STRING, &wishes.port, 0,
         "the hardware: lines (another program, over stdin and stdout) or sim "
         "(a simulated garden)",
         "KIND"},
        {"journal", 'j', POPT_ARG_STRING, &wishes.journal, 0,
         "lines: keep settings, trips and totals in a file over restarts",
         "FILE"},
        {"faster", 'f', POPT_ARG_INT, &wishes.faster, 0,
         "lines, on the bench: let time run N times faster than they say", "N"},
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
         "sim: write events, levels, the truth and the raw log there", "DIR"},
        {"socket", 's', POPT_ARG_STRING, &wishes.socket, 0,
         "sim: where it listens to ask, tell and look --live", "PATH"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE --port KIND", 1, 1) &&
        is_right(&words, &wishes))
        code = run(&words, &wishes);
    free_wishes(&wishes);
    words_free(&words);
    return code;
}
