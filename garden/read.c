/* The garden file: the grammar of the site file, other things. */
#include <ctype.h>
#include <errno.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/inifile.h"
#include "../grammar/quantity.h"
#include "cuplatch/say.h"
#include "inside.h"

/* No thing has nearly so many. */
#define KEYS_MOST 64

/* A section under reading: which of its keys were used. */
struct section {
    struct garden *garden;
    const struct ini_section *ini;
    struct problems *problems;
    bool used[KEYS_MOST];
};

static const struct ini_entry *entry(struct section *section, const char *key)
{
    for (size_t i = 0; i < section->ini->count && i < KEYS_MOST; i++)
        if (strcmp(section->ini->entries[i].key, key) == 0) {
            section->used[i] = true;
            return &section->ini->entries[i];
        }
    return NULL;
}

static void wrong(struct section *section, const struct ini_entry *at,
                  const char *message)
{
    struct place place = {section->ini->line, section->ini->text};
    if (at)
        place = (struct place){at->line, at->text};
    problem_error(section->problems, place, "%s", message);
}

/* How little and how much a key may say, both within. */
struct span {
    double low, high;
};

static void needs(struct section *section, const char *key)
{
    struct place place = {section->ini->line, section->ini->text};
    problem_error(section->problems, place, "needs the key \"%s\"", key);
}

/* The value itself when it lies within the span; else that is an error, and
 * what stands in for it is within. */
static double within(struct section *section, const struct ini_entry *at,
                     double value, struct span span, enum cup_unit unit)
{
    double scale = unit == CUP_UNIT_PERCENT ? 100 : 1;
    const char *symbol = cup_unit_symbol((uint8_t)unit);
    if (value >= span.low && value <= span.high)
        return value;
    problem_error(section->problems, (struct place){at->line, at->text},
                  "expected %.10g to %.10g%s%s", span.low * scale,
                  span.high * scale, *symbol ? " " : "", symbol);
    return span.low;
}

#define NEEDED NAN

/* A quantity in the unit's own size: mm, C, V, L/min, and a share of one for
 * per cent; `otherwise` when it is not given, which is an error when that is
 * NEEDED. */
typedef const char *reader(const char *text, enum cup_unit unit,
                           int32_t *value);

static double read_quantity(struct section *section, const char *key,
                            enum cup_unit unit, double otherwise,
                            struct span span, reader *read)
{
    static const double steps[CUP_UNIT_COUNT] = {
        [CUP_UNIT_PERCENT] = 10000, [CUP_UNIT_MM] = 10,
        [CUP_UNIT_CELSIUS] = 100,   [CUP_UNIT_PASCAL] = 1,
        [CUP_UNIT_LITRE] = 1000,    [CUP_UNIT_VOLT] = 1000,
        [CUP_UNIT_SECOND] = 1000,   [CUP_UNIT_FLOW] = 1000};
    const struct ini_entry *at = entry(section, key);
    int32_t value = 0;
    if (!at && isnan(otherwise)) {
        needs(section, key);
        return span.high;
    }
    if (!at)
        return otherwise;
    const char *message = read(at->value, unit, &value);
    if (!message)
        return within(section, at, value / steps[unit], span, unit);
    wrong(section, at, message);
    return span.high;
}

static double quantity(struct section *section, const char *key,
                       enum cup_unit unit, double otherwise, struct span span)
{
    return read_quantity(section, key, unit, otherwise, span, quantity_read);
}

/* The same of a difference. */
static double change(struct section *section, const char *key,
                     enum cup_unit unit, double otherwise, struct span span)
{
    return read_quantity(section, key, unit, otherwise, span,
                         quantity_read_change);
}

static double number(struct section *section, const char *key, double otherwise,
                     struct span span)
{
    const struct ini_entry *at = entry(section, key);
    char *end;
    if (!at)
        return otherwise;
    double value = strtod(at->value, &end);
    if (end != at->value && !*end)
        return within(section, at, value, span, CUP_UNIT_NONE);
    wrong(section, at, "expected a plain number");
    return span.high;
}

