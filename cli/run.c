/* cuplatch run SITE --port KIND: the site runs for real. */
#include <stdlib.h>
#include <string.h>

#include "../ports/common/store.h"
#include "../ports/lines/lines.h"
#include "cli.h"

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

static int run(struct words *words, const char *journal_path, int faster)
{
    struct site site;
    struct cup_plan plan;
    struct cup_file_store *journal = NULL;
    int code = site_open(&site, words);
    if (code == EXIT_DONE && faster > 1)
        hurry(&site, &plan, faster);
    if (code == EXIT_DONE && journal_path) {
        char wrong[200];
        journal = cup_file_store_open(journal_path, site.site.plan, stderr,
                                      wrong, sizeof(wrong));
        if (!journal) {
            fprintf(stderr, "cuplatch: %s: %s\n", journal_path, wrong);
            code = EXIT_OUTSIDE;
        }
    }
    if (code == EXIT_DONE)
        code = run_lines(&site, journal, faster);
    if (journal)
        cup_file_store_close(journal);
    site_close(&site);
    return code;
}

int run_main(int argc, const char **argv)
{
    char *port = NULL;
    char *journal = NULL;
    int faster = 1;
    struct poptOption options[] = {
        {"port", 'p', POPT_ARG_STRING, &port, 0,
         "the hardware: lines (another program, over stdin and stdout)",
         "KIND"},
        {"journal", 'j', POPT_ARG_STRING, &journal, 0,
         "keep settings, trips and totals in a file over restarts", "FILE"},
        {"faster", 'f', POPT_ARG_INT, &faster, 0,
         "on the bench: let time run N times faster than the lines say", "N"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "SITE --port KIND", 1, 1))
        code = EXIT_USAGE;
    else if (faster < 1 || faster > 10000)
        code = wrong_use(&words, "--faster takes 1 to 10000%s", "");
    else if (!port)
        code = wrong_use(&words, "%s needs --port lines", words.list[0]);
    else if (strcmp(port, "lines") != 0)
        code = wrong_use(&words, "no such port: \"%s\"; expected lines", port);
    else
        code = run(&words, journal, faster);
    free(port);
    free(journal);
    words_free(&words);
    return code;
}
