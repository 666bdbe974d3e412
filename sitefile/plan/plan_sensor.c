/* Sensors: their keys, their checks, the blocks they take values of, and what
 * they share. */
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "cuplatch/say.h"
#include "making.h"

/* Their steps are more than a raw value has. */
static void check_plain(const struct making *making)
{
    bool wide = making->sensor->unit == CUP_UNIT_PASCAL ||
                making->sensor->unit == CUP_UNIT_FLOW;
    if (making->form == CUP_FORM_PLAIN && wide &&
        !making_given(making, "points"))
        making_wrong(making, making_place(making, "form"),
                     "holds 0 to 65535 steps, too few for a pressure or a "
                     "flow; give points, such as 0:0bar 60000:6bar");
}

static void need_measures(const struct making *making)
{
    static const char *const needs[CUP_FORM_COUNT] = {
        [CUP_FORM_PULSE40] =
            "needs measures = temperature or humidity: the frame has both",
        [CUP_FORM_PLAIN] = "needs measures: what the number is",
        [CUP_FORM_MODBUS] = "needs measures: what the register holds"};
    if (!making_given(making, "measures") &&
        making_needs(making, NEED_MEASURES))
        making_wrong(making, making->thing->place, needs[making->form]);
    check_plain(making);
}

/* Checks */

