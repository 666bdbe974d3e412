/* Sensors that are made of others: several probes for one place. */
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "cuplatch/say.h"
#include "making.h"

/* Keys of a sensor that is asked itself. */
static void check_keys(const struct making *making)
{
    static const char *const own[] = {
        "form",  "port",     "source",    "dry",     "wet",       "points",
        "clamp", "unit",     "scaling",   "active",  "per_litre", "baud",
        "every", "supply",   "warm_up",   "air",     "tilt",      "jump",
        "stuck", "debounce", "plausible", "nothing", "smooth",    "measures"};
    for (size_t i = 0; i < sizeof(own) / sizeof(own[0]); i++)
        if (making_given(making, own[i]))
            making_wrong(making, making_place(making, own[i]),
                         "is for a sensor that is asked itself; this one is "
                         "made of others");
}

/* One that it is made of; false when it cannot be, which was told. */
static bool add_part(const struct making *making, const struct value *of,
                     const char *name)
{
    struct cup_file *file = making->file;
    struct cup_several *several = &file->tables.severals[making->thing->index];
    cup_index *list =
        &file->tables.ofs[(size_t)making->thing->index * CUP_SEVERAL_MOST];
    const struct thing *thing =
        things_find(&file->things, &file->problems, of->place, name,
                    (const char *const[]){"sensor", NULL});
    if (!thing)
        return false;
    struct cup_sensor *part = &file->tables.sensors[thing->index];
    if (value_of(thing, "of")->given) {
        problem_error(&file->problems, of->place, "%s is made of others itself",
                      name);
        return false;
    }
    if (part->part_of != CUP_NONE) {
        problem_error(&file->problems, of->place,
                      "%s is a part of %s already: a probe speaks for one "
                      "place, once",
                      name, cup_thing_name(&file->plan, part->part_of));
        return false;
    }
    if (several->count == CUP_SEVERAL_MOST) {
        making_wrong(making, of->place, "expected 8 sensors at the most");
        return false;
    }
    if (several->count == 0)
        making->sensor->unit = part->unit;
    part->part_of = making->thing->index;
    list[several->count++] = thing->index;
    return true;
}

static bool read_parts(const struct making *making)
{
    const struct value *of = good_value(making->thing, "of");
    struct cup_several *several =
        &making->file->tables.severals[making->thing->index];
    struct scanned word;
    for (const char *at = of->text; scan_next(&at, &word);)
        if (!add_part(making, of, word.text))
            return false;
    if (several->count < 2)
        making_wrong(making, of->place,
                     "expected two sensors or more, such as kale_a kale_b "
                     "kale_c");
    return several->count >= 2;
}

/* They measure the same, and it fits; it is asked no more often than any of
 * them, and held as long. */
static bool take_after(const struct making *making)
{
    static const bool fits[CUP_UNIT_COUNT] = {
        [CUP_UNIT_PERCENT] = true, [CUP_UNIT_CELSIUS] = true,
        [CUP_UNIT_MM] = true,      [CUP_UNIT_VOLT] = true,
        [CUP_UNIT_FLOW] = true,    [CUP_UNIT_CONDUCTIVITY] = true,
        [CUP_UNIT_NUTRIENT] = true};
    struct cup_file *file = making->file;
    struct cup_sensor *sensor = making->sensor;
    struct place place = value_of(making->thing, "of")->place;
    const struct cup_several *several =
        &file->tables.severals[making->thing->index];
    for (uint8_t i = 0; i < several->count; i++) {
        const struct cup_sensor *part = &file->tables.sensors[several->of[i]];
        sensor->every_ms = cup_most(sensor->every_ms, part->every_ms);
        sensor->lost_after_ms =
            cup_most(sensor->lost_after_ms, part->lost_after_ms);
        if (part->unit != sensor->unit) {
            problem_error(&file->problems, place,
                          "%s does not measure what %s does",
                          cup_thing_name(&file->plan, several->of[i]),
                          cup_thing_name(&file->plan, several->of[0]));
            return false;
        }
    }
    if (!fits[sensor->unit])
        making_wrong(making, place,
                     "expected sensors of moisture, level, light, humidity, "
                     "temperature, distance, voltage, flow, conductivity or "
                     "nutrients");
    return fits[sensor->unit];
}

/* Its values are what its parts say: stored as they are. */
static void make_curve(const struct making *making)
{
    struct cup_sensor *sensor = making->sensor;
    bool below =
        sensor->unit == CUP_UNIT_PERCENT || sensor->unit == CUP_UNIT_CELSIUS;
    sensor->offset = below ? SIGNED : 0;
    uint16_t zero = (uint16_t)-sensor->offset;
    struct cup_point line[] = {{zero, 0}, {(uint16_t)(zero + 10000), 10000}};
    (void)plan_make_curve(making->file, making->thing->index, line, 2, false);
    sensor->highest = UINT16_MAX;
    sensor->window.size = 1;
    sensor->cells = making->file->plan.cells++;
}

static void make_takes(const struct making *making, struct cup_several *several)
{
    static const uint8_t takes[] = {CUP_TAKES_MEAN,    CUP_TAKES_LOWEST,
                                    CUP_TAKES_HIGHEST, CUP_TAKES_MIDDLE,
                                    CUP_TAKES_LOWEST,  CUP_TAKES_HIGHEST};
    int32_t word = number_of(making->thing, "takes", 3);
    several->takes = takes[word];
    if ((word == 1 || word == 2) && making->sensor->unit != CUP_UNIT_PERCENT)
        making_wrong(making, making_place(making, "takes"),
                     "is for moisture; expected lowest or highest");
}

static void make_several(const struct making *making,
                         struct cup_several *several)
{
    struct cup_sensor *sensor = making->sensor;
    const struct value *apart = good_value(making->thing, "apart");
    int32_t number = 0;
    several->at_least =
        (uint8_t)number_of(making->thing, "at_least", (several->count + 1) / 2);
    if (several->at_least > several->count)
        making_wrong(making, making_place(making, "at_least"),
                     "expected no more than there are in of");
    const char *wrong =
        apart ? quantity_read_change(apart->text, (enum cup_unit)sensor->unit,
                                     &number)
              : NULL;
    if (!wrong && apart && number <= 0)
        wrong = "expected more than nothing";
    if (wrong)
        making_wrong(making, apart->place, wrong);
    several->apart = number;
    several->own = making->file->plan.severals++;
    sensor->several = several;
    sensor->lost_after_ms = (uint32_t)number_of(making->thing, "lost_after",
                                                (int32_t)sensor->lost_after_ms);
    if (sensor->lost_after_ms <= sensor->every_ms)
        making_wrong(making, making_place(making, "lost_after"),
                     "must be longer than its sensors' every");
}

static void make_one(struct cup_file *file, const struct thing *thing)
{
    struct cup_sensor *sensor = &file->tables.sensors[thing->index];
    struct cup_several *several = &file->tables.severals[thing->index];
    struct making making = {file, thing, sensor, CUP_FORM_COUNTS};
    several->of = &file->tables.ofs[(size_t)thing->index * CUP_SEVERAL_MOST];
    sensor->curve = plan_curve(file, thing->index);
    check_keys(&making);
    if (!good_value(thing, "of") || !read_parts(&making) ||
        !take_after(&making))
        return;
    make_curve(&making);
    make_takes(&making, several);
    make_several(&making, several);
    making_checks(&making);
}

void plan_make_severals(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind == KIND_SENSOR && value_of(thing, "of")->given)
            make_one(file, thing);
    }
}
