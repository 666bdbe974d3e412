/* Writes a rehearsal down. */
#include "record.h"

#include <errno.h>
#include <inttypes.h>
#include <limits.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>

#include "../../ports/common/json.h"
#include "../../ports/log/rows.h"
#include "../../ports/sim/sim.h"
#include "../common/cli.h"
#include "../picture/record.h"
#include "cuplatch/say.h"

/* Levels are written this often: 1440 points a day. */
#define LEVELS_EVERY_S UINT64_C(60)

struct record {
    char *dir;
    const struct cup_site *site;
    FILE *events;
    FILE *levels;
    FILE *raw;
    FILE *truth;
    struct cup_rows *rows;
    struct garden *garden; /* null: nobody knows the truth */
    struct cup_onlooker onlooker;
    uint64_t passes;
    bool failed;
};

static FILE *open_in(const char *dir, const char *name)
{
    char path[PATH_MAX];
    errno = ENAMETOOLONG;
    int length = snprintf(path, sizeof(path), "%s/%s", dir, name);
    FILE *out = length < (int)sizeof(path) ? fopen(path, "w") : NULL;
    if (!out)
        fprintf(stderr, "cuplatch: %s: %s\n", path, strerror(errno));
    return out;
}

static void write_heads(const struct record *record)
{
    const struct cup_plan *plan = record->site->plan;
    fprintf(record->raw, "%s\n", cup_rows_head(record->rows));
    fprintf(record->levels, "s");
    for (cup_index i = 0; i < cup_duty_thing(plan, 0); i++)
        fprintf(record->levels, ",%s", cup_thing_name(plan, i));
    fprintf(record->levels, "\n");
    if (!record->garden)
        return;
    fprintf(record->truth, "s");
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++)
        fprintf(record->truth, ",%s", cup_thing_name(plan, i));
    fprintf(record->truth, ",sun,rain_mm,outside_C");
    for (int i = 0; i < garden_pumps(record->garden); i++)
        fprintf(record->truth, ",%s_L",
                garden_pump_truth(record->garden, i).name);
    fputc('\n', record->truth);
}

/* A number with so many of its digits behind the point. A year has hundreds of
 * millions of these: printf() would take longer than the rehearsal itself. */
static void write_number(FILE *out, int64_t value, int decimals)
{
    char text[32];
    char *at = text + sizeof(text);
    uint64_t left = value < 0 ? 0 - (uint64_t)value : (uint64_t)value;
    for (int i = 0; i <= decimals || left > 0; i++, left /= 10) {
        if (i == decimals && i > 0)
            *--at = '.';
        *--at = (char)('0' + left % 10);
    }
    if (value < 0)
        *--at = '-';
    fwrite_unlocked(at, 1, (size_t)(text + sizeof(text) - at), out);
}

/* A row only when something was heard, and for the first pass. */
static void write_raw(struct record *record, uint32_t t_ms)
{
    const struct cup_plan *plan = record->site->plan;
    size_t length;
    if (record->passes == 0)
        cup_rows_clock(record->rows, cup_site_clock_s(record->site));
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        struct cup_seen *seen = &record->onlooker.sensors[i];
        if (seen->heard)
            (void)cup_rows_sample(record->rows, i, seen->sample);
        seen->heard = false;
    }
    const char *row = cup_rows_end(record->rows, t_ms, &length);
    if (row) {
        fwrite_unlocked(row, 1, length, record->raw);
        putc_unlocked('\n', record->raw);
    }
}

static void write_value(FILE *out, int32_t value, uint8_t unit)
{
    putc_unlocked(',', out);
    write_number(out, value, cup_unit_decimals(unit));
}

static void write_real(FILE *out, double value, int decimals)
{
    putc_unlocked(',', out);
    write_number(out, llround(value * pow(10, decimals)), decimals);
}

/* What was there: the truth beside each level that can be told, and the sky. */
static void write_truth(const struct record *record, uint64_t now_s)
{
    const struct cup_plan *plan = record->site->plan;
    struct garden_sky sky = garden_sky(record->garden);
    cup_value value;
    write_number(record->truth, (int64_t)now_s, 0);
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++)
        if (cup_sim_truth(record->garden, plan, i, &value))
            write_value(record->truth, value, cup_thing_unit(plan, i));
        else
            fputc(',', record->truth);
    write_real(record->truth, sky.sun, 3);
    write_real(record->truth, sky.rain_mm, 3);
    write_real(record->truth, sky.air, 2);
    for (int i = 0; i < garden_pumps(record->garden); i++)
        write_real(record->truth, garden_pump_truth(record->garden, i).moved_l,
                   2);
    fputc('\n', record->truth);
}

static void write_levels(const struct record *record, uint64_t now_s)
{
    const struct cup_plan *plan = record->site->plan;
    write_number(record->levels, (int64_t)now_s, 0);
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++) {
        struct cup_reading reading = cup_site_reading(record->site, i);
        if (cup_usable(reading))
            write_value(record->levels, reading.value, reading.unit);
        else
            fputc(',', record->levels);
    }
    for (cup_index i = 0; i < plan->pump_count; i++)
        write_value(record->levels, cup_site_place(record->site, i, NULL),
                    CUP_UNIT_PERCENT);
    fputc('\n', record->levels);
}

static void passed(void *self, uint32_t t_ms)
{
    struct record *record = self;
    uint64_t now_ms = record->passes * record->site->plan->scan_ms;
    write_raw(record, t_ms);
    if (now_ms % (LEVELS_EVERY_S * 1000) == 0) {
        write_levels(record, now_ms / 1000);
        if (record->garden)
            write_truth(record, now_ms / 1000);
    }
    record->passes++;
}

