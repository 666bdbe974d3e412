/* The garden file: the grammar of the site file, other things. */
#include <errno.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/inifile.h"
#include "../grammar/quantity.h"
#include "inside.h"
#include "section.h"

/* Spans of more than one key. */
static const struct span share = {0, 1};       /* of a whole */
static const struct span length = {10, 50000}; /* mm: a cup to a reservoir */
static const struct span height = {0, 50000};  /* mm: from there to nothing */
static const struct span flow = {0, 10000};    /* L/min */
static const struct span power = {0, 100000};  /* W */
static const struct span any = {0, 1e6};

/* A name as in the site file. */
static void name_it(struct section *section, char *name)
{
    snprintf(name, NAME_SIZE, "%s", section->ini->name);
    if (!ini_is_name(section->ini->name))
        section_wrong(section, NULL,
                      "a name is a letter, then letters, digits, _ or -, at "
                      "most 24 in all");
}

static struct where find_place(struct section *section,
                               const struct ini_entry *at, const char *name)
{
    struct where where = {VESSEL, garden_find(section->garden, VESSEL, name)};
    if (where.index >= 0)
        return where;
    where = (struct where){BED, garden_find(section->garden, BED, name)};
    if (where.index >= 0)
        return where;
    problem_error(section->problems, (struct place){at->line, at->text},
                  "there is no vessel or bed \"%s\" above this", name);
    return (struct where){NOWHERE, 0};
}

/* Things */

static void read_weather(struct section *section)
{
    struct weather *weather = &section->garden->weather;
    weather->latitude =
        section_number(section, "latitude", 50, (struct span){-90, 90});
    weather->warm = section_quantity(section, "warm", CUP_UNIT_CELSIUS, 12,
                                     (struct span){-40, 60});
    weather->seasons =
        section_change(section, "seasons", CUP_UNIT_CELSIUS,
                       0.15 * fabs(weather->latitude), (struct span){0, 40});
    weather->swing = section_change(section, "swing", CUP_UNIT_CELSIUS, 9,
                                    (struct span){0, 40});
    weather->clouds =
        section_quantity(section, "clouds", CUP_UNIT_PERCENT, 0.4, share);
    weather->showers =
        section_number(section, "showers", 0.3, (struct span){0, 100});
    weather->shower_mm = section_quantity(section, "shower", CUP_UNIT_MM, 6,
                                          (struct span){0, 500});
    section->garden->battery_v = section_quantity(
        section, "battery", CUP_UNIT_VOLT, 12.6, (struct span){1, 1000});
    section->garden->solar_w = section_number(section, "solar", 100, power);
}

static void read_vessel(struct section *section)
{
    static const char *const shapes[] = {"upright", "box", "lying", NULL};
    struct garden *garden = section->garden;
    struct vessel *vessel = &garden->vessels[garden->vessel_count];
    name_it(section, vessel->name);
    vessel->shape = section_choice(section, "shape", shapes);
    bool box = vessel->shape == 1;
    vessel->diameter = section_quantity(section, "diameter", CUP_UNIT_MM,
                                        box ? 0 : NEEDED, length);
    vessel->length = section_quantity(section, "length", CUP_UNIT_MM,
                                      vessel->shape == 0 ? 0 : NEEDED, length);
    vessel->width = section_quantity(section, "width", CUP_UNIT_MM,
                                     box ? NEEDED : 0, length);
    vessel->depth = section_quantity(
        section, "depth", CUP_UNIT_MM,
        vessel->shape == 2 ? vessel->diameter : NEEDED, length);
    if (vessel->shape == 2 && vessel->depth > vessel->diameter) {
        section_wrong(section, section_entry(section, "depth"),
                      "a lying vessel is no deeper than its diameter");
        vessel->depth = vessel->diameter;
    }
    vessel->roof_m2 = section_number(section, "roof", 0, any);
    vessel->fed_l_s =
        section_quantity(section, "fed", CUP_UNIT_FLOW, 0, flow) / 60;
    vessel->used_l_day = section_number(section, "used", 0, any);
    vessel->float_band_mm =
        section_quantity(section, "valve", CUP_UNIT_MM, 0, height);
    vessel->drains_l_min =
        section_quantity(section, "drains", CUP_UNIT_FLOW, 0, flow);
    const struct ini_entry *back = section_entry(section, "back");
    vessel->back = back ? garden_find(garden, VESSEL, back->value) : -1;
    if (back && vessel->back < 0)
        section_wrong(section, back, "there is no such vessel above this");
    double holds =
        section_quantity(section, "holds", CUP_UNIT_PERCENT, 0.5, share);
    vessel->intake_mm = -1;
    vessel_shape(vessel);
    vessel->litres = holds * vessel->capacity;
    vessel->truth.lowest_l = vessel->truth.highest_l = vessel->litres;
    garden->vessel_count++;
}

