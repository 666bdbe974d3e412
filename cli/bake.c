/* cuplatch bake SITE -o PLAN.c: the site as C tables, for firmware. */
#include <ctype.h>
#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/edit.h"
#include "../sitefile/bake.h"
#include "common/cli.h"
#include "cuplatch/say.h"

/* Words that C, C++ or a compiler's own macros have taken, and what the plan
 * calls its state. */
static const char *const taken[] = {
    "alignas",      "alignof",  "and",       "asm",       "auto",
    "bool",         "break",    "case",      "catch",     "char",
    "class",        "const",    "constexpr", "continue",  "decltype",
    "default",      "delete",   "do",        "double",    "else",
    "enum",         "errno",    "explicit",  "export",    "extern",
    "false",        "float",    "for",       "friend",    "goto",
    "i386",         "if",       "inline",    "int",       "linux",
    "long",         "main",     "mutable",   "namespace", "new",
    "noexcept",     "not",      "nullptr",   "operator",  "or",
    "private",      "public",   "register",  "restrict",  "return",
    "short",        "signed",   "sizeof",    "state",     "static",
    "struct",       "switch",   "template",  "this",      "throw",
    "true",         "try",      "typedef",   "typename",  "typeof",
    "union",        "unix",     "unsigned",  "using",     "virtual",
    "void",         "volatile", "while",     "xor",       "protected",
    "static_assert"};

/* The plan's tables end so: "sensors_13". */
static bool ends_in_number(const char *name)
{
    size_t length = strlen(name);
    size_t digits = 0;
    while (digits < length && isdigit((unsigned char)name[length - 1 - digits]))
        digits++;
    return digits > 0 && digits < length && name[length - 1 - digits] == '_';
}

/* A name that nothing else in the plan or in C can have. */
static bool is_free_name(const char *name)
{
    bool good = isalpha((unsigned char)*name) && strlen(name) <= CUP_NAME_MAX &&
                strncmp(name, "cup_", 4) != 0 && strncmp(name, "CUP_", 4) != 0;
    for (size_t i = 0; i < sizeof(taken) / sizeof(taken[0]); i++)
        good &= strcmp(taken[i], name) != 0;
    for (const char *at = name; *at; at++)
        good &= isalnum((unsigned char)*at) || *at == '_';
    return good && !ends_in_number(name);
}

/* What is there already is only written over when it was baked, too. */
static bool may_replace(const char *path)
{
    char head[400] = "";
    FILE *in = fopen(path, "r");
    if (!in)
        return errno == ENOENT;
    size_t got = fread(head, 1, sizeof(head) - 1, in);
    fclose(in);
    return got == 0 || strstr(head, "baked by cuplatch ");
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
    const char *other = !may_replace(path)     ? path
                        : !may_replace(beside) ? beside
                                               : NULL;
    int code = EXIT_OUTSIDE;
    if (other)
        fprintf(stderr,
                "cuplatch: %s: is there, and was not baked; move it away, or "
                "name another file\n",
                other);
    else
        code = replace(path, plan);
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
        (!cup_file_has_pins(site.file, wrong, sizeof(wrong)) ||
         !cup_file_is_timed(site.file, kind, wrong, sizeof(wrong)))) {
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
    int counts = 0;
    int bare = 0;
    int steered = 0;
    struct poptOption options[] = {
        {"out", 'o', POPT_ARG_STRING, &path, 0,
         "write here, and PLAN.h beside it", "PLAN.c"},
        {"as", 0, POPT_ARG_STRING, &name, 0,
         "the site's name in C; \"baked\" if not given", "NAME"},
        {"counts", 0, POPT_ARG_NONE, &counts, 0,
         "marks as counts where they can be: small, but a level that leaps is "
         "believed at once",
         NULL},
        {"bare", 0, POPT_ARG_NONE, &bare, 0,
         "by counts, without names, so no texts, and without steering words",
         NULL},
        {"steered", 0, POPT_ARG_NONE, &steered, 0,
         "bare, but with steering words, by number", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE", 1, 1)) {
        if (!path || !is_c_file(path))
            code = wrong_use(&words, "expected -o PLAN.c, a file of C%s", "");
        else if (name && !is_free_name(name))
            code = wrong_use(&words,
                             "\"%s\" cannot be the site's name in C: expected "
                             "a letter, then letters, digits or _, at most 24 "
                             "in all, and no word that C or the plan has taken",
                             name);
        else
            code = bake(&words, path, name ? name : "baked",
                        steered  ? CUP_BAKE_STEERED
                        : bare   ? CUP_BAKE_BARE
                        : counts ? CUP_BAKE_COUNTING
                                 : CUP_BAKE_ALL);
    }
    free(path);
    free(name);
    words_free(&words);
    return code;
}
