/* Which two ends a sensor needs, by what it measures and how; and the change in
 * the file that comes of a calibration. */
#include "calibration.h"

#include <string.h>

static void name_ends(struct calibration *calibration, const char *one,
                      const char *other)
{
    if (!calibration->ends[0].name)
        calibration->ends[0].name = one;
    if (!calibration->ends[1].name)
        calibration->ends[1].name = other;
}

/* Forms whose raw value is what a maker's data sheet says, and no more. */
static bool speaks_for_itself(uint8_t form)
{
    return form != CUP_FORM_COUNTS && form != CUP_FORM_WORD12 &&
           form != CUP_FORM_VOLTS && form != CUP_FORM_LOOP;
}

static enum way way_by_itself(const struct calibration *calibration)
{
    const struct cup_sensor *sensor = sensor_of(calibration);
    if (sensor->unit == CUP_UNIT_MM && calibration->tank != CUP_NONE)
        return WAY_TANK;
    if (speaks_for_itself(sensor->form))
        return WAY_NONE;
    if (sensor->unit == CUP_UNIT_PERCENT && !said(calibration, "points"))
        return WAY_MARKS;
    return WAY_POINTS;
}

/* Tells what a sensor needs instead of what it was given. */
static int refuse(const struct calibration *calibration, const char *why)
{
    fprintf(stderr, "cuplatch: %s %s\n", name_of(calibration), why);
    return EXIT_USAGE;
}

static int refuse_form(const struct calibration *calibration)
{
    const struct cup_sensor *sensor = sensor_of(calibration);
    if (sensor->form == CUP_FORM_SWITCH)
        return refuse(calibration,
                      "is a switch: it has no marks to find. Work it by hand, "
                      "and watch it with: cuplatch look");
    if (sensor->form == CUP_FORM_PULSES)
        return refuse(calibration,
                      "counts pulses: let a measured volume run through, and "
                      "set per_litre to the pulses of one litre");
    if (sensor->unit == CUP_UNIT_MM)
        return refuse(calibration,
                      "measures a distance by itself, and is the sensor of no "
                      "tank: there is nothing to find. Watch it with: "
                      "cuplatch look");
    return refuse(calibration,
                  "says its value by itself: there is nothing to find. Watch "
                  "it with: cuplatch look");
}

/* Whether the ends that were asked for are such as the sensor can have. */
static int check_way(const struct calibration *calibration)
{
    uint8_t unit = sensor_of(calibration)->unit;
    if (calibration->way == WAY_NONE)
        return refuse_form(calibration);
    if (calibration->way == WAY_TANK && calibration->tank == CUP_NONE)
        return unit == CUP_UNIT_MM
                   ? refuse_form(calibration)
                   : refuse(calibration,
                            "measures no distance over a tank: empty and full "
                            "are for those. Give two known values: --low "
                            "VALUE=N,N,N --high VALUE=N,N,N");
    if (calibration->way != WAY_TANK &&
        speaks_for_itself(sensor_of(calibration)->form))
        return refuse_form(calibration);
    if (calibration->way == WAY_MARKS && unit != CUP_UNIT_PERCENT)
        return refuse(calibration,
                      "is not measured in %: dry and wet are for what is. Give "
                      "two known values: --low VALUE=N,N,N --high "
                      "VALUE=N,N,N");
    return EXIT_DONE;
}

int calibration_choose(struct calibration *calibration)
{
    const char *measures = said(calibration, "measures");
    bool level = measures && strcmp(measures, "level") == 0;
    if (calibration->way == WAY_NONE)
        calibration->way = way_by_itself(calibration);
    if (calibration->way == WAY_TANK &&
        sensor_of(calibration)->unit == CUP_UNIT_PERCENT) {
        calibration->way = WAY_MARKS; /* of a level strip */
        level = true;
    }
    if (calibration->way == WAY_TANK)
        name_ends(calibration, "empty", "full");
    else if (calibration->way == WAY_POINTS)
        name_ends(calibration, "low", "high");
    else
        name_ends(calibration, level ? "empty" : "dry", level ? "full" : "wet");
    return check_way(calibration);
}

/* The change */

static void show_edit(const struct cup_file *file, const struct cup_edit *edit)
{
    const char *was = cup_file_value(file, edit->thing, edit->key);
    printf("[%s] %s = %s (%s%s)\n", edit->thing, edit->key, edit->value,
           was ? "was " : "new", was ? was : "");
}

static bool agreed(struct calibration *calibration, const char *path)
{
    char question[160];
    snprintf(question, sizeof(question), "Write this into %.120s?", path);
    return calibration->yes || samples_agreed(&calibration->sampling, question);
}

int calibration_write(struct calibration *calibration,
                      const struct edits *edits)
{
    char why[200];
    const char *path = calibration->words->list[0];
    for (size_t i = 0; i < edits->count; i++)
        show_edit(calibration->site.file, &edits->list[i]);
    if (!agreed(calibration, path)) {
        printf("Nothing was changed.\n");
        return EXIT_NO;
    }
    switch (cup_file_edit(path, edits->list, edits->count, site_text_holds, why,
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

int calibration_wrong_samples(const struct end *end)
{
    if (*end->wrong)
        fprintf(stderr,
                "cuplatch: %s: \"%s\" is not a whole number; expected raw "
                "values, such as 2905,2911,2908\n",
                end->name, end->wrong);
    else
        fprintf(stderr,
                "cuplatch: %s: %zu raw value%s; at least %d are needed, and %d "
                "or more are better\n",
                end->name, end->count, end->count == 1 ? "" : "s",
                SAMPLES_LEAST, SAMPLES_FEW);
    return EXIT_USAGE;
}
