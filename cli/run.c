/* cuplatch run SITE --port KIND: the site runs for real. */
#include <stdlib.h>
#include <string.h>

#include "../ports/lines/lines.h"
#include "cli.h"

static int run(struct words *words)
{
    struct site site;
    int code = site_open(&site, words);
    if (code == EXIT_DONE) {
        if (cup_lines_run(&site.site, stdin, stdout, stop_flag(), NULL))
            code = EXIT_OUTSIDE;
    }
    site_close(&site);
    return code;
}

int run_main(int argc, const char **argv)
{
    char *port = NULL;
    struct poptOption options[] = {
        {"port", 'p', POPT_ARG_STRING, &port, 0,
         "the hardware: lines (another program, over stdin and stdout)",
         "KIND"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "SITE --port KIND", 1, 1))
        code = EXIT_USAGE;
    else if (!port)
        code = wrong_use(&words, "%s needs --port lines", words.list[0]);
    else if (strcmp(port, "lines") != 0)
        code = wrong_use(&words, "no such port: \"%s\"; expected lines", port);
    else
        code = run(&words);
    free(port);
    words_free(&words);
    return code;
}
