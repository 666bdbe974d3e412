/* cuplatch calibrate SITE SENSOR: two ends, so many samples each, and what
 * they mean for the site file. Samples are given as options, typed at the
 * terminal, or taken from the lines stream. */
#include <ctype.h>
#include <errno.h>
#include <inttypes.h>
#include <jansson.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/edit.h"
#include "../ports/lines/reader.h"
#include "cli.h"
#include "cuplatch/say.h"

#define SAMPLES_MOST 1000
#define SAMPLES_LEAST 3

/* One end of a calibration: what it is called, and what was read there. */
struct end {
    const char *name;  /* "dry" */
    const char *given; /* "2900,2910,2905", or null */
    const char *value; /* of a known point: "30%" */
    double samples[SAMPLES_MOST];
    size_t count;
    double mean;
    double noise;
    double low;
    double high;
};

struct calibration {
    struct site site;
    struct words *words;
    cup_index sensor;
    struct end ends[2];
    struct reader in;
    FILE *answers; /* where a person answers; null when nobody is asked */
    size_t wanted;
    bool lines;
    bool yes;
};

/* Samples */

static bool add_sample(struct end *end, double raw)
{
    if (end->count == SAMPLES_MOST)
        return false;
    end->samples[end->count++] = raw;
    return true;
}

/* Numbers apart by commas or blanks; false at anything else. */
static bool read_samples(struct end *end, const char *text)
{
    while (*text) {
        char *rest;
        long raw = strtol(text, &rest, 10);
        if (rest == text || !add_sample(end, (double)raw))
            return false;
        text = rest + strspn(rest, ", \t\r\n");
        if (*text && !isdigit((unsigned char)*text) && *text != '-')
            return false;
    }
    return true;
}

static bool ask_typed(struct calibration *calibration, struct end *end)
{
    fprintf(stderr,
            "%s: put the sensor there and type %zu or more raw values, an "
            "empty line ends:\n",
            end->name, calibration->wanted);
    while (end->count == 0 || end->count < calibration->wanted) {
        if (reader_next(&calibration->in) != READER_LINE)
            return false;
        if (*calibration->in.text == '\0')
            return true;
        if (!read_samples(end, calibration->in.text))
            fprintf(stderr, "expected whole numbers\n");
    }
    return true;
}

static bool take_line(struct end *end, const char *name, const char *line)
{
    json_t *json = json_loads(line, 0, NULL);
    json_t *raw = json_object_get(json_object_get(json, "raw"), name);
    bool given = json_is_integer(raw);
    if (given)
        add_sample(end, (double)json_integer_value(raw));
    json_decref(json);
    return given;
}

/* A line of the stream; one that is too long is passed over. */
static bool next_line(struct calibration *calibration)
{
    enum reader_got got;
    do {
        got = reader_next(&calibration->in);
    } while (got == READER_TOO_LONG);
    if (got == READER_FAILED)
        fprintf(stderr, "\ncuplatch: standard input: %s\n", strerror(errno));
    return got == READER_LINE;
}

static bool ask_lines(struct calibration *calibration, struct end *end)
{
    char line[80];
    const struct cup_plan *plan = calibration->site.site.plan;
    if (calibration->answers) {
        fprintf(stderr,
                "%s: put the sensor there, then press Enter: ", end->name);
        if (!fgets(line, sizeof(line), calibration->answers))
            return false;
        reader_drop(&calibration->in);
    }
    while (end->count < calibration->wanted && next_line(calibration))
        if (take_line(end, plan->names[calibration->sensor],
                      calibration->in.text))
            fprintf(stderr, "\r%zu of %zu ", end->count, calibration->wanted);
    fputc('\n', stderr);
    return end->count == calibration->wanted;
}

static void measure_end(struct end *end)
{
    double sum = 0;
    double square = 0;
    end->low = end->high = end->samples[0];
    for (size_t i = 0; i < end->count; i++) {
        sum += end->samples[i];
        end->low = fmin(end->low, end->samples[i]);
        end->high = fmax(end->high, end->samples[i]);
    }
    end->mean = sum / (double)end->count;
    for (size_t i = 0; i < end->count; i++)
        square += pow(end->samples[i] - end->mean, 2);
    if (end->count > 1)
        end->noise = sqrt(square / (double)(end->count - 1));
}

