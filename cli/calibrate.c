/* cuplatch calibrate SITE SENSOR: two ends, so many samples each, and what
 * they mean for the site file. Which two ends a sensor needs follows from what
 * it measures and how; one that needs none is told so at once. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/edit.h"
#include "../grammar/quantity.h"
#include "calibrate/calibration.h"
#include "cuplatch/echo.h"
#include "cuplatch/say.h"
#include "look/feed.h"

/* A tank is at least so deep. */
#define DEPTH_LEAST_MM10 100

/* Samples */

/* The known value of an end, asked for if need be. */
static int read_known(struct calibration *calibration, int which)
{
    struct end *end = &calibration->ends[which];
    uint8_t unit = sensor_of(calibration)->unit;
    static const char *const examples[CUP_UNIT_COUNT] = {
        [CUP_UNIT_PERCENT] = "20%", [CUP_UNIT_MM] = "350mm",
        [CUP_UNIT_CELSIUS] = "18C", [CUP_UNIT_PASCAL] = "1.2bar",
        [CUP_UNIT_VOLT] = "12.4V",  [CUP_UNIT_AMPERE] = "300mA",
        [CUP_UNIT_FLOW] = "9L/min"};
    const char *example = examples[unit] ? examples[unit] : "20";
    if (!*end->value &&
        !samples_ask_value(&calibration->sampling, end, example)) {
        fprintf(stderr,
                "cuplatch: %s: what its value is there was not said; give "
                "--%s VALUE=N,N,N\n",
                end->name, end->name);
        return EXIT_USAGE;
    }
    const char *wrong = quantity_read(end->value, (enum cup_unit)unit,
                                      &calibration->known[which]);
    if (!wrong)
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: %s: %s: %s\n", end->name, end->value, wrong);
    return EXIT_USAGE;
}

static int take_end(struct calibration *calibration, int which)
{
    struct end *end = &calibration->ends[which];
    int code = calibration->way == WAY_POINTS ? read_known(calibration, which)
                                              : EXIT_DONE;
    if (code != EXIT_DONE)
        return code;
    if (!samples_take(&calibration->sampling, end))
        return calibration_wrong_samples(end);
    printf("%-6s %zu samples, mean %.1f, %.0f to %.0f, noise %.1f\n",
           calibration->way == WAY_POINTS ? end->value : end->name, end->count,
           end->mean, end->low, end->high, end->noise);
    return EXIT_DONE;
}

/* What the samples are worth */

static int nothing_changed(const char *why)
{
    printf("%s Nothing was changed.\n", why);
    return EXIT_NO;
}

static int check_span(const struct end *ends)
{
    char why[200];
    double span = fabs(ends[0].mean - ends[1].mean);
    double noise = fmax(ends[0].noise, ends[1].noise);
    printf("span   %.1f raw", span);
    if (noise > 0)
        printf(", %.0f times the noise", span / noise);
    printf("\n");
    if (ends[0].count < SAMPLES_FEW || ends[1].count < SAMPLES_FEW)
        printf("These are few samples: %d or more at each end tell the noise "
               "better.\n",
               SAMPLES_FEW);
    if (lround(ends[0].mean) == lround(ends[1].mean)) {
        snprintf(why, sizeof(why),
                 "%s and %s read the same: is the sensor connected, and was it "
                 "moved?",
                 ends[0].name, ends[1].name);
        return nothing_changed(why);
    }
    if (span >= 10 * noise)
        return EXIT_DONE;
    snprintf(why, sizeof(why),
             "The span is under ten times the noise, too little to tell %s "
             "from %s. Check the wiring, take more samples, or move the ends "
             "further apart.",
             ends[0].name, ends[1].name);
    return nothing_changed(why);
}

/* The change */

static void add_edit(struct edits *edits, const char *thing, const char *key)
{
    edits->list[edits->count] =
        (struct cup_edit){thing, key, edits->values[edits->count]};
    edits->count++;
}

static int edit_marks(const struct calibration *calibration,
                      struct edits *edits, double dry, double wet)
{
    const double raw[] = {dry, wet};
    static const char *const keys[] = {"dry", "wet"};
    for (size_t i = 0; i < 2; i++) {
        if (raw[i] < 0 || raw[i] > UINT16_MAX)
            return nothing_changed("By these points 0 % or 100 % would be "
                                   "beyond any raw value; take points further "
                                   "apart.");
        snprintf(edits->values[i], sizeof(edits->values[i]), "%ld",
                 lround(raw[i]));
        add_edit(edits, name_of(calibration), keys[i]);
    }
    return EXIT_DONE;
}

/* Two known points: of a sensor that has dry and wet these are moved, on the
 * straight line through both; else they are its points. */
