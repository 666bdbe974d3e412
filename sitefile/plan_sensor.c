/* Sensors: what each form of raw value becomes, the curve of a calibration,
 * the checks, and what sensors share. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "cuplatch/say.h"
#include "inside.h"
#include "quantity.h"

/* Raw values below 0 are stored with this offset. */
#define SIGNED (-32768)
#define ZERO 32768

/* What a form gives by itself: its unit and a line through two points of
 * stored raw values; and the offset of those. CUP_UNIT_NONE: nothing, it
 * needs dry and wet, points, or a scale. */
struct nature {
    enum cup_unit unit;
    int32_t offset;
    struct cup_point line[2];
};

static const struct nature natures[CUP_FORM_COUNT] = {
    [CUP_FORM_VOLTS] = {CUP_UNIT_VOLT, 0, {{0, 0}, {10000, 10000}}},
    [CUP_FORM_LOOP] = {CUP_UNIT_AMPERE, 0, {{0, 0}, {10000, 10000}}},
    [CUP_FORM_ECHO] = {CUP_UNIT_MM, 0, {{0, 0}, {10000, 17171}}},
    [CUP_FORM_RANGE_BYTES] = {CUP_UNIT_MM, 0, {{0, 0}, {1000, 10000}}},
    [CUP_FORM_RANGE_TEXT] = {CUP_UNIT_MM, 0, {{0, 0}, {1000, 10000}}},
    [CUP_FORM_RANGE_WORD] = {CUP_UNIT_MM, 0, {{0, 0}, {1000, 10000}}},
    [CUP_FORM_TEMP9] = {CUP_UNIT_CELSIUS,
                        SIGNED,
                        {{ZERO, 0}, {ZERO + 160, 1000}}},
    [CUP_FORM_SWITCH] = {CUP_UNIT_CONTACT, 0, {{0, 0}, {1, 1}}},
    [CUP_FORM_PULSES] = {CUP_UNIT_FLOW, 0, {{0, 0}, {1, 0}}},
};

static const struct nature humidity = {
    CUP_UNIT_PERCENT, 0, {{0, 0}, {1000, 10000}}};
static const struct nature warmth = {
    CUP_UNIT_CELSIUS, SIGNED, {{ZERO, 0}, {ZERO + 1000, 10000}}};

/* A sensor in the making. */
struct making {
    struct cup_file *file;
    const struct thing *thing;
    struct cup_sensor *sensor;
    enum cup_form form;
};

static void wrong(const struct making *making, struct place place,
                  const char *message)
{
    problem_error(&making->file->problems, place, "%s", message);
}

static struct place place_of(const struct making *making, const char *key)
{
    const struct value *value = value_of(making->thing, key);
    return value->given ? value->place : making->thing->place;
}

static bool given(const struct making *making, const char *key)
{
    return value_of(making->thing, key)->given;
}

struct cup_checks *plan_checks(struct cup_file *file, cup_index index)
{
    struct cup_sensor *sensor = &file->tables.sensors[index];
    struct cup_checks *checks = &file->tables.checks[index];
    if (!sensor->checks) {
        sensor->checks = checks;
        sensor->checks_own = file->plan.checks++;
    }
    return checks;
}

/* Curves */

static void set_curve(const struct making *making,
                      const struct cup_point *points, uint8_t count, bool clamp,
                      struct place place)
{
    enum cup_error error = plan_make_curve(making->file, making->thing->index,
                                           points, count, clamp);
    if (error == CUP_ERROR_ORDER)
        wrong(making, place,
              "raw values must differ and rise or fall throughout; calibrate "
              "again");
    else if (error)
        wrong(making, place, "steeper than the library can hold");
}

static void check_raw(const struct making *making, const struct value *value)
{
    int32_t low = making->sensor->lowest + making->sensor->offset;
    int32_t high = making->sensor->highest + making->sensor->offset;
    if (value->number < low || value->number > high)
        problem_error(&making->file->problems, value->place,
                      "outside plausible, %d..%d: such samples are rejected",
                      low, high);
}

static bool clamps(const struct making *making)
{
    return number_of(making->thing, "clamp", 0) == 0;
}

