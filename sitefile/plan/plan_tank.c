/* Tanks: the shape into curves, and how the sensor's value becomes a depth. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "../inside.h"
#include "shape.h"

/* Depths over this many mm10 are kept in mm. */
#define FINE_MOST 65000
#define LITRES_MOST 1000000

/* A tank in the making. */
struct tank_making {
    struct cup_file *file;
    const struct thing *thing;
    struct cup_tank *tank;
    struct shape shape;
};

static double mm_of(const struct thing *thing, const char *key)
{
    return number_of(thing, key, 0) / 10.0;
}

/* Which keys each shape needs. */
static const char *const needed[][3] = {
    [SHAPE_UPRIGHT] = {"diameter", "depth", NULL},
    [SHAPE_BOX] = {"length", "width", "depth"},
    [SHAPE_TAPERED] = {"bottom", "top", "depth"},
    [SHAPE_LYING] = {"diameter", "length", NULL},
    [SHAPE_TABLE] = {"table", NULL, NULL},
};

static const char *const measures[] = {"diameter", "depth", "length", "width",
                                       "bottom",   "top",   "table"};

static bool is_needed(enum shape_kind kind, const char *key)
{
    if (kind == SHAPE_LYING && strcmp(key, "depth") == 0)
        return true; /* may be given: a full mark below the crown */
    for (int i = 0; i < 3 && needed[kind][i]; i++)
        if (strcmp(needed[kind][i], key) == 0)
            return true;
    return false;
}

/* Tells of measures that are missing, or that another shape has. */
static bool check_measures(const struct tank_making *making)
{
    enum shape_kind kind = making->shape.kind;
    const char *shape = value_of(making->thing, "shape")->text;
    bool right = true;
    for (int i = 0; i < 3 && needed[kind][i]; i++) {
        right &= value_of(making->thing, needed[kind][i])->good;
        if (!value_of(making->thing, needed[kind][i])->given)
            problem_error(&making->file->problems, making->thing->place,
                          "a tank of shape %s needs the key \"%s\"", shape,
                          needed[kind][i]);
    }
    for (size_t i = 0; i < sizeof(measures) / sizeof(measures[0]); i++) {
        const struct value *value = value_of(making->thing, measures[i]);
        if (value->given && !is_needed(kind, measures[i]))
            problem_error(&making->file->problems, value->place,
                          "a tank of shape %s has no %s", shape, measures[i]);
    }
    return right;
}

/* "0mm:0L 300mm:120L ..." */
static bool read_strap(struct tank_making *making, char *text)
{
    struct shape *shape = &making->shape;
    int32_t mm10;
    int32_t ml;
    char *colon = strchr(text, ':');
    if (!colon || shape->count == CUP_CURVE_POINTS)
        return false;
    *colon = '\0';
    if (quantity_read(text, CUP_UNIT_MM, &mm10) ||
        quantity_read(colon + 1, CUP_UNIT_LITRE, &ml))
        return false;
    struct strap strap = {mm10 / 10.0, ml / 1000.0};
    const struct strap *before =
        shape->count > 0 ? &shape->straps[shape->count - 1] : NULL;
    if (before ? strap.mm <= before->mm || strap.litres <= before->litres
               : mm10 != 0 || ml != 0)
        return false;
    shape->straps[shape->count++] = strap;
    return true;
}

static bool read_table(struct tank_making *making)
{
    const struct value *value = value_of(making->thing, "table");
    const char *at = value->text;
    struct scanned word;
    bool right = true;
    while (right && scan_next(&at, &word))
        right = read_strap(making, word.text);
    right = right && making->shape.count >= 2;
    if (!right)
        problem_error(&making->file->problems, value->place,
                      "expected 2 to 33 DEPTH:VOLUME pairs from 0mm:0L, each "
                      "above the one before, such as 0mm:0L 300mm:120L");
    else
        making->shape.depth = making->shape.straps[making->shape.count - 1].mm;
    return right;
}