static void read_bed(struct section *section)
{
    struct garden *garden = section->garden;
    struct bed *bed = &garden->beds[garden->bed_count++];
    const char *words[FAO56_SOILS + 1] = {NULL};
    for (int i = 0; i < FAO56_SOILS; i++)
        words[i] = fao56_soils[i].texture;
    bed->soil = &fao56_soils[section_choice(section, "soil", words)];
    name_it(section, bed->name);
    bed->area_m2 = section_number(section, "area", 4, (struct span){0.01, 1e6});
    bed->roots_mm = section_quantity(section, "roots", CUP_UNIT_MM, 300,
                                     (struct span){10, 5000});
    bed->crop = section_number(section, "crop", 1, (struct span){0, 5});
    bed->follows_s = 1 / section_quantity(section, "delay", CUP_UNIT_SECOND,
                                          300, (struct span){1, 864000});
    bed->soaks_mm_s = bed->soil->soaks_mm_h / 3600;
    bed->drains_s = 1 / (bed->soil->drains_h * 3600);
    bed->table = section_quantity(section, "ready", CUP_UNIT_PERCENT, 0.45,
                                  (struct span){0.1, 0.8});
    double holds =
        section_quantity(section, "holds", CUP_UNIT_PERCENT, 0.8, share);
    bed->water_mm =
        bed->roots_mm *
        (bed->soil->wilting + holds * (bed->soil->field - bed->soil->wilting));
    bed->seen_mm = bed->water_mm;
}

/* "kale_bed" or "kale_bed by kale_valve, leek_bed by leek_valve" */
static void read_into(struct section *section, struct output *pump)
{
    const struct ini_entry *at = section_entry(section, "into");
    const char *text = at ? at->value : "";
    int i = 0;
    for (; i < 2 && *text; i++) {
        char name[NAME_SIZE] = "";
        char valve[NAME_SIZE] = "";
        sscanf(text, "%31[a-zA-Z0-9_-] by %31[a-zA-Z0-9_-]", name, valve);
        pump->into[i] = find_place(section, at, name);
        if (*valve) {
            pump->valve[i] = garden_output(section->garden, valve);
            if (pump->valve[i] < 0)
                section_wrong(section, at, "there is no such valve above this");
        }
        text = strchr(text, ',');
        text = text ? text + 1 + strspn(text + 1, " \t") : "";
    }
    if (*text)
        section_wrong(section, at, "a pump feeds at most two");
}

/* What switches it on, and how it gets from end to end. */
static void read_drive(struct section *section, struct output *output)
{
    static const char *const levels[] = {"high", "low", NULL};
    static const char *const lines[] = {"1", "2", NULL};
    output->active_low = section_choice(section, "active", levels) == 1;
    output->two_lines = section_choice(section, "lines", lines) == 1;
    double travel_s = section_quantity(section, "travel", CUP_UNIT_SECOND, 0,
                                       (struct span){0, 3600});
    output->pace = travel_s > 1 ? 1 / travel_s : 1;
}