/* Spans of more than one key. */
static const struct span share = {0, 1};       /* of a whole */
static const struct span length = {10, 50000}; /* mm: a cup to a reservoir */
static const struct span height = {0, 50000};  /* mm: from there to nothing */
static const struct span flow = {0, 10000};    /* L/min */
static const struct span power = {0, 100000};  /* W */
static const struct span any = {0, 1e6};

/* Which of some words a key says; the first when it is not given. */
static int choice(struct section *section, const char *key,
                  const char *const *words)
{
    const struct ini_entry *at = entry(section, key);
    if (!at)
        return 0;
    for (int i = 0; words[i]; i++)
        if (strcmp(words[i], at->value) == 0)
            return i;
    char list[160] = "";
    const char *near = nearest_word(at->value, words);
    for (int i = 0; words[i]; i++)
        snprintf(list + strlen(list), sizeof(list) - strlen(list), "%s%s",
                 !i             ? ""
                 : words[i + 1] ? ", "
                                : " or ",
                 words[i]);
    problem_error(section->problems, (struct place){at->line, at->text},
                  "expected %s%s%s%s", list, near ? "; did you mean \"" : "",
                  near ? near : "", near ? "\"?" : "");
    return 0;
}

/* A letter, then letters, digits, _ or -, as in the site file. */
static void name_it(struct section *section, char *name)
{
    static const char letters[] = "abcdefghijklmnopqrstuvwxyz"
                                  "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-";
    const char *given = section->ini->name;
    snprintf(name, NAME_SIZE, "%s", given);
    if (strlen(given) > CUP_NAME_MAX || !isalpha((unsigned char)*given) ||
        given[strspn(given, letters)])
        wrong(section, NULL,
              "a name is a letter, then letters, digits, _ or -, at most 24 in "
              "all");
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
    weather->latitude = number(section, "latitude", 50, (struct span){-90, 90});
    weather->warm =
        quantity(section, "warm", CUP_UNIT_CELSIUS, 12, (struct span){-40, 60});
    weather->swing =
        change(section, "swing", CUP_UNIT_CELSIUS, 9, (struct span){0, 40});
    weather->clouds = quantity(section, "clouds", CUP_UNIT_PERCENT, 0.4, share);
    weather->showers = number(section, "showers", 0.3, (struct span){0, 100});
    weather->shower_mm =
        quantity(section, "shower", CUP_UNIT_MM, 6, (struct span){0, 500});
    section->garden->battery_v = quantity(section, "battery", CUP_UNIT_VOLT,
                                          12.6, (struct span){1, 1000});
    section->garden->solar_w = number(section, "solar", 100, power);
}

static void read_vessel(struct section *section)
{
    static const char *const shapes[] = {"upright", "box", "lying", NULL};
    struct garden *garden = section->garden;
    struct vessel *vessel = &garden->vessels[garden->vessel_count];
    name_it(section, vessel->name);
    vessel->shape = choice(section, "shape", shapes);
    bool box = vessel->shape == 1;
    vessel->diameter =
        quantity(section, "diameter", CUP_UNIT_MM, box ? 0 : NEEDED, length);
    vessel->length = quantity(section, "length", CUP_UNIT_MM,
                              vessel->shape == 0 ? 0 : NEEDED, length);
    vessel->width =
        quantity(section, "width", CUP_UNIT_MM, box ? NEEDED : 0, length);
    vessel->depth =
        quantity(section, "depth", CUP_UNIT_MM,
                 vessel->shape == 2 ? vessel->diameter : NEEDED, length);
    if (vessel->shape == 2 && vessel->depth > vessel->diameter) {
        wrong(section, entry(section, "depth"),
              "a lying vessel is no deeper than its diameter");
        vessel->depth = vessel->diameter;
    }
    vessel->roof_m2 = number(section, "roof", 0, any);
    vessel->fed_l_s = quantity(section, "fed", CUP_UNIT_FLOW, 0, flow) / 60;
    vessel->used_l_day = number(section, "used", 0, any);
    vessel->float_band_mm = quantity(section, "valve", CUP_UNIT_MM, 0, height);
    vessel->drains_l_min = quantity(section, "drains", CUP_UNIT_FLOW, 0, flow);
    const struct ini_entry *back = entry(section, "back");
    vessel->back = back ? garden_find(garden, VESSEL, back->value) : -1;
    if (back && vessel->back < 0)
        wrong(section, back, "there is no such vessel above this");
    double holds = quantity(section, "holds", CUP_UNIT_PERCENT, 0.5, share);
    vessel_shape(vessel);
    vessel->litres = holds * vessel->capacity;
    vessel->truth.lowest_l = vessel->truth.highest_l = vessel->litres;
    garden->vessel_count++;
}

