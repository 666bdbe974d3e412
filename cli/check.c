/* cuplatch check SITE: every error of a site file, or what it will do; and what
 * is wrong with its pins file. */
#include <stdlib.h>

#include "../controller/civil.h"
#include "../controller/wired.h"
#include "common/cli.h"

struct check_wishes {
    char *pins;
    int quiet;
};

/* Its pins, held against it; no pin is touched. */
static int check_pins(struct words *words, const char *pins)
{
    struct site site;
    struct wired wired = {.outlets = {.line_count = 0}};
    int code = site_open(&site, words);
    if (code == EXIT_DONE) {
        code = wired_open(&site, pins, WIRED_READ, &wired);
        wired_close(&wired);
    }
    site_close(&site);
    return code;
}

static void tell_errors(struct cup_file *file, size_t errors, const char *path)
{
    cup_file_problems(file, stdout);
    printf("%zu error%s in %s\n", errors, errors > 1 ? "s" : "", path);
}

static int check(struct words *words, const struct check_wishes *wishes)
{
    const char *path = words->list[0];
    struct cup_file *file = cup_file_read(path);
    if (!file)
        return cannot_open(words, path);
    size_t errors = cup_file_errors(file);
    bool right = errors == 0 && civil_zone_is_known(file, path);
    if (errors > 0)
        tell_errors(file, errors, path);
    else if (!wishes->quiet)
        cup_file_problems(file, stdout);
    if (right && !wishes->quiet)
        cup_file_explain(file, stdout);
    cup_file_free(file);
    if (!right)
        return EXIT_NO;
    return wishes->pins ? check_pins(words, wishes->pins) : EXIT_DONE;
}

int check_main(int argc, const char **argv)
{
    struct check_wishes wishes = {.pins = NULL};
    struct poptOption options[] = {{"pins", 'p', POPT_ARG_STRING, &wishes.pins,
                                    0, "its pins file, too; no pin is touched",
                                    "PINS"},
                                   {"quiet", 'q', POPT_ARG_NONE, &wishes.quiet,
                                    0, "say only what is wrong", NULL},
                                   POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE", 1, 1))
        code = check(&words, &wishes);
    words_free(&words);
    free(wishes.pins);
    return code;
}