static bool make_shape(struct tank_making *making)
{
    struct shape *shape = &making->shape;
    const struct thing *thing = making->thing;
    shape->kind = (enum shape_kind)number_of(thing, "shape", SHAPE_UPRIGHT);
    if (!good_value(thing, "shape") || !check_measures(making))
        return false;
    shape->diameter =
        mm_of(thing, shape->kind == SHAPE_TAPERED ? "bottom" : "diameter");
    shape->top = mm_of(thing, "top");
    shape->length = mm_of(thing, "length");
    shape->width = mm_of(thing, "width");
    shape->depth = mm_of(thing, "depth");
    if (shape->kind == SHAPE_TABLE)
        return read_table(making);
    if (shape->kind == SHAPE_LYING && shape->depth == 0)
        shape->depth = shape->diameter;
    bool tall = shape->kind == SHAPE_LYING && shape->depth > shape->diameter;
    if (tall)
        problem_error(&making->file->problems, value_of(thing, "depth")->place,
                      "deeper than the diameter of a lying tank");
    return !tall;
}

/* Curves */

static enum cup_error make_curve(const struct tank_making *making,
                                 size_t number, double full)
{
    const struct shape *shape = &making->shape;
    double heights[CUP_CURVE_POINTS];
    struct cup_point points[CUP_CURVE_POINTS];
    double all = shape_litres(shape, shape->depth);
    int count = shape_heights(shape, heights);
    uint8_t kept = 0;
    for (int i = 0; i < count; i++) {
        long x = lround(heights[i] * 10 / making->tank->step_mm10);
        double y = full * shape_litres(shape, heights[i]) / all;
        if (kept > 0 && x == points[kept - 1].x)
            kept--; /* too small a vessel for so many points */
        points[kept++] = (struct cup_point){(uint16_t)x, (int32_t)lround(y)};
    }
    return plan_make_curve(making->file, number, points, kept, true);
}

static void make_curves(const struct tank_making *making)
{
    size_t curve = making->file->plan.sensor_count + 2u * making->thing->index;
    double litres = shape_litres(&making->shape, making->shape.depth);
    making->tank->step_mm10 = making->shape.depth * 10 > FINE_MOST ? 10 : 1;
    if (litres > LITRES_MOST || make_curve(making, curve, CUP_TANK_FULL) ||
        make_curve(making, curve + 1, litres * 1000))
        problem_error(&making->file->problems, making->thing->place,
                      "%.0f L is more than the library can hold; are the "
                      "units right?",
                      litres);
}

/* Sensors */

static void set_rise(struct cup_tank *tank, uint32_t rise, uint32_t width)
{
    tank->rise = (struct cup_slope){
        .rise = rise,
        .width = width,
        .whole = rise / width,
        .share = (uint32_t)(((uint64_t)(rise % width) << 32) / width)};
}

/* A full mark nearer to the sensor than that can measure. */
static void check_blanking(const struct tank_making *making, int32_t depth,
                           int32_t gap)
{
    const struct value *blanking = good_value(making->thing, "blanking");
    if (!blanking || blanking->number <= gap || gap + depth <= 0)
        return;
    double blind = (blanking->number - gap) / 10.0;
    double height = making->shape.depth - blind;
    problem_error(&making->file->problems, blanking->place,
                  "more than gap: from %.0f %% up the water is too near to be "
                  "measured. Mount the sensor %.0f mm higher, or call it full "
                  "lower down: less depth, more gap",
                  height > 0
                      ? 100 * shape_litres(&making->shape, height) /
                            shape_litres(&making->shape, making->shape.depth)
                      : 0.0,
                  blind);
}

