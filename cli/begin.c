/* cuplatch begin [SHAPE]: a first site file, and the garden to rehearse it
 * with. Asks for what has to be measured, or takes it from --set. */
#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/edit.h"
#include "../grammar/problems.h"
#include "common/cli.h"
#include "shapes/shapes.h"

#define NAME_SIZE 25

struct shape {
    const char *name;
    const char *help;
    const char *site;
    const char *garden;
};

static const struct shape shapes[] = {
#define X(name, help) {#name, help, shape_##name##_site, shape_##name##_garden},
    SHAPES(X)
#undef X
};
#define SHAPES_COUNT (sizeof(shapes) / sizeof(shapes[0]))

/* A pair of files in the making. */
struct start {
    const struct shape *shape;
    char site_path[PATH_MAX];
    char garden_path[PATH_MAX];
    char *site;
    char *garden;
    bool asks;
};

/* What a person says to a question, in `line`; false at the end of input. */
static bool ask(const char *question, const char *otherwise, char **line,
                size_t *size)
{
    if (otherwise)
        printf("%s [%s]: ", question, otherwise);
    else
        printf("%s: ", question);
    fflush(stdout);
    ssize_t length = getline(line, size, stdin);
    if (length < 0 || !isatty(STDIN_FILENO))
        putchar('\n');
    if (length < 0)
        return false;
    while (length > 0 && strchr(" \t\r\n", (*line)[length - 1]))
        (*line)[--length] = '\0';
    return true;
}

static void list_shapes(FILE *out)
{
    for (size_t i = 0; i < SHAPES_COUNT; i++)
        fprintf(out, "  %-8s %s\n", shapes[i].name, shapes[i].help);
}

/* Null, which was told, when there is none of the name. */
static const struct shape *find_shape(const char *name)
{
    const char *names[SHAPES_COUNT + 1] = {NULL};
    for (size_t i = 0; i < SHAPES_COUNT; i++) {
        names[i] = shapes[i].name;
        if (strcmp(names[i], name) == 0)
            return &shapes[i];
    }
    const char *near = nearest_word(name, names);
    fprintf(stderr, "cuplatch: there is no shape \"%s\"; ", name);
    if (near)
        fprintf(stderr, "did you mean %s? ", near);
    fprintf(stderr, "There are\n");
    list_shapes(stderr);
    return NULL;
}

static const struct shape *ask_shape(void)
{
    char *line = NULL;
    size_t size = 0;
    const struct shape *shape = NULL;
    printf("Which of these is nearest to yours?\n");
    list_shapes(stdout);
    while (!shape && ask("Shape", NULL, &line, &size))
        if (*line)
            shape = find_shape(line);
    free(line);
    return shape;
}

/* The value of a key in a text, of a site or a garden; null when it has none.
 * The caller frees it. */
static char *value_in(const char *text, const char *thing, const char *key)
{
    struct cup_file *file = site_of_text("", text);
    const char *value = cup_file_value(file, thing, key);
    char *copy = value ? strdup(value) : NULL;
    cup_file_free(file);
    return copy;
}

static bool has_key(const char *text, const char *thing, const char *key)
{
    char *value = value_in(text, thing, key);
    free(value);
    return value != NULL;
}

/* Puts an edit into one of the two texts. */
static void edit(char **text, struct cup_edit edit)
{
    char *changed = cup_edit_text(*text, &edit, 1);
    if (!changed)
        abort(); /* its thing is there */
    free(*text);
    *text = changed;
}

/* The garden has what can be touched under the same names; a tank's gap is its
 * sensor's there. */
static void set_in_garden(struct start *start, struct cup_edit change)
{
    char *sensor = value_in(start->site, change.thing, "sensor");
    if (!has_key(start->garden, change.thing, change.key) && sensor)
        change.thing = sensor;
    if (has_key(start->garden, change.thing, change.key))
        edit(&start->garden, change);
    free(sensor);
}

/* What a ranger can read goes with the tank below it. */
static void fit_ranger(struct start *start, const char *tank)
{
    int low;
    int high;
    char range[32];
    struct cup_file *file = site_of_text(start->site_path, start->site);
    if (cup_file_range(file, tank, &low, &high)) {
        snprintf(range, sizeof(range), "%d..%d", low, high);
        edit(&start->site,
             (struct cup_edit){cup_file_value(file, tank, "sensor"),
                               "plausible", range});
    }
    cup_file_free(file);
}

/* Changes a key in both; false, which was told, when that would be wrong. */
static bool set(struct start *start, const char *thing, const char *key,
                const char *value)
{
    struct cup_edit change = {thing, key, value};
    char *text = cup_edit_text(start->site, &change, 1);
    if (!text)
        fprintf(stderr, "cuplatch: there is no [%s] in the shape %s\n", thing,
                start->shape->name);
    if (!text || !site_text_holds(start->site_path, text)) {
        free(text);
        return false;
    }
    free(start->site);
    start->site = text;
    set_in_garden(start, change);
    fit_ranger(start, thing);
    return true;
}

/* "tank.diameter=800mm" */
static bool take_set(struct start *start, const char *given)
{
    char thing[NAME_SIZE];
    char key[NAME_SIZE];
    int used = 0;
    if (sscanf(given, "%24[A-Za-z0-9_-].%24[a-z_]=%n", thing, key, &used) ==
            2 &&
        used > 0 && given[used])
        return set(start, thing, key, given + used);
    fprintf(stderr,
            "cuplatch: --set %s: expected THING.KEY=VALUE, such as "
            "tank.depth=900mm\n",
            given);
    return false;
}