static void curve_of_dry_and_wet(const struct making *making)
{
    const struct value *dry = good_value(making->thing, "dry");
    const struct value *wet = good_value(making->thing, "wet");
    if (!given(making, "dry") || !given(making, "wet"))
        wrong(making, making->thing->place,
              "needs both dry and wet, the raw values in dry and in wet soil, "
              "or points");
    if (!dry || !wet)
        return;
    struct cup_point points[] = {{(uint16_t)dry->number, 0},
                                 {(uint16_t)wet->number, 10000}};
    if (dry->number == wet->number)
        wrong(making, wet->place,
              "dry and wet are the same raw value; calibrate again");
    else
        set_curve(making, points, 2, clamps(making), wet->place);
    check_raw(making, dry);
    check_raw(making, wet);
}

/* One "RAW:VALUE" of points; false when it is none, which was told. */
static bool read_point(const struct making *making, char *text,
                       struct cup_point *point)
{
    const struct value *points = value_of(making->thing, "points");
    char *colon = strchr(text, ':');
    int32_t raw = 0;
    if (colon)
        *colon = '\0';
    const char *message =
        colon ? quantity_read_whole(text, making->sensor->offset,
                                    UINT16_MAX + making->sensor->offset, &raw)
              : "expected RAW:VALUE pairs, such as 2900:0% 1180:100%";
    if (!message)
        message = quantity_read(colon + 1, (enum cup_unit)making->sensor->unit,
                                &point->y);
    if (message)
        wrong(making, points->place, message);
    point->x = (uint16_t)(raw - making->sensor->offset);
    return !message;
}

static void curve_of_points(const struct making *making)
{
    const struct value *value = value_of(making->thing, "points");
    struct cup_point points[CUP_CURVE_POINTS];
    char text[200];
    char *rest = text;
    char *word;
    uint8_t count = 0;
    snprintf(text, sizeof(text), "%s", value->text);
    while ((word = strtok_r(rest, " \t", &rest))) {
        if (count == CUP_CURVE_POINTS) {
            wrong(making, value->place, "more than 33 points");
            return;
        }
        if (!read_point(making, word, &points[count++]))
            return;
    }
    if (count < 2)
        wrong(making, value->place, "expected at least two points");
    else
        set_curve(making, points, count, clamps(making), value->place);
}

/* Forms that need a word more to have a nature. */

static struct nature nature_of_text(const struct making *making)
{
    static const int32_t mm10[] = {10, 100, 254};
    struct nature nature = natures[CUP_FORM_RANGE_TEXT];
    nature.line[1].y = 1000 * mm10[number_of(making->thing, "unit", 0)];
    return nature;
}

static struct nature nature_of_switch(const struct making *making)
{
    struct nature nature = natures[CUP_FORM_SWITCH];
    if (number_of(making->thing, "active", 0) == 1) {
        nature.line[0].y = 1;
        nature.line[1].y = 0;
    }
    return nature;
}

/* Pulses of one period into ml a minute. */
static struct nature nature_of_pulses(const struct making *making)
{
    struct nature nature = natures[CUP_FORM_PULSES];
    double per_litre = number_of(making->thing, "per_litre", 1);
    double ml_min = 6e7 / (per_litre * making->sensor->every_ms);
    if (!given(making, "per_litre"))
        wrong(making, making->thing->place,
              "form pulses needs per_litre, the pulses of a litre");
    nature.line[1] =
        (struct cup_point){10000, (int32_t)lround(fmin(ml_min, 1e4) * 1e4)};
    return nature;
}

static struct nature nature_of_block(const struct making *making)
{
    const struct value *take = good_value(making->thing, "source");
    struct nature nature = {CUP_UNIT_NONE, 0, {{0, 0}, {10000, 0}}};
    nature.unit = (enum cup_unit)making->sensor->unit;
    if (!take)
        return nature;
    double steps =
        take->third / 1e6 * pow(10, cup_unit_decimals((uint8_t)nature.unit));
    uint16_t zero = take->minus ? ZERO : 0;
    nature.offset = take->minus ? SIGNED : 0;
    nature.line[0] = (struct cup_point){zero, 0};
    nature.line[1] = (struct cup_point){
        (uint16_t)(zero + 10000), (int32_t)lround(fmin(steps, 1e5) * 10000)};
    return nature;
}

static struct nature nature_of(const struct making *making)
{
    const struct value *measures = good_value(making->thing, "measures");
    enum cup_unit unit =
        measures ? cup_measured[measures->number].unit : CUP_UNIT_NONE;
    switch (making->form) {
    case CUP_FORM_RANGE_TEXT:
        return nature_of_text(making);
    case CUP_FORM_SWITCH:
        return nature_of_switch(making);
    case CUP_FORM_PULSES:
        return nature_of_pulses(making);
    case CUP_FORM_MODBUS:
        return nature_of_block(making);
    case CUP_FORM_PULSE40:
        return unit == CUP_UNIT_CELSIUS ? warmth : humidity;
    default:
        return natures[making->form];
    }
}