static void make_distance(const struct tank_making *making)
{
    const struct value *gap = good_value(making->thing, "gap");
    int32_t depth = (int32_t)lround(making->shape.depth * 10);
    struct place place = value_of(making->thing, "gap")->given
                             ? value_of(making->thing, "gap")->place
                             : making->thing->place;
    if (!value_of(making->thing, "gap")->given)
        problem_error(&making->file->problems, place,
                      "needs the key \"gap\": from the full mark up to the "
                      "sensor's face");
    if (!gap)
        return;
    making->tank->top = depth + gap->number;
    check_blanking(making, depth, gap->number);
    if (making->tank->top > UINT16_MAX)
        problem_error(&making->file->problems, place,
                      "depth and gap together are more than 6.5 m, farther "
                      "than a ranger sees");
}

/* Steps a Pa: 10000 / (density * 9.80665) mm10, or a tenth of that in mm. */
static void make_pressure(const struct tank_making *making)
{
    struct cup_tank *tank = making->tank;
    uint32_t density = (uint32_t)number_of(making->thing, "density", 1000);
    tank->form = CUP_TANK_PRESSURE;
    tank->top = number_of(making->thing, "above", 0) / tank->step_mm10;
    set_rise(tank, UINT32_C(100000000) / tank->step_mm10,
             (uint32_t)lround(density * 98066.5));
}

static void make_level(const struct tank_making *making)
{
    making->tank->form = CUP_TANK_LEVEL;
    set_rise(
        making->tank,
        (uint32_t)lround(making->shape.depth * 10 / making->tank->step_mm10),
        CUP_TANK_FULL);
}

static void check_beam(const struct tank_making *making,
                       const struct thing *sensor)
{
    const struct shape *shape = &making->shape;
    double wide = shape->kind == SHAPE_BOX || shape->kind == SHAPE_LYING
                      ? shape->width
                      : shape->diameter;
    const struct value *form = good_value(sensor, "form");
    /* A cone of 15 degrees: 2 tan(7.5) of the way to the floor. */
    double cone = 0.2633 * making->tank->top / 10.0;
    if (form && form->number == CUP_FORM_ECHO && wide > 0 && wide < cone)
        problem_warning(&making->file->problems, making->thing->place,
                        "narrower than the cone of a ranger of 15 degrees "
                        "at its floor, %.0f mm: expect echoes of its walls; "
                        "give the sensor a jump limit",
                        cone);
}

/* "cistern_low 15%" into a float's sensor and mark. */
static bool read_float(const struct tank_making *making, const char **at,
                       cup_index *sensor, uint16_t *mark)
{
    struct cup_file *file = making->file;
    const struct value *value = value_of(making->thing, "floats");
    struct scanned name;
    struct scanned text;
    int32_t number = 0;
    if (!scan_next(at, &name) || !scan_next(at, &text) ||
        quantity_read(text.text, CUP_UNIT_PERCENT, &number) || number <= 0 ||
        number > CUP_TANK_FULL) {
        problem_error(&file->problems, value->place,
                      "expected FLOAT MARK, one or two of them, such as "
                      "cistern_low 15%% cistern_high 90%%");
        return false;
    }
    const struct thing *found =
        things_find(&file->things, &file->problems, value->place, name.text,
                    (const char *const[]){"sensor", NULL});
    if (!found)
        return false;
    *sensor = found->index;
    *mark = (uint16_t)number;
    if (file->tables.sensors[found->index].unit == CUP_UNIT_CONTACT)
        return true;
    problem_error(&file->problems, value->place,
                  "%s is no float switch: expected form = switch", name.text);
    return false;
}

static void make_floats(const struct tank_making *making)
{
    const struct value *value = good_value(making->thing, "floats");
    struct cup_tank *tank = making->tank;
    if (!value)
        return;
    tank->form = CUP_TANK_FLOATS;
    const char *at = value->text;
    if (!read_float(making, &at, &tank->sensor, &tank->low_pct100) ||
        *at == '\0')
        return;
    if (!read_float(making, &at, &tank->high, &tank->high_pct100))
        return;
    if (tank->high_pct100 <= tank->low_pct100 || *at)
        problem_error(&making->file->problems, value->place,
                      "expected at most two floats, the lower one first");
}