static int take_end(struct calibration *calibration, struct end *end)
{
    bool right;
    if (end->given)
        right = read_samples(end, end->given);
    else if (calibration->lines)
        right = ask_lines(calibration, end);
    else
        right = ask_typed(calibration, end);
    if (!right || end->count < SAMPLES_LEAST)
        return wrong_use(calibration->words,
                         "%s: expected at least 3 raw values, such as "
                         "2905,2911,2908",
                         end->name);
    measure_end(end);
    printf("%-6s %zu samples, mean %.1f, %.0f to %.0f, noise %.1f\n", end->name,
           end->count, end->mean, end->low, end->high, end->noise);
    return EXIT_DONE;
}

/* What the samples are worth */

static bool far_enough(const struct end *ends)
{
    double span = fabs(ends[0].mean - ends[1].mean);
    double noise = fmax(ends[0].noise, ends[1].noise);
    printf("span   %.1f raw", span);
    if (noise > 0)
        printf(", %.0f times the noise", span / noise);
    printf("\n");
    if (lround(ends[0].mean) == lround(ends[1].mean)) {
        printf("%s and %s read the same: is the sensor connected, and was it "
               "moved? Nothing was changed.\n",
               ends[0].name, ends[1].name);
        return false;
    }
    if (span >= 10 * noise)
        return true;
    printf("The span is under ten times the noise, too little to tell %s from "
           "%s. Check the wiring, take more samples, or move the ends further "
           "apart. Nothing was changed.\n",
           ends[0].name, ends[1].name);
    return false;
}

/* The change */

struct edits {
    struct cup_edit list[2];
    char values[2][80];
    size_t count;
};

static void add_edit(struct edits *edits, const char *thing, const char *key)
{
    edits->list[edits->count] =
        (struct cup_edit){thing, key, edits->values[edits->count]};
    edits->count++;
}

static void edit_dry_wet(const struct calibration *calibration,
                         struct edits *edits, const char *thing)
{
    for (size_t i = 0; i < 2; i++) {
        snprintf(edits->values[i], sizeof(edits->values[i]), "%ld",
                 lround(calibration->ends[i].mean));
        add_edit(edits, thing, calibration->ends[i].name);
    }
}

static void edit_points(const struct calibration *calibration,
                        struct edits *edits, const char *thing)
{
    const struct end *ends = calibration->ends;
    snprintf(edits->values[0], sizeof(edits->values[0]), "%ld:%.20s %ld:%.20s",
             lround(ends[0].mean), ends[0].value, lround(ends[1].mean),
             ends[1].value);
    add_edit(edits, thing, "points");
}

/* The distance a raw mean stands for, in tenths of a millimetre. */
static int32_t distance_of(const struct calibration *calibration, double raw)
{
    const struct cup_site *site = &calibration->site.site;
    cup_site_hear(site, calibration->sensor, 0,
                  (struct cup_sample){.raw = (int32_t)lround(raw)});
    return cup_site_latest(site, calibration->sensor);
}

static bool edit_tank(const struct calibration *calibration,
                      struct edits *edits)
{
    const struct cup_plan *plan = calibration->site.site.plan;
    cup_index tank = 0;
    while (tank < plan->tank_count &&
           plan->tanks[tank].sensor != calibration->sensor)
        tank++;
    if (tank == plan->tank_count)
        return false;
    const char *thing = plan->names[cup_tank_thing(plan, tank)];
    int32_t empty = distance_of(calibration, calibration->ends[0].mean);
    int32_t full = distance_of(calibration, calibration->ends[1].mean);
    const int32_t mm10[] = {empty - full, full};
    static const char *const keys[] = {"depth", "gap"};
    for (size_t i = 0; i < 2; i++) {
        snprintf(edits->values[i], sizeof(edits->values[i]), "%gmm",
                 mm10[i] / 10.0);
        add_edit(edits, thing, keys[i]);
    }
    return true;
}

