/* cuplatch report HISTORY [THING...]: what the water did, in sentences, as a
 * page or as bare numbers. */
#include "report/forms.h"

#include <errno.h>
#include <stdlib.h>

#include "../grammar/quantity.h"
#include "common/cli.h"
#include "common/delivery.h"

struct wishes {
    struct report_days days;
    char *every, *out;
    int table, csv, json;
};

struct asking {
    struct words *words;
    const struct wishes *wishes;
};

static bool read_every(struct words *words, const struct wishes *wishes,
                       int64_t *every_s)
{
    double span_s = 3600;
    if (wishes->every && (quantity_read_time(wishes->every, &span_s) ||
                          span_s < 60 || span_s > 366 * 86400.0)) {
        wrong_use(words, "--every %s: expected a time from 1m on, such as 1h",
                  wishes->every);
        return false;
    }
    *every_s = (int64_t)span_s;
    return true;
}

static bool print(FILE *out, struct words *words, const struct wishes *wishes,
                  struct history *history, const struct report *report)
{
    int64_t every_s;
    if (!read_every(words, wishes, &every_s))
        return false;
    if (wishes->table || wishes->csv || wishes->json)
        return report_rows(out, history, report,
                           wishes->csv    ? ROWS_CSV
                           : wishes->json ? ROWS_JSON
                                          : ROWS_TABLE,
                           every_s);
    if (!wishes->out) {
        report_text(out, report);
        return true;
    }
    char *picture = report_picture(history, report);
    report_page(out, report, picture);
    free(picture);
    return true;
}

static int print_into(struct words *words, const struct wishes *wishes,
                      struct history *history, const struct report *report)
{
    struct delivery delivery;
    if (!delivery_begin(&delivery, wishes->out))
        return cannot_open(words, wishes->out);
    bool done = print(delivery.out, words, wishes, history, report);
    if (delivery_end(&delivery, done))
        return EXIT_DONE;
    tell_failure("the report could not be written", errno);
    return EXIT_OUTSIDE;
}

static int show(void *self, struct history *history,
                const struct report *report)
{
    const struct asking *asking = self;
    if (asking->wishes->out)
        return print_into(asking->words, asking->wishes, history, report);
    return print(stdout, asking->words, asking->wishes, history, report)
               ? EXIT_DONE
               : EXIT_USAGE;
}

int report_main(int argc, const char **argv)
{
    struct wishes wishes = {.table = 0};
    struct poptOption options[] = {
        REPORT_OPTIONS(wishes.days),
        {"output", 'o', POPT_ARG_STRING, &wishes.out, 0,
         "into a file: a page of HTML with a picture, or the numbers", "FILE"},
        {"table", 0, POPT_ARG_NONE, &wishes.table, 0,
         "instead: levels as a table", NULL},
        {"csv", 0, POPT_ARG_NONE, &wishes.csv, 0, "instead: levels as CSV",
         NULL},
        {"json", 'j', POPT_ARG_NONE, &wishes.json, 0,
         "instead: levels as JSON Lines", NULL},
        {"every", 0, POPT_ARG_STRING, &wishes.every, 0,
         "of numbers, a row each; 1h if not given", "TIME"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    struct asking asking = {&words, &wishes};
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "HISTORY [THING...]", 1, 32))
        code = EXIT_USAGE;
    else if (wishes.table + wishes.csv + wishes.json > 1)
        wrong_use(&words, "--table, --csv and --json are each for itself%s",
                  "");
    else
        code = report_of(&words, &wishes.days, show, &asking);
    report_forget(&wishes.days);
    free(wishes.every);
    free(wishes.out);
    words_free(&words);
    return code;
}