static int edit_points(const struct calibration *calibration,
                       struct edits *edits)
{
    const struct end *ends = calibration->ends;
    const int32_t *known = calibration->known;
    if (known[0] == known[1])
        return nothing_changed("Both ends have the same value.");
    if (said(calibration, "dry") && said(calibration, "wet")) {
        double step = (ends[1].mean - ends[0].mean) / (known[1] - known[0]);
        double dry = ends[0].mean - known[0] * step;
        return edit_marks(calibration, edits, dry, dry + 10000 * step);
    }
    snprintf(edits->values[0], sizeof(edits->values[0]), "%ld:%s %ld:%s",
             lround(ends[0].mean), ends[0].value, lround(ends[1].mean),
             ends[1].value);
    add_edit(edits, name_of(calibration), "points");
    return EXIT_DONE;
}

/* The distance a raw mean stands for, in tenths of a millimetre, whatever the
 * sensor's checks say of it. */
static int32_t distance_of(const struct calibration *calibration, double raw)
{
    const struct cup_sensor_use use = {.sensor = sensor_of(calibration),
                                       .air_cdeg = CUP_ECHO_AIR_CDEG};
    return cup_sensor_convert(
        &use, (uint16_t)(lround(raw) - sensor_of(calibration)->offset));
}

static int edit_tank(const struct calibration *calibration, struct edits *edits)
{
    char why[200];
    const struct cup_plan *plan = calibration->site.site.plan;
    const struct cup_checks *checks = sensor_of(calibration)->checks;
    const char *thing = plan->names[cup_tank_thing(plan, calibration->tank)];
    int32_t empty = distance_of(calibration, calibration->ends[0].mean);
    int32_t full = distance_of(calibration, calibration->ends[1].mean);
    const int32_t mm10[] = {empty - full, full};
    static const char *const keys[] = {"depth", "gap"};
    if (empty < full)
        return nothing_changed("The empty tank reads nearer than the full one; "
                               "were they mixed up?");
    if (checks && full < checks->near) {
        snprintf(why, sizeof(why),
                 "The full tank reads %g mm, nearer than the blanking of %s, "
                 "%g mm: the sensor cannot tell that. Mount it higher, or call "
                 "the tank full lower down.",
                 full / 10.0, thing, checks->near / 10.0);
        return nothing_changed(why);
    }
    if (mm10[0] < DEPTH_LEAST_MM10) {
        snprintf(why, sizeof(why),
                 "Empty and full are only %g mm apart; is that the tank?",
                 mm10[0] / 10.0);
        return nothing_changed(why);
    }
    for (size_t i = 0; i < 2; i++) {
        snprintf(edits->values[i], sizeof(edits->values[i]), "%gmm",
                 mm10[i] / 10.0);
        add_edit(edits, thing, keys[i]);
    }
    return EXIT_DONE;
}

static int make_edits(const struct calibration *calibration,
                      struct edits *edits)
{
    if (calibration->way == WAY_TANK)
        return edit_tank(calibration, edits);
    if (calibration->way == WAY_POINTS)
        return edit_points(calibration, edits);
    return edit_marks(calibration, edits, calibration->ends[0].mean,
                      calibration->ends[1].mean);
}

static int run(struct calibration *calibration)
{
    struct edits edits = {.count = 0};
    int code = calibration_choose(calibration);
    for (int i = 0; i < 2 && code == EXIT_DONE; i++)
        code = take_end(calibration, i);
    if (code == EXIT_DONE)
        code = check_span(calibration->ends);
    if (code == EXIT_DONE)
        code = make_edits(calibration, &edits);
    return code == EXIT_DONE ? calibration_write(calibration, &edits) : code;
}

/* The command line */

static bool find_sensor(struct calibration *calibration)
{
    const struct cup_plan *plan = calibration->site.site.plan;
    calibration->tank = CUP_NONE;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (strcmp(plan->names[i], name_of(calibration)) == 0) {
            calibration->sensor = i;
            for (cup_index t = 0; t < plan->tank_count; t++)
                if (plan->tanks[t].sensor == i &&
                    plan->tanks[t].form == CUP_TANK_DISTANCE)
                    calibration->tank = t;
            return true;
        }
    return false;
}

/* Whether a sensor is made of others, which are to be calibrated instead. */
static bool is_made_of(const struct calibration *calibration)
{
    const struct cup_plan *plan = calibration->site.site.plan;
    return plan->sensors[calibration->sensor].several != NULL;
}

static int calibrate(struct calibration *calibration)
{
    int code = site_open(&calibration->site, calibration->words);
    if (code == EXIT_DONE && !find_sensor(calibration))
        code = wrong_use(calibration->words, "%s: no such sensor",
                         name_of(calibration));
    else if (code == EXIT_DONE && is_made_of(calibration))
        code = wrong_use(
            calibration->words, "it is made of %s: calibrate each of these",
            cup_file_value(calibration->site.file, name_of(calibration), "of"));
    else if (code == EXIT_DONE) {
        calibration->sampling.sensor = name_of(calibration);
        code = run(calibration);
    }
    site_close(&calibration->site);
    return code;
}

struct options {
    char *dry, *wet, *empty, *full, *low, *high, *time, *span, *until, *socket;
    struct feed_from from;
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
    free(options->time);
    free(options->span);
    free(options->socket);
    free(options->until);
    feed_forget(&options->from);
}

