/* cuplatch bake SITE -o PLAN.c: the site as C tables, for firmware. */
#include <ctype.h>
#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/edit.h"
#include "../sitefile/bake.h"
#include "cli.h"

static bool is_c_name(const char *name)
{
    bool good = isalpha((unsigned char)*name) || *name == '_';
    for (; *name; name++)
        good &= isalnum((unsigned char)*name) || *name == '_';
    return good;
}

static int replace(const char *path, const char *text)
{
    if (cup_file_replace(path, text) == 0)
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: %s: %s\n", path, strerror(errno));
    return EXIT_OUTSIDE;
}

/* PLAN.c and, beside it, PLAN.h. */
static int write_both(const char *path, const char *plan, const char *header)
{
    size_t length = strlen(path);
    char *beside = strdup(path);
    if (!beside)
        abort();
    beside[length - 1] = 'h';
    int code = replace(path, plan);
    if (code == EXIT_DONE)
        code = replace(beside, header);
    free(beside);
    return code;
}

static int bake(struct words *words, const char *path, const char *name,
                enum cup_bake kind)
{
    struct site site;
    char wrong[200];
    int code = site_open(&site, words);
    if (code == EXIT_DONE &&
        !cup_file_has_pins(site.file, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch: %s: %s\n", words->list[0], wrong);
        code = EXIT_NO;
    }
    if (code == EXIT_DONE) {
        char *plan = cup_file_bake(site.file, name, kind);
        char *header = cup_file_bake_header(site.file, name, kind);
        code = write_both(path, plan, header);
        free(plan);
        free(header);
    }
    site_close(&site);
    return code;
}

static bool is_c_file(const char *path)
{
    const char *end = strrchr(path, '.');
    return end && end != path && strcmp(end, ".c") == 0;
}

int bake_main(int argc, const char **argv)
{
    char *path = NULL;
    char *name = NULL;
    int bare = 0;
    int steered = 0;
    struct poptOption options[] = {
        {"out", 'o', POPT_ARG_STRING, &path, 0,
         "write here, and PLAN.h beside it", "PLAN.c"},
        {"as", 0, POPT_ARG_STRING, &name, 0,
         "the site's name in C; \"baked\" if not given", "NAME"},
        {"bare", 0, POPT_ARG_NONE, &bare, 0,
         "without names, so no texts, and without steering words", NULL},
        {"steered", 0, POPT_ARG_NONE, &steered, 0,
         "bare, but with steering words, by number", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE", 1, 1)) {
        if (!path || !is_c_file(path))
            code = wrong_use(&words, "expected -o PLAN.c, a file of C%s", "");
        else if (name && !is_c_name(name))
            code = wrong_use(&words, "\"%s\" is no name in C", name);
        else
            code = bake(&words, path, name ? name : "baked",
                        steered ? CUP_BAKE_STEERED
                        : bare  ? CUP_BAKE_BARE
                                : CUP_BAKE_ALL);
    }
    free(path);
    free(name);
    words_free(&words);
    return code;
}