static void need_measures(const struct making *making)
{
    if (!given(making, "measures") &&
        (making->form == CUP_FORM_PULSE40 || making->form == CUP_FORM_MODBUS))
        wrong(making, making->thing->place,
              making->form == CUP_FORM_PULSE40
                  ? "needs measures = temperature or humidity: the frame has "
                    "both"
                  : "needs measures: what the register holds");
}

static void curve_of_nature(const struct making *making,
                            const struct nature *nature)
{
    bool square = making->form == CUP_FORM_SWITCH;
    if (nature->unit != making->sensor->unit)
        problem_error(&making->file->problems, place_of(making, "form"),
                      "gives %s by itself; to measure %s it needs points",
                      quantity_kind(nature->unit),
                      value_of(making->thing, "measures")->text);
    else
        set_curve(making, nature->line, 2, square, making->thing->place);
}

static void warn_plausible(const struct making *making)
{
    if (making->form == CUP_FORM_COUNTS && !given(making, "plausible"))
        problem_warning(&making->file->problems, making->thing->place,
                        "without plausible, an unplugged probe may pass for "
                        "dry or wet soil; add plausible = LOW..HIGH");
}

static void make_curve(const struct making *making, const struct nature *nature)
{
    bool marked = given(making, "dry") || given(making, "wet");
    if (marked && making->sensor->unit != CUP_UNIT_PERCENT)
        wrong(making, place_of(making, given(making, "dry") ? "dry" : "wet"),
              "dry and wet are for what is measured in %; give points");
    else if (marked && given(making, "points"))
        wrong(making, place_of(making, "points"),
              "give either dry and wet or points, not both");
    else if (good_value(making->thing, "points"))
        curve_of_points(making);
    else if (marked || making->form == CUP_FORM_COUNTS)
        curve_of_dry_and_wet(making);
    else
        curve_of_nature(making, nature);
    warn_plausible(making);
}

/* Checks */

/* A quantity of the sensor's unit, as a part of a longer value. */
static bool read_part(const struct making *making, const char *key,
                      const char *text, int32_t *number)
{
    const char *message =
        quantity_read(text, (enum cup_unit)making->sensor->unit, number);
    if (message)
        wrong(making, place_of(making, key), message);
    return !message;
}

static void make_jump(const struct making *making)
{
    const struct value *jump = good_value(making->thing, "jump");
    char text[40];
    int32_t rate = 0;
    if (!jump)
        return;
    snprintf(text, sizeof(text), "%s", jump->text);
    char *slash = strrchr(text, '/');
    if (!slash || strcmp(slash, "/s") != 0) {
        wrong(making, jump->place,
              "expected a change a second, such as 20mm/s");
        return;
    }
    *slash = '\0';
    if (read_part(making, "jump", text, &rate) && rate > 0)
        plan_checks(making->file, making->thing->index)->jump_per_s =
            (uint32_t)rate;
}

static void make_steady(const struct making *making)
{
    const struct value *steady = good_value(making->thing, "steady");
    char band[32];
    char time[32];
    int32_t ms = 0;
    if (!steady)
        return;
    if (sscanf(steady->text, "%31s %31s", band, time) != 2) {
        wrong(making, steady->place, "expected BAND TIME, such as 8mm 6s");
        return;
    }
    struct cup_checks *checks = plan_checks(making->file, making->thing->index);
    const char *message = quantity_read(time, CUP_UNIT_SECOND, &ms);
    if (message)
        wrong(making, steady->place, message);
    read_part(making, "steady", band, &checks->band);
    checks->steady_ms = (uint32_t)ms;
}

static void make_checks(const struct making *making)
{
    const struct value *stuck = good_value(making->thing, "stuck");
    const struct value *debounce = good_value(making->thing, "debounce");
    make_jump(making);
    make_steady(making);
    if (stuck)
        plan_checks(making->file, making->thing->index)->stuck_ms =
            (uint32_t)stuck->number;
    if (making->form == CUP_FORM_SWITCH || making->form == CUP_FORM_PULSES)
        plan_checks(making->file, making->thing->index)->debounce_ms =
            debounce ? (uint32_t)debounce->number : 0;
    else if (debounce)
        wrong(making, debounce->place, "debounce is for form switch");
}