/* Both ends of one pair of options, or none. */
static void choose_pair(struct calibration *calibration, enum way way,
                        const char *first, const char *second)
{
    if (!first && !second)
        return;
    calibration->way = way;
    calibration->ends[0].given = first;
    calibration->ends[1].given = second;
}

/* "30%=2100,2090" into its value and its samples; false when it is none. */
static bool split_point(struct end *end, const char *text)
{
    size_t length = text ? strcspn(text, "=") : 0;
    if (length == 0 || !text[length] || length >= sizeof(end->value))
        return false;
    snprintf(end->value, sizeof(end->value), "%.*s", (int)length, text);
    end->given = text + length + 1;
    return true;
}

/* The two points given, each with its value; false when one is amiss. */
static bool choose_points(struct calibration *calibration,
                          const struct options *given)
{
    if (!given->low && !given->high)
        return true;
    calibration->way = WAY_POINTS;
    return split_point(&calibration->ends[0], given->low) &&
           split_point(&calibration->ends[1], given->high);
}

/* Which ends there are and what samples each; false after saying what is
 * wrong. */
static bool choose(struct calibration *calibration, const struct options *given)
{
    calibration->sampling.wanted = (size_t)given->samples;
    calibration->sampling.lines = given->lines;
    calibration->yes = given->yes;
    choose_pair(calibration, WAY_MARKS, given->dry, given->wet);
    choose_pair(calibration, WAY_TANK, given->empty, given->full);
    if (given->samples < SAMPLES_LEAST || given->samples > SAMPLES_MOST)
        wrong_use(calibration->words, "%s takes 3 to 1000", "--samples");
    else if (!choose_points(calibration, given))
        wrong_use(calibration->words, "%s: expected both, each VALUE=N,N,N",
                  "--low, --high");
    else
        return true;
    return false;
}

/* Calibrates with what stdin and the person at the terminal say. */
static int calibrate_from_here(struct calibration *calibration)
{
    struct sampling *sampling = &calibration->sampling;
    bool apart = sampling->lines && !calibration->yes;
    sampling->answers = stdin;
    if (calibration->yes)
        sampling->answers = NULL;
    else if (apart)
        sampling->answers = fopen("/dev/tty", "r");
    sampling->in = (struct reader){.in = stdin, .stop_fd = -1};
    int code = calibrate(calibration);
    reader_free(&sampling->in);
    if (apart && sampling->answers)
        fclose(sampling->answers);
    return code;
}

/* ... or with what this machine's sensors say. */
static int calibrate_over(struct calibration *calibration,
                          const struct feed_from *from)
{
    int code = EXIT_DONE;
    if (feed_is_wanted(from)) {
        calibration->sampling.lines = true;
        code = feed_begin(calibration->words, from);
    }
    return code == EXIT_DONE ? calibrate_from_here(calibration) : code;
}

/* A pump in the place of a sensor. */
static int time_a_pump(struct calibration *calibration,
                       const struct options *given)
{
    struct words *words = calibration->words;
    struct timing_wish wish = {given->time, given->span, given->until,
                               given->socket};
    calibration->yes = given->yes;
    calibration->sampling.answers = given->yes ? NULL : stdin;
    calibration->sampling.in = (struct reader){.in = stdin, .stop_fd = -1};
    if (words->count > 1)
        return wrong_use(words, "--time takes the place of %s", words->list[1]);
    int code = site_open(&calibration->site, words);
    if (code == EXIT_DONE)
        code = calibration_time(calibration, &wish);
    site_close(&calibration->site);
    reader_free(&calibration->sampling.in);
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
        FEED_OPTIONS(given.from),
        {"time", 0, POPT_ARG_STRING, &given.time, 0,
         "instead of a sensor: run this pump of a controller that runs, and "
         "write what it gives",
         "PUMP"},
        {"for", 0, POPT_ARG_STRING, &given.span, 0,
         "with --time: how long; 2m if not given", "TIME"},
        {"until", 0, POPT_ARG_STRING, &given.until, 0,
         "with --time: until this float answers; write how long its flood "
         "takes",
         "FLOAT"},
        {"socket", 's', POPT_ARG_STRING, &given.socket, 0,
         "with --time: where the controller listens, if more than one runs",
         "PATH"},
        {"yes", 'y', POPT_ARG_NONE, &given.yes, 0, "ask nothing, write at once",
         NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    struct calibration *calibration = calloc(1, sizeof(*calibration));
    if (!calibration)
        return EXIT_OUTSIDE;
    calibration->words = &words;
    if (!words_read(&words, argc, argv, options, "SITE SENSOR", 1, 2))
        code = EXIT_USAGE;
    else if (given.time)
        code = time_a_pump(calibration, &given);
    else if (words.count < 2)
        wrong_use(&words, "expected %s", words.usage);
    else if (choose(calibration, &given))
        code = calibrate_over(calibration, &given.from);
    free_options(&given);
    free(calibration);
    words_free(&words);
    return code;
}
