/* cuplatch check SITE: every error of a site file, or what it will do. */
#include <errno.h>
#include <string.h>

#include "cli.h"

static int check(const char *path)
{
    struct cup_file *file = cup_file_read(path);
    if (!file) {
        fprintf(stderr, "cuplatch: %s: %s\n", path, strerror(errno));
        return errno == ENOENT ? EXIT_USAGE : EXIT_OUTSIDE;
    }
    size_t errors = cup_file_errors(file);
    cup_file_problems(file, stdout);
    if (errors > 0)
        printf("%zu error%s in %s\n", errors, errors > 1 ? "s" : "", path);
    else
        cup_file_explain(file, stdout);
    cup_file_free(file);
    return errors > 0 ? EXIT_NO : EXIT_DONE;
}

int check_main(int argc, const char **argv)
{
    struct poptOption options[] = {POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE", 1, 1))
        code = check(words.list[0]);
    if (code == EXIT_USAGE && words.count == 1)
        poptPrintUsage(words.context, stderr, 0);
    words_free(&words);
    return code;
}
