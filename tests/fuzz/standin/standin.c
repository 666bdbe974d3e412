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

static const char *const words[] = {"arrow",       "at",
                                    "autoscale",   "axes",
                                    "background",  "behind",
                                    "bmargin",     "border",
                                    "center",      "character",
                                    "dt",          "e",
                                    "fc",          "filledcurves",
                                    "first",       "font",
                                    "from",        "front",
                                    "fs",          "graph",
                                    "grid",        "impulses",
                                    "key",         "label",
                                    "lc",          "lines",
                                    "lmargin",     "lw",
                                    "multiplot",   "NaN",
                                    "noborder",    "noenhanced",
                                    "nohead",      "nomirror",
                                    "notitle",     "object",
                                    "offset",      "output",
                                    "outside",     "pattern",
                                    "plot",        "pngcairo",
                                    "point",       "ps",
                                    "pt",          "range",
                                    "rectangle",   "rgb",
                                    "right",       "rmargin",
                                    "samplen",     "scale",
                                    "screen",      "set",
                                    "size",        "solid",
                                    "svg",         "tc",
                                    "terminal",    "title",
                                    "tmargin",     "to",
                                    "transparent", "unset",
                                    "using",       "with",
                                    "x",           "xrange",
                                    "xtics",       "y",
                                    "ylabel",      "yrange",
                                    "ytics",       NULL};

/* What a text may come after; and the files that are read. */
static const char *const before_text[] = {"title", "ylabel", "rgb",
                                          "font",  "output", NULL};

static int is_data(const char *name, size_t length)
{
    return length == 5 && strncmp(name, "data", 4) == 0 &&
           isdigit((unsigned char)name[4]);
}

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
    int names = strncmp(line, "set ytics ", 10) == 0 ||
                strncmp(line, "set label ", 10) == 0;
    if (!names && !is_one_of(before_text, before->at, before->length) &&
        !is_data(at + 1, (size_t)(end - at) - 2))
        refuse(line, at);
    return end;
}

/* Dates are between double quotes, where gnuplot knows the end of a line: they
 * are ours, and stand on the axis only. */
static const char *take_date(const char *line, const char *at)
{
    if (strncmp(line, "set xtics ", 10) != 0)
        refuse(line, at);
    for (at++; *at != '"'; at++)
        if (!isalnum((unsigned char)*at) && !strchr(" :\\", *at))
            refuse(line, at);
    return at + 1;
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
    if (!strchr(" \t0123456789.,:()[]$*/+=-", *at))
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
        else if (*at == '"')
            at = take_date(line, at);
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