void record_event(struct record *record, uint64_t now_s,
                  const struct cup_event *event)
{
    json_t *json = cup_json_event(record->site->plan, event);
    json_object_set_new(json, "s", json_integer((json_int_t)now_s));
    cup_json_line(record->events, json);
}

struct cup_onlooker *record_onlooker(struct record *record)
{
    return &record->onlooker;
}

/* What goes wrong in the garden, and when. */
static json_t *troubles_of(const struct garden *garden)
{
    json_t *list = json_array();
    for (int i = 0; garden && i < garden_troubles(garden); i++) {
        struct garden_trouble trouble = garden_trouble_truth(garden, i);
        json_array_append_new(list,
                              json_pack("{s:s, s:s, s:f, s:f}", "kind",
                                        trouble.kind, "of", trouble.what, "s",
                                        trouble.at_s, "for_s", trouble.for_s));
    }
    return list;
}

/* What the picture needs of the site: marks, and which panel each is in. */
static bool write_marks(const struct record *record, const char *dir,
                        const struct cup_file *file, uint32_t from_s)
{
    const struct cup_plan *plan = record->site->plan;
    FILE *out = open_in(dir, "site.json");
    if (!out)
        return false;
    json_t *json = json_pack(
        "{s:s, s:s, s:I, s:o, s:o, s:o}", "name", cup_file_name(file), "units",
        plan->us ? "us" : "metric", "from_s", (json_int_t)from_s, "levels",
        json_array(), "pumps", json_array(), "marks", json_array());
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++)
        json_array_append_new(
            json_object_get(json, "levels"),
            json_pack("{s:s, s:s, s:b}", "name", cup_thing_name(plan, i),
                      "unit", cup_unit_symbol(cup_thing_unit(plan, i)), "tank",
                      i >= plan->sensor_count));
    for (cup_index i = 0; i < plan->pump_count; i++)
        json_array_append_new(
            json_object_get(json, "pumps"),
            json_string(cup_thing_name(plan, cup_pump_thing(plan, i))));
    for (cup_index i = 0; i < plan->duty_count; i++)
        if (!plan->duties[i].turn) {
            uint8_t unit = cup_thing_unit(plan, plan->duties[i].keep);
            json_array_append_new(
                json_object_get(json, "marks"),
                json_pack(
                    "{s:s, s:s, s:o, s:o}", "of",
                    cup_thing_name(plan, plan->duties[i].keep), "duty",
                    cup_thing_name(plan, cup_duty_thing(plan, i)), "start",
                    cup_json_value(plan->duties[i].latch.start, unit), "stop",
                    cup_json_value(plan->duties[i].latch.stop, unit)));
        }
    json_object_set_new(json, "troubles", troubles_of(record->garden));
    cup_json_line(out, json);
    return fclose(out) == 0;
}

static bool open_files(struct record *record)
{
    bool good = (record->events = open_in(record->dir, "events.jsonl")) &&
                (record->levels = open_in(record->dir, "levels.csv")) &&
                (record->raw = open_in(record->dir, "raw.csv"));
    if (good && record->garden)
        good = (record->truth = open_in(record->dir, "truth.csv")) != NULL;
    return good;
}

struct record *record_open(const char *dir, const struct cup_file *file,
                           const struct cup_site *site, uint32_t from_s,
                           struct garden *garden)
{
    if (mkdir(dir, 0777) != 0 && errno != EEXIST) {
        fprintf(stderr, "cuplatch: %s: %s\n", dir, strerror(errno));
        return NULL;
    }
    struct record *record = calloc(1, sizeof(*record));
    if (!record)
        abort();
    record->dir = strdup(dir);
    record->site = site;
    record->garden = garden;
    record->onlooker.sensors = calloc(site->plan->sensor_count + 1u,
                                      sizeof(*record->onlooker.sensors));
    record->rows = cup_rows_make(site->plan);
    record->onlooker.passed = passed;
    record->onlooker.self = record;
    if (!record->dir || !record->onlooker.sensors)
        abort();
    if (open_files(record) && write_marks(record, dir, file, from_s)) {
        write_heads(record);
        return record;
    }
    record_close(record, RECORD_SILENT);
    return NULL;
}

static bool shut(FILE *out)
{
    if (!out)
        return false;
    bool failed = ferror(out);
    return fclose(out) == 0 && !failed;
}

static bool shut_files(const struct record *record)
{
    bool good = shut(record->events);
    good = shut(record->levels) && good;
    good = shut(record->raw) && good;
    return (!record->garden || shut(record->truth)) && good;
}

static void tell_files(const char *dir)
{
    printf("\nEvents, levels, the raw log and a picture are in %s:\n  "
           "%s/events.jsonl  levels.csv  truth.csv  raw.csv  rehearsal.png\n",
           dir, dir);
}

bool record_close(struct record *record, enum record_end end)
{
    char picture[PATH_MAX];
    bool good = shut_files(record);
    bool drawn = false;
    snprintf(picture, sizeof(picture), "%s/rehearsal.png", record->dir);
    if (good && record->passes > 0 && end != RECORD_SILENT)
        drawn = plot_record(record->dir, picture) == EXIT_DONE;
    if (drawn && end == RECORD_TELLS)
        tell_files(record->dir);
    if (!good)
        fprintf(stderr, "cuplatch: %s: not all could be written\n",
                record->dir);
    cup_rows_free(record->rows);
    free(record->onlooker.sensors);
    free(record->dir);
    free(record);
    return good;
}