/* A quantity of the sensor's unit, as a part of a longer value. */
static bool read_part(const struct making *making, const char *key,
                      const char *text, int32_t *number)
{
    const char *message =
        quantity_read_change(text, (enum cup_unit)making->sensor->unit, number);
    if (message)
        making_wrong(making, making_place(making, key), message);
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
        making_wrong(making, jump->place,
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
    struct scanned band;
    struct scanned time;
    int32_t ms = 0;
    if (!steady)
        return;
    if (!scan(steady->text, "* *", &band, &time)) {
        making_wrong(making, steady->place,
                     "expected BAND TIME, such as 8mm 6s");
        return;
    }
    struct cup_checks *checks = plan_checks(making->file, making->thing->index);
    const char *message = quantity_read(time.text, CUP_UNIT_SECOND, &ms);
    if (message)
        making_wrong(making, steady->place, message);
    read_part(making, "steady", band.text, &checks->band);
    checks->steady_ms = (uint32_t)ms;
}

void making_checks(const struct making *making)
{
    const struct value *stuck = good_value(making->thing, "stuck");
    const struct value *debounce = good_value(making->thing, "debounce");
    make_jump(making);
    make_steady(making);
    if (stuck)
        plan_checks(making->file, making->thing->index)->stuck_ms =
            (uint32_t)stuck->number;
    if (making->form == CUP_FORM_PULSES)
        (void)plan_checks(making->file, making->thing->index);
    if (debounce && making->form == CUP_FORM_SWITCH)
        plan_checks(making->file, making->thing->index)->debounce_ms =
            (uint32_t)debounce->number;
    else if (debounce)
        making_wrong(making, debounce->place, "debounce is for form switch");
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
                                         .part_of = CUP_NONE,
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
                    ? cup_measured_units[measures->number] == CUP_UNIT_CELSIUS
                    : form && form->number == CUP_FORM_TEMP9;
    making->sensor->air = other->index;
    if (!warm)
        making_wrong(making, air->place,
                     "expected a sensor that measures temperature");
    if (making->form != CUP_FORM_ECHO)
        making_wrong(making, air->place, "air corrects form echo only");
}

/* Blocks */

void plan_make_source(struct cup_file *file, const struct thing *thing)
{
    struct cup_source *source = &file->tables.sources[thing->index];
    const struct value *read = good_value(thing, "read");
    (void)value_of(thing, "form"); /* there is one */
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

/* Keys of a sensor that is made of others. */
static void check_alone(const struct making *making)
{
    static const char *const together[] = {"takes", "at_least", "apart"};
    for (size_t i = 0; i < sizeof(together) / sizeof(together[0]); i++)
        if (making_given(making, together[i]))
            making_wrong(making, making_place(making, together[i]),
                         "needs of, the sensors that it is made of");
}

static void check_keys(const struct making *making)
{
    bool block = making_given(making, "source");
    if (block == making_given(making, "port"))
        making_wrong(
            making, making->thing->place,
            block ? "give either port or source, not both"
                  : "a sensor needs the key \"port\": where it is, as the "
                    "port understands it; or source, a value of a block");
    if (!block && !making_given(making, "form"))
        making_wrong(making, making->thing->place,
                     "a sensor needs the key \"form\": how a sample arrives");
    if (!block && !making_given(making, "every"))
        making_wrong(making, making->thing->place,
                     "a sensor needs the key \"every\": how often it is asked");
    if (making_given(making, "warm_up") && !making_given(making, "supply"))
        making_wrong(making, making_place(making, "warm_up"),
                     "needs supply, the output that powers it");
    need_measures(making);
}

static void make_times(const struct making *making)
{
    struct cup_sensor *sensor = making->sensor;
    const struct value *lost_after = good_value(making->thing, "lost_after");
    uint32_t every = sensor->every_ms;
    sensor->warm_up_ms = (uint32_t)number_of(making->thing, "warm_up", 0);
    if (sensor->warm_up_ms > every / 2)
        making_wrong(making, making_place(making, "warm_up"),
                     "must be well under every, half of it at the most, or it "
                     "is powered all the time");
    sensor->lost_after_ms =
        every > CUP_TIME_MAX_MS / 10 ? CUP_TIME_MAX_MS : every * 10;
    if (!lost_after)
        return;
    sensor->lost_after_ms = (uint32_t)lost_after->number;
    if (sensor->lost_after_ms <= every)
        making_wrong(
            making, lost_after->place,
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

/* "4700 9990"; false when it is too many, or one is no whole number. */
static bool read_nothing(const char *value, int32_t *list, uint8_t *count)
{
    struct scanned word;
    while (scan_next(&value, &word)) {
        int32_t raw = 0;
        if (*count == CUP_NOTHINGS_MOST ||
            quantity_read_whole(word.text, INT32_MIN + 1, INT32_MAX, &raw))
            return false;
        list[(*count)++] = raw;
    }
    return true;
}

static void make_nothing(const struct making *making)
{
    const struct value *value = good_value(making->thing, "nothing");
    struct cup_sensor *sensor = making->sensor;
    int32_t *list = making->file->tables.nothings +
                    (size_t)making->thing->index * CUP_NOTHINGS_MOST;
    sensor->nothing = list;
    if (value && !read_nothing(value->text, list, &sensor->nothing_count))
        making_wrong(making, value->place,
                     "expected up to 8 raw values, such as 4700 9990");
}

static void make_window(const struct making *making)
{
    const struct value *smooth = good_value(making->thing, "smooth");
    struct cup_sensor *sensor = making->sensor;
    struct cup_plan *plan = &making->file->plan;
    sensor->window.size = (uint8_t)(smooth ? smooth->number : 1);
    sensor->window.trim = (uint8_t)(smooth ? smooth->second : 0);
    if (sensor->window.size > UINT16_MAX - plan->cells) {
        making_wrong(making, making_place(making, "smooth"),
                     "all sensors together smooth at most 65535 samples: give "
                     "some a smaller window");
        sensor->window.size = 1;
        plan->cells = 0;
    }
    sensor->cells = plan->cells;
    plan->cells = (uint16_t)(plan->cells + sensor->window.size);
    if (making_streams(making))
        sensor->stream_own = plan->streams++;
}

static void make_unit(const struct making *making, const struct nature *nature)
{
    const struct value *measures = good_value(making->thing, "measures");
    enum cup_unit unit = nature->unit;
    if (measures)
        unit = cup_measured_units[measures->number];
    else if (making_needs(making, NEED_MARKS) ||
             (making->form <= CUP_FORM_LOOP && making_given(making, "dry")))
        unit = CUP_UNIT_PERCENT;
    making->sensor->unit = (uint8_t)unit;
}

void plan_make_sensor(struct cup_file *file, const struct thing *thing)
{
    struct cup_sensor *sensor = &file->tables.sensors[thing->index];
    struct making making = {file, thing, sensor, CUP_FORM_COUNTS};
    const struct value *measures = good_value(thing, "measures");
    if (value_of(thing, "of")->given)
        return; /* once all it is made of are */
    if (value_of(thing, "source")->given)
        making.form = CUP_FORM_MODBUS;
    else
        making.form = (enum cup_form)number_of(thing, "form", CUP_FORM_COUNTS);
    sensor->form = (uint8_t)making.form;
    sensor->every_ms = (uint32_t)number_of(thing, "every", 1000);
    sensor->unit =
        (uint8_t)(measures ? cup_measured_units[measures->number] : 0);
    sensor->part = sensor->unit == CUP_UNIT_CELSIUS;
    sensor->scale = (uint8_t)number_of(thing, "scaling", 0);
    sensor->curve = plan_curve(file, thing->index);
    check_alone(&making);
    check_keys(&making);
    make_take(&making);
    struct nature nature = making_nature(&making);
    sensor->offset = nature.offset;
    make_unit(&making, &nature);
    make_range(&making);
    make_nothing(&making);
    make_window(&making);
    make_times(&making);
    if (value_of(thing, "form")->good || value_of(thing, "source")->good)
        making_curve(&making, &nature);
    making_checks(&making);
    make_air(&making);
}
