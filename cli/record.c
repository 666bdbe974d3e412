/* Writes a rehearsal down. */
#include "record.h"

#include <errno.h>
#include <inttypes.h>
#include <limits.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>

#include "../ports/common/json.h"
#include "cli.h"
#include "cuplatch/say.h"

/* Levels are written this often: 1440 points a day. */
#define LEVELS_EVERY_S UINT64_C(60)

struct record {
    char *dir;
    const struct cup_site *site;
    FILE *events;
    FILE *levels;
    FILE *raw;
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
    fprintf(record->raw, "t_ms");
    for (cup_index i = 0; i < plan->sensor_count; i++)
        fprintf(record->raw, ",%s", cup_thing_name(plan, i));
    fprintf(record->levels, "s");
    for (cup_index i = 0; i < cup_duty_thing(plan, 0); i++)
        fprintf(record->levels, ",%s", cup_thing_name(plan, i));
    fprintf(record->raw, "\n");
    fprintf(record->levels, "\n");
}

/* A row only when something was heard, and for the first pass. */
static void write_raw(struct record *record, uint32_t t_ms)
{
    const struct cup_plan *plan = record->site->plan;
    bool any = record->passes == 0;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        any |= record->onlooker.sensors[i].heard;
    if (!any)
        return;
    fprintf(record->raw, "%" PRIu32, t_ms);
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        struct cup_seen *seen = &record->onlooker.sensors[i];
        if (!seen->heard)
            fputc(',', record->raw);
        else if (seen->sample.reject == CUP_REASON_NO_ANSWER)
            fputs(",-", record->raw);
        else if (seen->sample.reject != CUP_REASON_NONE)
            fprintf(record->raw, ",%s", cup_reason_code(seen->sample.reject));
        else
            fprintf(record->raw, ",%" PRId32, seen->sample.raw);
        seen->heard = false;
    }
    fputc('\n', record->raw);
}

static void write_value(FILE *out, int32_t value, uint8_t unit)
{
    double scale = 1;
    for (uint8_t i = 0; i < cup_unit_decimals(unit); i++)
        scale *= 10;
    fprintf(out, ",%.*f", cup_unit_decimals(unit), value / scale);
}

static void write_levels(const struct record *record, uint64_t now_s)
{
    const struct cup_plan *plan = record->site->plan;
    fprintf(record->levels, "%" PRIu64, now_s);
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
    if (now_ms % (LEVELS_EVERY_S * 1000) == 0)
        write_levels(record, now_ms / 1000);
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
                json_pack("{s:s, s:o, s:o}", "of",
                          cup_thing_name(plan, plan->duties[i].keep), "start",
                          cup_json_value(plan->duties[i].latch.start, unit),
                          "stop",
                          cup_json_value(plan->duties[i].latch.stop, unit)));
        }
    cup_json_line(out, json);
    return fclose(out) == 0;
}

struct record *record_open(const char *dir, const struct cup_file *file,
                           const struct cup_site *site, uint32_t from_s)
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
    record->onlooker.sensors = calloc(site->plan->sensor_count + 1u,
                                      sizeof(*record->onlooker.sensors));
    record->onlooker.passed = passed;
    record->onlooker.self = record;
    record->events = open_in(dir, "events.jsonl");
    record->levels = open_in(dir, "levels.csv");
    record->raw = open_in(dir, "raw.csv");
    if (record->dir && record->onlooker.sensors && record->events &&
        record->levels && record->raw &&
        write_marks(record, dir, file, from_s)) {
        write_heads(record);
        return record;
    }
    record_close(record, false);
    return NULL;
}

static bool shut(FILE *out)
{
    if (!out)
        return false;
    bool failed = ferror(out);
    return fclose(out) == 0 && !failed;
}

bool record_close(struct record *record, bool tells)
{
    char picture[PATH_MAX];
    bool good = shut(record->events);
    good = shut(record->levels) && good;
    good = shut(record->raw) && good;
    snprintf(picture, sizeof(picture), "%s/rehearsal.png", record->dir);
    if (good && record->passes > 0 && plot_record(record->dir, picture))
        tells = false;
    if (good && tells)
        printf("\nEvents, levels, the raw log and a picture are in %s:\n  "
               "%s/events.jsonl  levels.csv  raw.csv  rehearsal.png\n",
               record->dir, record->dir);
    if (!good)
        fprintf(stderr, "cuplatch: %s: not all could be written\n",
                record->dir);
    free(record->onlooker.sensors);
    free(record->dir);
    free(record);
    return good;
}