/* What sensors share */

/* The first sensor of the file with the same text for a key. */
static const struct thing *first_with(const struct cup_file *file,
                                      const struct thing *thing,
                                      const char *key)
{
    const char *text = value_of(thing, key)->text;
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *other = &file->things.list[i];
        if (other->kind == KIND_SENSOR && value_of(other, key)->given &&
            strcmp(value_of(other, key)->text, text) == 0)
            return other;
    }
    return thing;
}

static bool is_powered(const struct thing *thing)
{
    return value_of(thing, "supply")->given && value_of(thing, "port")->given;
}

static void share_channel(struct cup_file *file, const struct thing *thing)
{
    struct cup_sensor *sensors = file->tables.sensors;
    const struct thing *first = first_with(file, thing, "port");
    if (first == thing || !is_powered(first))
        return;
    if (sensors[first->index].channel == CUP_NONE)
        sensors[first->index].channel = file->plan.channels++;
    sensors[thing->index].channel = sensors[first->index].channel;
}

void plan_share(struct cup_file *file)
{
    struct cup_sensor *sensors = file->tables.sensors;
    for (size_t i = 0; i < file->plan.sensor_count; i++)
        sensors[i] = (struct cup_sensor){.supply = CUP_NONE,
                                         .channel = CUP_NONE,
                                         .air = CUP_NONE,
                                         .source = CUP_NONE,
                                         .sibling = CUP_NONE,
                                         .checks_own = CUP_NONE,
                                         .stream_own = CUP_NONE};
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind != KIND_SENSOR || !is_powered(thing))
            continue;
        const struct thing *first = first_with(file, thing, "supply");
        sensors[thing->index].supply = first == thing
                                           ? file->plan.supplies++
                                           : sensors[first->index].supply;
        share_channel(file, thing);
    }
}

static void make_air(const struct making *making)
{
    const struct value *air = good_value(making->thing, "air");
    if (!air)
        return;
    const struct thing *other = &making->file->things.list[air->number];
    const struct value *measures = good_value(other, "measures");
    const struct value *form = good_value(other, "form");
    bool warm = measures
                    ? cup_measured[measures->number].unit == CUP_UNIT_CELSIUS
                    : form && form->number == CUP_FORM_TEMP9;
    making->sensor->air = other->index;
    if (!warm)
        wrong(making, air->place,
              "expected a sensor that measures temperature");
    if (making->form != CUP_FORM_ECHO)
        wrong(making, air->place, "air corrects form echo only");
}

/* Blocks */

void plan_make_source(struct cup_file *file, const struct thing *thing)
{
    struct cup_source *source = &file->tables.sources[thing->index];
    const struct value *read = good_value(thing, "read");
    source->every_ms = (uint32_t)number_of(thing, "every", 1000);
    source->unit = (uint8_t)number_of(thing, "unit", 1);
    source->function = CUP_MODBUS_HOLDING;
    source->sensor = CUP_NONE;
    if (read) {
        source->function = (uint8_t)(CUP_MODBUS_HOLDING + read->number);
        source->first = (uint16_t)read->second;
        source->count = (uint8_t)read->third;
    }
    for (size_t i = file->plan.sensor_count; i > 0; i--) {
        struct cup_sensor *sensor = &file->tables.sensors[i - 1];
        if (sensor->source != thing->index)
            continue;
        sensor->sibling = source->sensor;
        source->sensor = (cup_index)(i - 1);
    }
}

static void make_take(const struct making *making)
{
    const struct value *take = good_value(making->thing, "source");
    if (!take)
        return;
    const struct thing *source = &making->file->things.list[take->number];
    const struct value *read = good_value(source, "read");
    making->sensor->source = source->index;
    making->sensor->word = (uint8_t)take->second;
    making->sensor->every_ms = (uint32_t)number_of(source, "every", 1000);
    if (read && take->second >= read->third)
        problem_error(&making->file->problems, take->place,
                      "%s reads %d registers, 0 to %d", source->section->name,
                      read->third, read->third - 1);
}

/* The sensor as a whole */

