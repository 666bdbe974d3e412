/* Opens a site file, has it read and checked, and keeps what came of it. */
#include "sitefile.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "inside.h"

/* A key that is taken and does nothing is a mistake of ours. */
static inline bool all_is_read(const struct cup_file *file)
{
    const struct value *value = things_unasked(&file->things);
    if (value)
        fprintf(stderr, "%s:%d: %s: nobody reads this key\n", file->path,
                value->place.line, value->place.text);
    return !value;
}

struct cup_file *cup_file_read_from(FILE *in, const char *name)
{
    struct cup_file *file = calloc(1, sizeof(*file));
    if (!file)
        return NULL;
    file->path = strdup(name);
    ini_file_read(&file->ini, in, &file->problems);
    if (ferror(in) || !file->path) {
        cup_file_free(file);
        return NULL;
    }
    things_read(&file->things, &file->ini, &file->problems);
    plan_make(file);
    CUP_INVARIANT(cup_file_errors(file) > 0 || all_is_read(file));
    CUP_INVARIANT(cup_file_errors(file) > 0 ||
                  !cup_plan_check(&file->plan, NULL));
    return file;
}

struct cup_file *cup_file_read(const char *path)
{
    FILE *in = fopen(path, "r");
    if (!in)
        return NULL;
    struct cup_file *file = cup_file_read_from(in, path);
    int why = errno;
    fclose(in);
    errno = why;
    return file;
}

void cup_file_free(struct cup_file *file)
{
    if (!file)
        return;
    plan_free(file);
    things_free(&file->things);
    ini_file_free(&file->ini);
    problems_free(&file->problems);
    free(file->path);
    free(file);
}

size_t cup_file_errors(const struct cup_file *file)
{
    return file->problems.errors;
}

void cup_file_problems(struct cup_file *file, FILE *out)
{
    problems_print(&file->problems, file->path, out);
}

const struct cup_plan *cup_file_plan(const struct cup_file *file)
{
    return file->problems.errors == 0 ? &file->plan : NULL;
}

const char *cup_file_name(const struct cup_file *file)
{
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    const struct value *name = site ? value_of(site, "name") : NULL;
    return name && name->given ? name->text : file->path;
}

const char *cup_file_port(const struct cup_file *file, cup_index thing)
{
    const struct cup_plan *plan = &file->plan;
    const struct thing *found = NULL;
    if (thing < plan->sensor_count)
        found = thing_of(&file->things, KIND_SENSOR, thing);
    else if (thing >= cup_pump_thing(plan, 0))
        found = thing_of(&file->things, KIND_PUMP,
                         (size_t)(thing - cup_pump_thing(plan, 0)));
    return found ? value_of(found, "port")->text : NULL;
}

const char *cup_file_value(const struct cup_file *file, const char *thing,
                           const char *key)
{
    for (size_t i = 0; i < file->ini.count; i++) {
        const struct ini_section *section = &file->ini.sections[i];
        if (strcmp(section->name, thing) != 0)
            continue;
        for (size_t j = 0; j < section->count; j++)
            if (strcmp(section->entries[j].key, key) == 0)
                return section->entries[j].value;
    }
    return NULL;
}

bool cup_file_range(const struct cup_file *file, const char *tank, int *low,
                    int *high)
{
    for (size_t i = 0; i < file->things.count; i++) {
        const struct thing *thing = &file->things.list[i];
        if (thing->kind == KIND_TANK && strcmp(thing->section->name, tank) == 0)
            return plan_range(file, thing, low, high);
    }
    return false;
}
