/* Stands in for gnuplot under the fuzzers: takes the script, and ends whoever
 * started it when there is anything in it but what our plots are made of. Words
 * are of a fixed list, data files have fixed names, and a text stands only
 * where gnuplot takes one. */
#include <ctype.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static const char *const words[] = {
    "set",     "unset",     "plot",       "terminal",   "pngcairo",
    "svg",     "size",      "font",       "background", "rgb",
    "output",  "datafile",  "separator",  "multiplot",  "lmargin",
    "rmargin", "tmargin",   "bmargin",    "at",         "screen",
    "xrange",  "yrange",    "grid",       "xtics",      "ytics",
    "tics",    "nomirror",  "border",     "key",        "outside",
    "right",   "center",    "format",     "x",          "y",
    "title",   "notitle",   "noenhanced", "object",     "rectangle",
    "from",    "to",        "first",      "graph",      "fc",
    "fs",      "solid",     "noborder",   "behind",     "ylabel",
    "xlabel",  "autoscale", "using",      "with",       "lines",
    "points",  "lw",        "dt",         "lc",         "pt",
    "ps",      "pattern",   "boxxyerror", "whitespace", "NaN",
    "e",       NULL};

/* What a text may come after; and the files that are read. */
static const char *const before_text[] = {"title", "ylabel",    "xlabel",
                                          "rgb",   "font",      "output",
                                          "x",     "separator", NULL};
static const char *const files[] = {"levels.csv", "run.txt", "block.txt",
                                    "flag.txt", NULL};

static void refuse(const char *line, const char *at)
{
    fprintf(stderr, "not of our script: %s at %s\n", line, at);
    kill(getppid(), SIGABRT);
    exit(1);
}

static int is_one_of(const char *const *list, const char *word, size_t length)
{
    for (; *list; list++)
        if (strlen(*list) == length && strncmp(*list, word, length) == 0)
            return 1;
    return 0;
}

/* A text between single quotes, where one within is doubled; its end. */
static const char *end_of_text(const char *line, const char *at)
{
    for (at++; *at; at++)
        if (*at == '\'' && at[1] == '\'')
            at++;
        else if (*at == '\'')
            return at + 1;
    refuse(line, "a text without an end");
    return at;
}

/* The last word before where we are, none after a comma or a bracket. */
struct word {
    const char *at;
    size_t length;
};

static const char *take_text(const char *line, const char *at,
                             const struct word *before)
{
    const char *end = end_of_text(line, at);
    int tics = strncmp(line, "set ytics (", 11) == 0;
    if (!tics && !is_one_of(before_text, before->at, before->length) &&
        !is_one_of(files, at + 1, (size_t)(end - at) - 2))
        refuse(line, at);
    return end;
}

static const char *take_word(const char *line, const char *at,
                             struct word *word)
{
    *word = (struct word){.at = at};
    while (isalpha((unsigned char)*at))
        at++;
    word->length = (size_t)(at - word->at);
    if (!is_one_of(words, word->at, word->length))
        refuse(line, word->at);
    return at;
}

static const char *take_sign(const char *line, const char *at,
                             struct word *word)
{
    if (!strchr(" \t0123456789.,:()[]$*/+-", *at))
        refuse(line, at);
    if (*at == ',' || *at == '(')
        word->length = 0;
    return at + 1;
}

static void check_line(const char *line)
{
    struct word word = {line, 0};
    for (const char *at = line; *at;)
        if (*at == '\'')
            at = take_text(line, at, &word);
        else if (isalpha((unsigned char)*at))
            at = take_word(line, at, &word);
        else
            at = take_sign(line, at, &word);
}

int main(int argc, char **argv)
{
    char *line = NULL;
    size_t size = 0;
    FILE *script = argc == 3 ? fopen(argv[2], "r") : NULL;
    if (!script || strcmp(argv[1], "-d") != 0)
        refuse("", "the words it is started with");
    while (getline(&line, &size, script) > 0) {
        line[strcspn(line, "\n")] = '\0';
        check_line(line);
    }
    free(line);
    fclose(script);
    FILE *picture = fopen("picture", "w");
    return picture && fclose(picture) == 0 ? 0 : 1;
}
