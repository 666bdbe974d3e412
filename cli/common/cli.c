/* What the subcommands share. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "cli.h"
#include "cuplatch/say.h"

/* Of a text that is wrapped. */
#define WIDTH 78

static void print_usage(const struct words *words)
{
    fprintf(stderr, "Usage: %s [OPTION...] %s; --help tells more\n",
            words->name, words->usage);
}

int wrong_use(struct words *words, const char *form, const char *what)
{
    fprintf(stderr, "cuplatch: ");
    fprintf(stderr, form, what);
    fputc('\n', stderr);
    print_usage(words);
    return EXIT_USAGE;
}

static bool take_words(struct words *words, int most)
{
    const char *word;
    while ((word = poptGetArg(words->context))) {
        if (words->count == most) {
            wrong_use(words, "one word too many: \"%s\"", word);
            return false;
        }
        words->list[words->count++] = word;
    }
    return true;
}

bool words_read(struct words *words, int argc, const char **argv,
                const struct poptOption *options, const char *usage, int least,
                int most)
{
    *words = (struct words){0};
    snprintf(words->name, sizeof(words->name), "cuplatch %s", argv[0]);
    argv[0] = words->name;
    words->context = poptGetContext(words->name, argc, argv, options, 0);
    words->usage = usage;
    poptSetOtherOptionHelp(words->context, usage);
    int next = poptGetNextOpt(words->context);
    if (next < -1) {
        fprintf(stderr, "cuplatch: %s: %s\n",
                poptBadOption(words->context, POPT_BADOPTION_NOALIAS),
                poptStrerror(next));
        print_usage(words);
        return false;
    }
    if (!take_words(words, most))
        return false;
    if (words->count < least) {
        wrong_use(words, "expected %s", usage);
        return false;
    }
    return true;
}

void words_free(struct words *words)
{
    poptFreeContext(words->context);
}

void texts_free(const char **texts)
{
    for (size_t i = 0; texts && texts[i]; i++)
        free((void *)texts[i]);
    free(texts);
}

int cannot_open(struct words *words, const char *path)
{
    int code = tell_unopened(path);
    if (errno == ENOENT)
        print_usage(words);
    return code;
}

uint32_t moment_read(const char *text)
{
    static const struct cup_plan nothing;
    struct cup_word word;
    char line[60];
    snprintf(line, sizeof(line), "site clock %.30s%s", text,
             strchr(text, 'T') ? "" : "T00:00:00");
    return cup_read_word(&nothing, line, &word) ? 0 : word.number;
}

int32_t tank_holds(const struct cup_plan *plan, cup_index thing,
                   cup_value pct100)
{
    const struct cup_tank *tank = cup_tank_of(plan, thing);
    if (tank->form == CUP_TANK_FLOATS)
        return -1;
    int64_t all =
        (int64_t)cup_tank_volume_ml(tank, 0) + cup_tank_ullage_ml(tank, 0);
    return (int32_t)(all * pct100 / CUP_TANK_FULL);
}

struct cup_file *site_of_text(const char *path, const char *text)
{
    /* no stream is empty: an end of line says no more than nothing does */
    const char *more = *text ? text : "\n";
    FILE *in = fmemopen((void *)more, strlen(more), "r");
    struct cup_file *file = in ? cup_file_read_from(in, path) : NULL;
    if (!file)
        abort();
    fclose(in);
    return file;
}

void print_wrapped(FILE *out, const char *first, const char *text)
{
    size_t at = strlen(first);
    size_t indent = at;
    fputs(first, out);
    while (*text) {
        size_t word = strcspn(text, " ");
        if (at > indent && at + 1 + word > WIDTH) {
            fprintf(out, "\n%*s", (int)indent, "");
            at = indent;
        } else if (at > indent) {
            fputc(' ', out);
            at++;
        }
        fprintf(out, "%.*s", (int)word, text);
        at += word;
        text += word;
        text += strspn(text, " ");
    }
    fputc('\n', out);
}

bool site_text_holds(const char *path, const char *text)
{
    struct cup_file *file = site_of_text(path, text);
    bool holds = cup_file_errors(file) == 0;
    if (!holds)
        cup_file_problems(file, stderr);
    cup_file_free(file);
    return holds;
}

int site_open(struct site *site, struct words *words)
{
    int code = site_read(site, words->list[0]);
    if (!site->file && errno == ENOENT)
        print_usage(words);
    return code;
}