/* A gap says how far a ranger is above the full mark; others have none. */
static void check_gap(const struct tank_making *making)
{
    const struct value *gap = value_of(making->thing, "gap");
    if (gap->given && making->tank->form != CUP_TANK_DISTANCE)
        problem_error(&making->file->problems, gap->place,
                      "is for a sensor that measures distance; %s does not",
                      making->tank->form == CUP_TANK_FLOATS
                          ? "a float"
                          : value_of(making->thing, "sensor")->text);
}

static void make_source(const struct tank_making *making)
{
    const struct value *sensor = good_value(making->thing, "sensor");
    if (value_of(making->thing, "sensor")->given ==
        value_of(making->thing, "floats")->given)
        problem_error(&making->file->problems, making->thing->place,
                      "a tank needs sensor or floats, one of them");
    make_floats(making);
    if (making->tank->form == CUP_TANK_FLOATS)
        check_gap(making);
    if (!sensor)
        return;
    struct cup_file *file = making->file;
    const struct thing *source = &file->things.list[sensor->number];
    const struct value *blanking = good_value(making->thing, "blanking");
    making->tank->sensor = source->index;
    uint8_t unit = file->tables.sensors[source->index].unit;
    if (unit == CUP_UNIT_PASCAL)
        make_pressure(making);
    else if (unit == CUP_UNIT_PERCENT)
        make_level(making);
    else if (unit == CUP_UNIT_MM)
        make_distance(making);
    else if (unit != CUP_UNIT_NONE)
        problem_error(&file->problems, sensor->place,
                      "a tank needs a sensor that measures distance, pressure "
                      "or level");
    if (unit != CUP_UNIT_NONE)
        check_gap(making);
    if (blanking)
        plan_checks(file, source->index)->near =
            blanking->number -
            (int32_t)(((int64_t)blanking->number *
                       making->file->tables.sensors[source->index].lean) >>
                      16);
    check_beam(making, source);
}

void plan_make_tank(struct cup_file *file, const struct thing *thing)
{
    struct tank_making making = {.file = file, .thing = thing};
    size_t curve = file->plan.sensor_count + 2u * thing->index;
    making.tank = &file->tables.tanks[thing->index];
    making.tank->step_mm10 = 1;
    making.tank->high = CUP_NONE;
    bool by_floats = value_of(thing, "floats")->given;
    if (!by_floats && !value_of(thing, "shape")->given)
        problem_error(&file->problems, thing->place,
                      "a tank needs the key \"shape\": the form of the "
                      "vessel");
    if (value_of(thing, "shape")->given) {
        making.tank->fill = plan_curve(file, curve);
        making.tank->volume = plan_curve(file, curve + 1);
        if (!make_shape(&making))
            return;
        make_curves(&making);
    }
    make_source(&making);
}

double plan_tank_error(const struct cup_file *file, cup_index tank)
{
    const struct thing *thing = thing_of(&file->things, KIND_TANK, tank);
    struct tank_making making = {.file = (struct cup_file *)file,
                                 .thing = thing};
    const struct cup_tank *plan = &file->plan.tanks[tank];
    double worst = 0;
    if (!value_of(thing, "shape")->given || !make_shape(&making))
        return 0;
    double all = shape_litres(&making.shape, making.shape.depth);
    uint16_t full = plan->fill->knots[plan->fill->count - 1].x;
    for (uint32_t x = 0; x <= full; x++) {
        double mm = fmin(x * plan->step_mm10 / 10.0, making.shape.depth);
        double truth = 100 * shape_litres(&making.shape, mm) / all;
        double curve = cup_curve_value(plan->fill, (uint16_t)x) / 100.0;
        worst = fmax(worst, fabs(curve - truth));
    }
    return worst;
}