static void read_output(struct section *section, bool is_pump)
{
    struct garden *garden = section->garden;
    struct output *output = &garden->outputs[garden->output_count];
    output->valve[0] = output->valve[1] = -1;
    output->power_w = section_number(section, "power", is_pump ? 60 : 2, power);
    if (is_pump) {
        const struct ini_entry *from = section_entry(section, "from");
        if (from)
            output->from = find_place(section, from, from->value);
        read_into(section, output);
        output->flow_l_s =
            section_quantity(section, "flow", CUP_UNIT_FLOW, NEEDED,
                             (struct span){0.001, 10000}) /
            60;
        output->intake_mm =
            section_quantity(section, "intake", CUP_UNIT_MM, 40, height);
        output->primes_s = section_quantity(section, "primes", CUP_UNIT_SECOND,
                                            2, (struct span){0, 86400});
        output->pipe_s = (int)section_quantity(section, "pipe", CUP_UNIT_SECOND,
                                               0, (struct span){0, PIPE_MOST});
        output->head_m = section_quantity(section, "head", CUP_UNIT_MM, 0,
                                          (struct span){0, 200000}) /
                         1000;
        output->rises_m = section_quantity(section, "rises", CUP_UNIT_MM, 0,
                                           (struct span){0, 200000}) /
                          1000;
        output->into_line =
            output->into[0].kind == VESSEL &&
            garden->vessels[output->into[0].index].float_band_mm > 0;
        if (output->head_m > 0 && output->rises_m >= output->head_m)
            section_wrong(section, section_entry(section, "rises"),
                          "must be less than head");
        if (output->from.kind == VESSEL) {
            struct vessel *vessel = &garden->vessels[output->from.index];
            vessel->intake_mm = most(vessel->intake_mm, output->intake_mm);
        }
    }
    read_drive(section, output);
    name_it(section, output->name);
    output->is_pump = is_pump;
    output->truth.shortest_rest_s = 1e9;
    output->since_stop_s = 1e9;
    garden->output_count++;
}

static void read_pump(struct section *section)
{
    read_output(section, true);
}

static void read_other(struct section *section)
{
    read_output(section, false);
}

/* The tunnel cools through its vent and its fan. */
static void read_vent(struct section *section)
{
    read_output(section, false);
    section->garden->vent = section->garden->output_count - 1;
}

static void read_fan(struct section *section)
{
    read_output(section, false);
    section->garden->fan = section->garden->output_count - 1;
}

static void read_range(struct section *section, struct sensor *sensor)
{
    const struct ini_entry *at = section_entry(section, "raw");
    sensor->low = 0;
    sensor->high = 1000;
    long low = 0;
    long high = 0;
    char more;
    if (!at)
        return;
    if (sscanf(at->value, "%9ld..%9ld%c", &low, &high, &more) != 2)
        section_wrong(
            section, at,
            "expected RAW..RAW, at nothing and at full scale, each at most "
            "nine digits");
    sensor->low = (double)low;
    sensor->high = (double)high;
}

static void read_of(struct section *section, struct sensor *sensor)
{
    const struct ini_entry *at = section_entry(section, "of");
    const struct garden *garden = section->garden;
    if (!at)
        return;
    if (sensor->kind == S_PROBE)
        sensor->of = garden_find(garden, BED, at->value);
    else if (sensor->kind == S_PRESSURE || sensor->kind == S_FLOW)
        sensor->of = garden_output(garden, at->value);
    else
        sensor->of = garden_find(garden, VESSEL, at->value);
    if (sensor->of < 0) {
        section_wrong(section, at, "there is no such thing above this");
        sensor->of = 0;
    }
}

static double read_tilt(struct section *section)
{
    const struct ini_entry *at = section_entry(section, "tilt");
    double upright = 1;
    const char *wrong = at ? quantity_read_tilt(at->value, &upright) : NULL;
    if (wrong)
        section_wrong(section, at, wrong);
    return upright;
}

static void read_sensor(struct section *section)
{
    static const char *const words[] = {
        "probe", "echo",   "word",        "pressure", "float", "light", "air",
        "damp",  "tunnel", "tunnel-damp", "battery",  "depth", "flow",  NULL};
    struct garden *garden = section->garden;
    struct sensor *sensor = &garden->sensors[garden->sensor_count++];
    name_it(section, sensor->name);
    sensor->chance =
        garden->weather_chance * (2 * (uint64_t)garden->sensor_count + 3);
    sensor->kind = section_choice(section, "as", words);
    read_of(section, sensor);
    read_range(section, sensor);
    sensor->full = section_number(section, "full", 1, (struct span){1e-6, 1e9});
    sensor->noise = section_number(section, "noise", 0, any);
    sensor->missing =
        section_quantity(section, "missing", CUP_UNIT_PERCENT, 0, share);
    sensor->spikes =
        section_quantity(section, "spikes", CUP_UNIT_PERCENT, 0, share);
    sensor->gap_mm = section_quantity(section, "gap", CUP_UNIT_MM, 0, height);
    sensor->upright = read_tilt(section);
    sensor->mark_mm = section_quantity(section, "mark", CUP_UNIT_MM, 0, height);
    sensor->switched = section_entry(section, "warms") != NULL;
    sensor->warms_s = section_quantity(section, "warms", CUP_UNIT_SECOND, 0,
                                       (struct span){0, 600});
    sensor->fed_at_s = -1;
}