static void check_keys(const struct making *making)
{
    bool block = given(making, "source");
    if (block == given(making, "port"))
        wrong(making, making->thing->place,
              block ? "give either port or source, not both"
                    : "a sensor needs the key \"port\": where it is, as the "
                      "port understands it; or source, a value of a block");
    if (!block && !given(making, "form"))
        wrong(making, making->thing->place,
              "a sensor needs the key \"form\": how a sample arrives");
    if (!block && !given(making, "every"))
        wrong(making, making->thing->place,
              "a sensor needs the key \"every\": how often it is asked");
    if (given(making, "warm_up") && !given(making, "supply"))
        wrong(making, place_of(making, "warm_up"),
              "needs supply, the output that powers it");
    need_measures(making);
}

static void make_times(const struct making *making)
{
    struct cup_sensor *sensor = making->sensor;
    const struct value *lost_after = good_value(making->thing, "lost_after");
    uint32_t every = sensor->every_ms;
    sensor->warm_up_ms = (uint32_t)number_of(making->thing, "warm_up", 0);
    sensor->lost_after_ms =
        every > CUP_TIME_MAX_MS / 10 ? CUP_TIME_MAX_MS : every * 10;
    if (!lost_after)
        return;
    sensor->lost_after_ms = (uint32_t)lost_after->number;
    if (sensor->lost_after_ms <= every)
        wrong(making, lost_after->place,
              "must be longer than every, or it is lost between two samples");
}

static void make_range(const struct making *making)
{
    const struct value *range = good_value(making->thing, "plausible");
    struct cup_sensor *sensor = making->sensor;
    int32_t low = range ? range->number - sensor->offset : 0;
    int32_t high = range ? range->second - sensor->offset : UINT16_MAX;
    if (!range && making->form == CUP_FORM_SWITCH)
        high = 1;
    if (low < 0 || high > UINT16_MAX)
        problem_error(&making->file->problems, range->place,
                      "raw values of this form are %d to %d", sensor->offset,
                      UINT16_MAX + sensor->offset);
    sensor->lowest = (uint16_t)low;
    sensor->highest = (uint16_t)high;
}

static void make_window(const struct making *making)
{
    const struct value *smooth = good_value(making->thing, "smooth");
    struct cup_sensor *sensor = making->sensor;
    struct cup_plan *plan = &making->file->plan;
    sensor->window.size = (uint8_t)(smooth ? smooth->number : 1);
    sensor->window.trim = (uint8_t)(smooth ? smooth->second : 0);
    sensor->cells = plan->cells;
    plan->cells =
        (uint16_t)(plan->cells + CUP_WINDOW_CELLS(sensor->window.size));
    if (sensor->form == CUP_FORM_RANGE_BYTES ||
        sensor->form == CUP_FORM_RANGE_TEXT)
        sensor->stream_own = plan->streams++;
}

static void make_unit(const struct making *making, const struct nature *nature)
{
    const struct value *measures = good_value(making->thing, "measures");
    enum cup_unit unit = nature->unit;
    if (measures)
        unit = cup_measured[measures->number].unit;
    else if (making->form == CUP_FORM_COUNTS || given(making, "dry"))
        unit = CUP_UNIT_PERCENT;
    making->sensor->unit = (uint8_t)unit;
}

void plan_make_sensor(struct cup_file *file, const struct thing *thing)
{
    struct cup_sensor *sensor = &file->tables.sensors[thing->index];
    struct making making = {file, thing, sensor, CUP_FORM_COUNTS};
    const struct value *measures = good_value(thing, "measures");
    if (value_of(thing, "source")->given)
        making.form = CUP_FORM_MODBUS;
    else
        making.form = (enum cup_form)number_of(thing, "form", CUP_FORM_COUNTS);
    sensor->form = (uint8_t)making.form;
    sensor->every_ms = (uint32_t)number_of(thing, "every", 1000);
    sensor->unit =
        (uint8_t)(measures ? cup_measured[measures->number].unit : 0);
    sensor->part = sensor->unit == CUP_UNIT_CELSIUS;
    sensor->scale = (uint8_t)number_of(thing, "scaling", 0);
    sensor->curve = plan_curve(file, thing->index);
    check_keys(&making);
    make_take(&making);
    struct nature nature = nature_of(&making);
    sensor->offset = nature.offset;
    make_unit(&making, &nature);
    make_range(&making);
    make_window(&making);
    make_times(&making);
    if (value_of(thing, "form")->good || value_of(thing, "source")->good)
        make_curve(&making, &nature);
    make_checks(&making);
    make_air(&making);
}