/* FAO-56, table 19: field capacity and wilting point by texture, mid-range. */
static const struct {
    double field, wilting, full, soaks_mm_h;
} textures[] = {{0.12, 0.045, 0.38, 30},
                {0.25, 0.12, 0.45, 18},
                {0.29, 0.15, 0.48, 12},
                {0.36, 0.22, 0.50, 6}};

static void read_bed(struct section *section)
{
    static const char *const words[] = {"sand", "loam", "silt", "clay", NULL};
    struct garden *garden = section->garden;
    struct bed *bed = &garden->beds[garden->bed_count++];
    int texture = choice(section, "soil", words);
    name_it(section, bed->name);
    bed->area_m2 = number(section, "area", 4, (struct span){0.01, 1e6});
    bed->roots_mm =
        quantity(section, "roots", CUP_UNIT_MM, 300, (struct span){10, 5000});
    bed->crop = number(section, "crop", 1, (struct span){0, 5});
    bed->delay_s = quantity(section, "delay", CUP_UNIT_SECOND, 300,
                            (struct span){1, 864000});
    bed->field = textures[texture].field;
    bed->wilting = textures[texture].wilting;
    bed->full = textures[texture].full;
    bed->soaks_mm_s = textures[texture].soaks_mm_h / 3600;
    double holds = quantity(section, "holds", CUP_UNIT_PERCENT, 0.8, share);
    bed->seen = bed->wilting + holds * (bed->field - bed->wilting);
    bed->water_mm = bed->seen * bed->roots_mm;
}

/* "kale_bed" or "kale_bed by kale_valve, leek_bed by leek_valve" */
static void read_into(struct section *section, struct output *pump)
{
    const struct ini_entry *at = entry(section, "into");
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
                wrong(section, at, "there is no such valve above this");
        }
        text = strchr(text, ',');
        text = text ? text + 1 + strspn(text + 1, " \t") : "";
    }
    if (*text)
        wrong(section, at, "a pump feeds at most two");
}

static void read_output(struct section *section, bool is_pump)
{
    struct garden *garden = section->garden;
    struct output *output = &garden->outputs[garden->output_count];
    output->valve[0] = output->valve[1] = -1;
    output->power_w = number(section, "power", is_pump ? 60 : 2, power);
    if (is_pump) {
        const struct ini_entry *from = entry(section, "from");
        if (from)
            output->from = find_place(section, from, from->value);
        read_into(section, output);
        output->flow_l_s = quantity(section, "flow", CUP_UNIT_FLOW, NEEDED,
                                    (struct span){0.001, 10000}) /
                           60;
        output->intake_mm =
            quantity(section, "intake", CUP_UNIT_MM, 40, height);
        output->primes_s = quantity(section, "primes", CUP_UNIT_SECOND, 2,
                                    (struct span){0, 86400});
        output->pipe_s = (int)quantity(section, "pipe", CUP_UNIT_SECOND, 0,
                                       (struct span){0, PIPE_MOST});
        output->head_m = quantity(section, "head", CUP_UNIT_MM, 0,
                                  (struct span){0, 200000}) /
                         1000;
        output->rises_m = quantity(section, "rises", CUP_UNIT_MM, 0,
                                   (struct span){0, 200000}) /
                          1000;
        output->into_line =
            output->into[0].kind == VESSEL &&
            garden->vessels[output->into[0].index].float_band_mm > 0;
        if (output->head_m > 0 && output->rises_m >= output->head_m)
            wrong(section, entry(section, "rises"), "must be less than head");
    }
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
    const struct ini_entry *at = entry(section, "raw");
    sensor->low = 0;
    sensor->high = 1000;
    long low = 0;
    long high = 0;
    char more;
    if (!at)
        return;
    if (sscanf(at->value, "%9ld..%9ld%c", &low, &high, &more) != 2)
        wrong(section, at,
              "expected RAW..RAW, at nothing and at full scale, each at most "
              "nine digits");
    sensor->low = (double)low;
    sensor->high = (double)high;
}