static bool make_edits(const struct calibration *calibration,
                       struct edits *edits)
{
    const char *thing = calibration->site.site.plan->names[calibration->sensor];
    if (strcmp(calibration->ends[0].name, "empty") == 0)
        return edit_tank(calibration, edits);
    if (calibration->ends[0].value)
        edit_points(calibration, edits, thing);
    else
        edit_dry_wet(calibration, edits, thing);
    return true;
}

static bool agreed(struct calibration *calibration)
{
    char line[20];
    if (calibration->yes)
        return true;
    if (!calibration->answers)
        return false;
    fprintf(stderr, "Write this into %s? [y/N] ", calibration->words->list[0]);
    if (calibration->lines)
        return fgets(line, sizeof(line), calibration->answers) &&
               (*line == 'y' || *line == 'Y');
    return reader_next(&calibration->in) == READER_LINE &&
           (*calibration->in.text == 'y' || *calibration->in.text == 'Y');
}

/* A change that the file would not survive is not made. */
static bool holds(const char *path, const char *text)
{
    size_t length = strlen(text);
    FILE *in = length ? fmemopen((void *)text, length, "r") : NULL;
    struct cup_file *file = in ? cup_file_read_from(in, path) : NULL;
    bool right = file && cup_file_errors(file) == 0;
    if (file && !right)
        cup_file_problems(file, stderr);
    if (in)
        fclose(in);
    cup_file_free(file);
    return right;
}

static void show_edit(const struct cup_file *file, const struct cup_edit *edit)
{
    const char *was = cup_file_value(file, edit->thing, edit->key);
    printf("[%s] %s = %s (%s%s)\n", edit->thing, edit->key, edit->value,
           was ? "was " : "new", was ? was : "");
}

static int write_edits(struct calibration *calibration,
                       const struct edits *edits)
{
    char why[200];
    const char *path = calibration->words->list[0];
    for (size_t i = 0; i < edits->count; i++)
        show_edit(calibration->site.file, &edits->list[i]);
    if (!agreed(calibration)) {
        printf("Nothing was changed.\n");
        return EXIT_NO;
    }
    switch (cup_file_edit(path, edits->list, edits->count, holds, why,
                          sizeof(why))) {
    case CUP_EDIT_DONE:
        printf("Written to %s.\n", path);
        return EXIT_DONE;
    case CUP_EDIT_UNFIT:
        printf("The file would have errors; nothing was changed.\n");
        return EXIT_NO;
    default:
        fprintf(stderr, "cuplatch: %s: %s; nothing was changed\n", path, why);
        return EXIT_OUTSIDE;
    }
}

static bool mixed_up(const struct calibration *calibration)
{
    const struct end *ends = calibration->ends;
    return strcmp(ends[0].name, "empty") == 0 && ends[0].mean < ends[1].mean;
}

static int run(struct calibration *calibration)
{
    struct edits edits = {.count = 0};
    for (size_t i = 0; i < 2; i++) {
        int code = take_end(calibration, &calibration->ends[i]);
        if (code != EXIT_DONE)
            return code;
    }
    if (!far_enough(calibration->ends))
        return EXIT_NO;
    if (mixed_up(calibration)) {
        printf("The empty tank reads nearer than the full one; were they "
               "mixed up? Nothing was changed.\n");
        return EXIT_NO;
    }
    if (!make_edits(calibration, &edits))
        return wrong_use(calibration->words,
                         "%s: no tank has this sensor; empty and full are for "
                         "tanks",
                         calibration->words->list[1]);
    return write_edits(calibration, &edits);
}

/* The command line */

/* Both ends of one pair of options, or none. */
static bool choose_pair(struct calibration *calibration, const char *one,
                        char *first, const char *two, char *second)
{
    if (!first && !second)
        return false;
    calibration->ends[0].name = one;
    calibration->ends[0].given = first;
    calibration->ends[1].name = two;
    calibration->ends[1].given = second;
    return true;
}

/* "30%=2100,2090" into its value and its samples. */
static bool split_point(struct end *end, char *text)
{
    char *equals = text ? strchr(text, '=') : NULL;
    if (!equals)
        return false;
    *equals = '\0';
    end->name = end->value = text;
    end->given = equals + 1;
    return true;
}

static bool find_sensor(struct calibration *calibration)
{
    const struct cup_plan *plan = calibration->site.site.plan;
    const char *name = calibration->words->list[1];
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (strcmp(plan->names[i], name) == 0) {
            calibration->sensor = i;
            return true;
        }
    return false;
}

