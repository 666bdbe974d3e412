/* Makes the plan of the things, and checks what needs more than one key: the
 * order of marks, what a sensor can read, what a pump must know. */
#include <stdlib.h>
#include <string.h>

#include "../inside.h"
#include "cuplatch/say.h"

static void make_site(struct cup_file *file)
{
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    struct cup_plan *plan = &file->plan;
    plan->layout = CUP_LAYOUT;
    plan->scan_ms = 1000;
    if (!site) {
        problem_error(&file->problems, (struct place){1, "[site]"},
                      "the file needs a [site] section");
        return;
    }
    plan->scan_ms = (uint32_t)number_of(site, "scan", 1000);
    plan->repeat_ms = (uint32_t)number_of(site, "repeat", 3600000);
    plan->patience_ms = (uint32_t)number_of(site, "patience", 7200000);
    plan->late_ms = (uint32_t)number_of(site, "late", 0);
    if (plan->late_ms == 0)
        plan->late_ms = cup_least(plan->scan_ms * 10, CUP_TIME_MAX_MS);
    plan->boot_wait_ms = (uint32_t)number_of(site, "boot_wait", 0);
    plan->us = number_of(site, "units", 0) == 1;
    plan->at_once = (cup_index)number_of(site, "at_once", 0);
    if (good_value(site, "late") && plan->late_ms <= plan->scan_ms)
        problem_error(&file->problems, value_of(site, "late")->place,
                      "must be longer than scan, or every pass is late");
    const struct value *id = good_value(site, "id");
    if (id && !ini_is_name(id->text))
        problem_error(&file->problems, id->place,
                      "expected a letter, then letters, digits, _ or -, %d at "
                      "most",
                      CUP_NAME_MAX);
}

/* Things that have a number in the plan. */
static bool in_plan(const struct thing *thing)
{
    return thing->kind >= KIND_SENSOR && thing->kind <= KIND_ALERT;
}

/* Lamps come after all things: bars, then signals; then buttons. */
static void make_lamp_names(struct cup_file *file)
{
    static const enum kind_number kinds[] = {KIND_BAR, KIND_SIGNAL,
                                             KIND_BUTTON};
    size_t next = cup_things(&file->plan);
    for (size_t k = 0; k < sizeof(kinds) / sizeof(kinds[0]); k++)
        for (size_t i = 0; i < file->things.count; i++)
            if (file->things.list[i].kind == kinds[k])
                file->tables.names[next++] = file->things.list[i].section->name;
}

static void make_names(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count; i++)
        if (in_plan(&file->things.list[i]))
            file->tables.names[plan_number(file, (int32_t)i)] =
                file->things.list[i].section->name;
    make_lamp_names(file);
}

/* FNV-1a, with a zero after each text so that "ab" "c" is not "a" "bc". */
static uint32_t hash(uint32_t before, const char *text)
{
    do
        before = (before ^ (unsigned char)*text) * UINT32_C(16777619);
    while (*text++);
    return before;
}
#define HASH_BEGIN UINT32_C(2166136261)

/* What the journal knows things and the whole site by: comments and the order
 * of keys in a section change nothing. */
static void make_keys(struct cup_file *file)
{
    for (size_t i = 0; i < file->things.count; i++) {
        const struct ini_section *section = file->things.list[i].section;
        if (in_plan(&file->things.list[i]))
            file->tables.keys[plan_number(file, (int32_t)i)] =
                hash(HASH_BEGIN, section->name);
        for (size_t k = 0; k < section->count; k++)
            file->plan.fingerprint += hash(
                hash(hash(HASH_BEGIN, section->name), section->entries[k].key),
                section->entries[k].value);
    }
}

static void check_used(struct cup_file *file, const struct thing *thing)
{
    for (size_t i = 0; i < file->plan.duty_count; i++) {
        const struct cup_duty *duty = &file->plan.duties[i];
        bool used = duty->pump == thing->index;
        for (uint8_t v = 0; v < duty->through_count; v++)
            used |= duty->through[v] == thing->index;
        if (used)
            return;
    }
    problem_warning(&file->problems, thing->place,
                    "no duty runs it: it runs only by hand");
}

/* What a thing of a guessed kind lacks is not told: only what it says. */
static void make_thing(struct cup_file *file, const struct thing *thing,
                       void (*make)(struct cup_file *, const struct thing *))
{
    size_t count = file->problems.count;
    make(file, thing);
    if (thing->guessed)
        problems_forget(&file->problems, count, thing->place.line);
}

static void make_kind(struct cup_file *file, int kind)
{
    static void (*const makers[])(struct cup_file *, const struct thing *) = {
        [KIND_SENSOR] = plan_make_sensor, [KIND_TANK] = plan_make_tank,
        [KIND_PUMP] = plan_make_pump,     [KIND_DUTY] = plan_make_duty,
        [KIND_SOURCE] = plan_make_source, [KIND_DAY] = plan_make_day,
        [KIND_ALERT] = plan_make_alert,   [KIND_GROUP] = plan_make_group,
        [KIND_BAR] = plan_make_bar,       [KIND_SIGNAL] = plan_make_signal,
        [KIND_PANEL] = plan_make_panel,   [KIND_BUTTON] = plan_make_button,
    };
    for (size_t i = 0; i < file->things.count; i++)
        if ((int)file->things.list[i].kind == kind)
            make_thing(file, &file->things.list[i], makers[kind]);
}

/* What the plan has no use for, and whoever runs the site asks for. */
static void leave_to_others(const struct cup_file *file)
{
    static const char *const keys[] = {"name", "id", "zone", "speakers"};
    const struct thing *site = thing_of(&file->things, KIND_SITE, 0);
    for (size_t i = 0; site && i < sizeof(keys) / sizeof(keys[0]); i++)
        (void)value_of(site, keys[i]);
}

void plan_make(struct cup_file *file)
{
    plan_make_tables(file);
    make_names(file);
    make_keys(file);
    make_site(file);
    plan_share(file);
    make_kind(file, KIND_SENSOR);
    plan_make_severals(file);
    for (int kind = KIND_SENSOR + 1; kind < KIND_COUNT; kind++)
        make_kind(file, kind);
    plan_make_brims(file);
    plan_make_spans(file);
    plan_make_watches(file);
    for (size_t i = 0; i < file->things.count; i++)
        if (file->things.list[i].kind == KIND_PUMP)
            check_used(file, &file->things.list[i]);
    plan_check_ports(file);
    plan_check_odd(file);
    leave_to_others(file);
}