/* One key that says it all, read elsewhere. */
static void read_what(struct section *section,
                      const char *(*add)(struct garden *, const char *, double))
{
    const struct ini_entry *at = section_entry(section, "what");
    const char *message = at ? add(section->garden, at->value, INFINITY)
                             : "needs the key \"what\"";
    if (message)
        section_wrong(section, at, message);
}

static void read_fault(struct section *section)
{
    read_what(section, garden_fault);
}

static void read_visit(struct section *section)
{
    read_what(section, garden_visit);
}

static const struct {
    const char *name;
    void (*read)(struct section *section);
} things[] = {
    {"weather", read_weather}, {"vessel", read_vessel}, {"bed", read_bed},
    {"pump", read_pump},       {"valve", read_other},   {"fan", read_fan},
    {"vent", read_vent},       {"lamp", read_other},    {"sensor", read_sensor},
    {"fault", read_fault},     {"visit", read_visit}};
#define THINGS (sizeof(things) / sizeof(things[0]))

static void check_used(struct section *section)
{
    for (size_t i = 0; i < section->ini->count; i++) {
        const struct ini_entry *at = &section->ini->entries[i];
        if (i >= KEYS_MOST || !section->used[i])
            problem_error(section->problems, (struct place){at->line, at->text},
                          "there is no key \"%s\" for this", at->key);
    }
}

static bool is_full(const struct garden *garden)
{
    return garden->output_count >= PARTS_MOST - 1 ||
           garden->sensor_count >= SENSORS_MOST - 1 ||
           garden->vessel_count >= PARTS_MOST - 1 ||
           garden->bed_count >= PARTS_MOST - 1;
}

static void unknown_kind(struct section *section, const struct ini_entry *is)
{
    const char *names[THINGS + 1] = {0};
    for (size_t i = 0; i < THINGS; i++)
        names[i] = things[i].name;
    const char *near = is ? nearest_word(is->value, names) : NULL;
    struct place place = {section->ini->line, section->ini->text};
    if (is)
        place = (struct place){is->line, is->text};
    problem_error(section->problems, place,
                  "expected is = weather, vessel, bed, pump, valve, fan, vent, "
                  "lamp, sensor, fault or visit%s%s%s",
                  near ? "; did you mean \"" : "", near ? near : "",
                  near ? "\"?" : "");
}

static void read_section(struct garden *garden, const struct ini_section *ini,
                         struct problems *problems)
{
    struct section section = {garden, ini, problems, {false}};
    const struct ini_entry *is = section_entry(&section, "is");
    size_t i = 0;
    while (is && i < THINGS && strcmp(things[i].name, is->value) != 0)
        i++;
    if (!is || i == THINGS) {
        unknown_kind(&section, is);
        return;
    }
    if (is_full(garden)) {
        section_wrong(&section, NULL, "more things than a garden can have");
        return;
    }
    things[i].read(&section);
    check_used(&section);
}

struct garden *garden_read(const char *path, uint32_t seed, FILE *errors)
{
    struct problems problems = {0};
    struct ini_file ini = {0};
    FILE *in = fopen(path, "r");
    if (!in)
        return NULL;
    struct garden *garden = calloc(1, sizeof(*garden));
    if (!garden)
        abort();
    garden->weather_chance = seed * UINT64_C(0xD1342543DE82EF95) + 1;
    garden->fault_chance = ~garden->weather_chance;
    garden->vent = garden->fan = -1;
    garden->weather =
        (struct weather){.latitude = 50, .warm = 12, .seasons = 7.5};
    ini_file_read(&ini, in, &problems);
    int failed = ferror(in) ? errno : 0;
    fclose(in);
    for (size_t i = 0; i < ini.count; i++)
        read_section(garden, &ini.sections[i], &problems);
    problems_print(&problems, path, errors);
    bool good = problems.errors == 0 && !failed;
    problems_free(&problems);
    ini_file_free(&ini);
    if (good)
        return garden;
    free(garden);
    errno = failed;
    return NULL;
}

void garden_close(struct garden *garden)
{
    free(garden);
}