static void default_ends(struct calibration *calibration)
{
    const struct cup_plan *plan = calibration->site.site.plan;
    bool tank = plan->sensors[calibration->sensor].unit == CUP_UNIT_MM;
    calibration->ends[0].name = tank ? "empty" : "dry";
    calibration->ends[1].name = tank ? "full" : "wet";
}

static int calibrate(struct calibration *calibration)
{
    int code = site_open(&calibration->site, calibration->words);
    if (code == EXIT_DONE && !find_sensor(calibration))
        code = wrong_use(calibration->words, "%s: no such sensor",
                         calibration->words->list[1]);
    else if (code == EXIT_DONE) {
        if (!calibration->ends[0].name)
            default_ends(calibration);
        code = run(calibration);
    }
    site_close(&calibration->site);
    return code;
}

struct options {
    char *dry, *wet, *empty, *full, *low, *high;
    int samples, lines, yes;
};

static void free_options(struct options *options)
{
    free(options->dry);
    free(options->wet);
    free(options->empty);
    free(options->full);
    free(options->low);
    free(options->high);
}

/* Which two ends the options name; false when they do not fit together. */
static bool choose_ends(struct calibration *calibration,
                        struct options *options)
{
    if (options->low || options->high)
        return split_point(&calibration->ends[0], options->low) &&
               split_point(&calibration->ends[1], options->high);
    if (!choose_pair(calibration, "dry", options->dry, "wet", options->wet))
        choose_pair(calibration, "empty", options->empty, "full",
                    options->full);
    return true;
}

static int choose(struct calibration *calibration, struct options *options)
{
    struct words *words = calibration->words;
    calibration->wanted = (size_t)options->samples;
    calibration->lines = options->lines;
    calibration->yes = options->yes;
    if (options->samples < SAMPLES_LEAST || options->samples > SAMPLES_MOST)
        return wrong_use(words, "%s takes 3 to 1000", "--samples");
    if (!choose_ends(calibration, options))
        return wrong_use(words, "%s: expected both, each VALUE=N,N,N",
                         "--low, --high");
    if (!options->yes)
        calibration->answers = options->lines ? fopen("/dev/tty", "r") : stdin;
    calibration->in = (struct reader){.in = stdin, .stop_fd = -1};
    int code = calibrate(calibration);
    reader_free(&calibration->in);
    if (calibration->answers && options->lines)
        fclose(calibration->answers);
    return code;
}

int calibrate_main(int argc, const char **argv)
{
    struct options given = {.samples = 20};
    struct poptOption options[] = {
        {"dry", 0, POPT_ARG_STRING, &given.dry, 0, "raw values, dry", "N,N,N"},
        {"wet", 0, POPT_ARG_STRING, &given.wet, 0, "raw values, wet", "N,N,N"},
        {"empty", 0, POPT_ARG_STRING, &given.empty, 0,
         "raw values over an empty tank", "N,N,N"},
        {"full", 0, POPT_ARG_STRING, &given.full, 0,
         "raw values over a full tank", "N,N,N"},
        {"low", 0, POPT_ARG_STRING, &given.low, 0,
         "a known value and its raw values, such as 20%=2400,2410,2405",
         "VALUE=N,N,N"},
        {"high", 0, POPT_ARG_STRING, &given.high, 0, "another", "VALUE=N,N,N"},
        {"samples", 'n', POPT_ARG_INT, &given.samples, 0,
         "how many to take at each end; 20 if not given", "N"},
        {"lines", 0, POPT_ARG_NONE, &given.lines, 0,
         "take them from JSON lines on stdin", NULL},
        {"yes", 'y', POPT_ARG_NONE, &given.yes, 0, "ask nothing, write at once",
         NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    struct calibration *calibration = calloc(1, sizeof(*calibration));
    if (!calibration)
        return EXIT_OUTSIDE;
    calibration->words = &words;
    if (words_read(&words, argc, argv, options, "SITE SENSOR", 2, 2))
        code = choose(calibration, &given);
    free_options(&given);
    free(calibration);
    words_free(&words);
    return code;
}
