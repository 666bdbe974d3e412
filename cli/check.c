/* cuplatch check SITE: every error of a site file, or what it will do. */
#include "cli.h"

static int check(struct words *words)
{
    const char *path = words->list[0];
    struct cup_file *file = cup_file_read(path);
    if (!file)
        return cannot_open(words, path);
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
        code = check(&words);
    words_free(&words);
    return code;
}