static void read_of(struct section *section, struct sensor *sensor)
{
    const struct ini_entry *at = entry(section, "of");
    const struct garden *garden = section->garden;
    if (!at)
        return;
    if (sensor->kind == S_PROBE)
        sensor->of = garden_find(garden, BED, at->value);
    else if (sensor->kind == S_PRESSURE)
        sensor->of = garden_output(garden, at->value);
    else
        sensor->of = garden_find(garden, VESSEL, at->value);
    if (sensor->of < 0) {
        wrong(section, at, "there is no such thing above this");
        sensor->of = 0;
    }
}

static void read_sensor(struct section *section)
{
    static const char *const words[] = {
        "probe", "echo",   "word",        "pressure", "float", "light", "air",
        "damp",  "tunnel", "tunnel-damp", "battery",  "depth", NULL};
    struct garden *garden = section->garden;
    struct sensor *sensor = &garden->sensors[garden->sensor_count++];
    name_it(section, sensor->name);
    sensor->chance =
        garden->weather_chance * (2 * (uint64_t)garden->sensor_count + 3);
    sensor->kind = choice(section, "as", words);
    read_of(section, sensor);
    read_range(section, sensor);
    sensor->full = number(section, "full", 1, (struct span){1e-6, 1e9});
    sensor->noise = number(section, "noise", 0, any);
    sensor->missing = quantity(section, "missing", CUP_UNIT_PERCENT, 0, share);
    sensor->spikes = quantity(section, "spikes", CUP_UNIT_PERCENT, 0, share);
    sensor->gap_mm = quantity(section, "gap", CUP_UNIT_MM, 0, height);
    sensor->mark_mm = quantity(section, "mark", CUP_UNIT_MM, 0, height);
}

static void read_fault(struct section *section)
{
    const struct ini_entry *at = entry(section, "what");
    const char *message = at ? garden_fault(section->garden, at->value)
                             : "needs the key \"what\"";
    if (message)
        wrong(section, at, message);
}

static const struct {
    const char *name;
    void (*read)(struct section *section);
} things[] = {{"weather", read_weather}, {"vessel", read_vessel},
              {"bed", read_bed},         {"pump", read_pump},
              {"valve", read_other},     {"fan", read_fan},
              {"vent", read_vent},       {"lamp", read_other},
              {"sensor", read_sensor},   {"fault", read_fault}};
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
                  "lamp, sensor or fault%s%s%s",
                  near ? "; did you mean \"" : "", near ? near : "",
                  near ? "\"?" : "");
}

static void read_section(struct garden *garden, const struct ini_section *ini,
                         struct problems *problems)
{
    struct section section = {garden, ini, problems, {false}};
    const struct ini_entry *is = entry(&section, "is");
    size_t i = 0;
    while (is && i < THINGS && strcmp(things[i].name, is->value) != 0)
        i++;
    if (!is || i == THINGS) {
        unknown_kind(&section, is);
        return;
    }
    if (is_full(garden)) {
        wrong(&section, NULL, "more things than a garden can have");
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
    garden->weather = (struct weather){.latitude = 50, .warm = 12};
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