/* Asks until the answer can stand; false at the end of input. */
static bool ask_value(struct start *start, const char *thing, const char *key,
                      const char *question)
{
    char *was = value_in(start->site, thing, key);
    char *line = NULL;
    size_t size = 0;
    bool said = was != NULL;
    bool stands = false;
    while (said && !stands) {
        said = ask(question, was, &line, &size);
        stands = said && (!*line || set(start, thing, key, line));
    }
    free(line);
    free(was);
    return stands;
}

/* One line of a shape: a section begins, or something is to be measured. */
static bool take_line(struct start *start, char *thing, const char *line)
{
    char key[NAME_SIZE];
    char hint[80] = "";
    char question[160];
    const char *measure = strstr(line, "; measure");
    if (sscanf(line, "[%24[A-Za-z0-9_-]]", key) == 1)
        snprintf(thing, NAME_SIZE, "%s", key);
    if (!measure || line[0] == ';' || sscanf(line, "%24[a-z_] =", key) != 1)
        return true;
    sscanf(measure, "; measure: %79[^\n]", hint);
    snprintf(question, sizeof(question), "%s, %s%s%s%s", thing, key,
             *hint ? " (" : "", hint, *hint ? ")" : "");
    return ask_value(start, thing, key, question);
}

static bool ask_all(struct start *start)
{
    char thing[NAME_SIZE] = "site";
    char *text = strdup(start->site);
    if (!text)
        abort();
    printf("Measure each of these, or press return for what is in brackets.\n");
    bool good = ask_value(start, "site", "name", "Its name");
    char *rest = text;
    for (char *line; good && (line = strtok_r(rest, "\n", &rest));)
        good = take_line(start, thing, line);
    free(text);
    return good;
}

static int is_there(const char *path)
{
    fprintf(stderr,
            "cuplatch: %s is there already, and stays as it is; say -o for "
            "another name\n",
            path);
    return EXIT_USAGE;
}

/* Writes what was not there before. */
static bool write_new(const char *path, const char *text)
{
    int file = open(path, O_WRONLY | O_CREAT | O_EXCL, 0644);
    FILE *out = file < 0 ? NULL : fdopen(file, "w");
    bool good =
        out && fputs(text, out) >= 0 && fflush(out) == 0 && fsync(file) == 0;
    int why = errno;
    if (out)
        fclose(out);
    if (good)
        return true;
    if (out)
        unlink(path);
    if (why == EEXIST)
        is_there(path);
    else
        tell_failure(path, why);
    return false;
}

static int write_both(const struct start *start)
{
    const char *site = start->site_path;
    const char *garden = start->garden_path;
    if (!write_new(site, start->site))
        return EXIT_OUTSIDE;
    if (!write_new(garden, start->garden)) {
        unlink(site);
        return EXIT_OUTSIDE;
    }
    printf(
        "Written: %s and %s.\n\nNext\n"
        "  cuplatch check %s\n    what it will do, and never do\n"
        "  cuplatch look %s\n    watch each sensor alone\n"
        "  cuplatch calibrate %s SENSOR\n    dry and wet, or empty and full\n"
        "  cuplatch rehearse %s --garden %s --days 7\n"
        "    a week in seconds, before any water flows\n",
        site, garden, site, site, site, site, garden);
    return EXIT_DONE;
}

/* "pot.ini" has its garden in "pot.garden.ini". */
static void name_files(struct start *start, const char *path)
{
    size_t length = strlen(path);
    if (length > 4 && strcmp(path + length - 4, ".ini") == 0)
        length -= 4;
    snprintf(start->site_path, sizeof(start->site_path), "%.*s.ini",
             (int)length, path);
    snprintf(start->garden_path, sizeof(start->garden_path), "%.*s.garden.ini",
             (int)length, path);
}

/* Sets what is known, asks for the rest, and writes. */
static int fill(struct start *start, const char *const *sets, int count)
{
    for (int i = 0; i < count; i++)
        if (!take_set(start, sets[i]))
            return EXIT_USAGE;
    if (!start->asks || ask_all(start))
        return write_both(start);
    fprintf(stderr, "cuplatch: nothing was written\n");
    return EXIT_NO;
}

static int make(struct start *start, const char *path, const char *const *sets,
                int count)
{
    name_files(start, path ? path : start->shape->name);
    if (access(start->site_path, F_OK) == 0)
        return is_there(start->site_path);
    if (access(start->garden_path, F_OK) == 0)
        return is_there(start->garden_path);
    start->site = strdup(start->shape->site);
    start->garden = strdup(start->shape->garden);
    if (!start->site || !start->garden)
        abort();
    int code = fill(start, sets, count);
    free(start->site);
    free(start->garden);
    return code;
}

int begin_main(int argc, const char **argv)
{
    char *path = NULL;
    const char **sets = NULL;
    int yes = 0;
    int count = 0;
    struct poptOption options[] = {
        {"output", 'o', POPT_ARG_STRING, &path, 0,
         "the site file; its garden is written beside it", "SITE"},
        {"set", 's', POPT_ARG_ARGV, &sets, 0,
         "a value that you know already, such as tank.depth=900mm",
         "THING.KEY=VALUE"},
        {"yes", 'y', POPT_ARG_NONE, &yes, 0, "ask nothing", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    struct start start = {0};
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "[SHAPE] [-o SITE]", 0, 1)) {
        while (sets && sets[count])
            count++;
        if (words.count == 1)
            start.shape = find_shape(words.list[0]);
        else if (yes)
            wrong_use(&words, "--yes needs a %s", "SHAPE");
        else
            start.shape = ask_shape();
        start.asks = !yes;
        if (start.shape)
            code = make(&start, path, sets, count);
    }
    texts_free(sets);
    free(path);
    words_free(&words);
    return code;
}
