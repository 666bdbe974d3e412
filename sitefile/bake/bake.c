/* The whole of a baked plan: its head, its tables, its one site. One file: it
 * is read beside what it writes, in that order. */
#include "../bake.h"

#include <ctype.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#include "fields.h"

/* Counts of things, and of states that things have of their own. */
static void put_counts(struct words *words, const struct cup_plan *at)
{
    INDEX(sensor_count);
    INDEX(tank_count);
    INDEX(pump_count);
    INDEX(duty_count);
    INDEX(source_count);
    INDEX(day_count);
    INDEX(alert_count);
    INDEX(watch_count);
    INDEX(setting_count);
    INDEX(group_count);
    INDEX(routes);
    INDEX(bar_count);
    INDEX(signal_count);
    INDEX_WHERE(BUTTONS, button_count);
    NUMBER(panel_width);
    NUMBER_WHERE(US, us);
    NUMBER(lapse_ms);
    NUMBER(light_ms);
    INDEX(checks);
    INDEX(proofs);
    INDEX(per_days);
    INDEX_WHERE(SPANS, spans);
    INDEX(doses);
    INDEX(alsos);
    INDEX(turns);
    INDEX(travels);
    INDEX(streams);
    INDEX_WHERE(SEVERAL, severals);
    INDEX(supplies);
    INDEX(channels);
    INDEX(at_once);
}

/* Every table by its field of the plan. */
struct tables_of {
    const char *field;
    const char *name;
};
#define TABLES_MOST 14

static void put_tables(struct bake *bake, struct tables_of *tables)
{
    const struct tables_of all[TABLES_MOST] = {
        {"sensors", bake_sensors(bake)},   {"tanks", bake_tanks(bake)},
        {"pumps", bake_pumps(bake)},       {"duties", bake_duties(bake)},
        {"sources", bake_sources(bake)},   {"days", bake_days(bake)},
        {"alerts", bake_alerts(bake)},     {"watches", bake_watches(bake)},
        {"settings", bake_settings(bake)}, {"bars", bake_bars(bake)},
        {"signals", bake_signals(bake)},   {"groups", bake_groups(bake)},
        {"names", bake_names(bake)},       {"keys", bake_keys(bake)}};
    memcpy(tables, all, sizeof(all));
}

/* The plan itself goes last, since it points to all others. */
static void put_plan(struct bake *bake)
{
    const struct cup_plan *at = bake->plan;
    struct tables_of tables[TABLES_MOST];
    put_tables(bake, tables);
    struct words *words = words_begin(bake);
    NUMBER(scan_ms);
    NUMBER(late_ms);
    NUMBER(boot_wait_ms);
    if (bake->uses[CUP_BLOCK_ONCE])
        NUMBER_WHERE(ONCE, repeat_ms);
    if (bake->uses[CUP_BLOCK_CHOICES])
        NUMBER_WHERE(CHOICES, patience_ms);
    words_constant(words, "layout", sizeof(at->layout), "CUP_LAYOUT");
    NUMBER(cells);
    put_counts(words, at);
    for (int i = 0; i < TABLES_MOST; i++)
        words_pointer(words, tables[i].field, tables[i].name, false);
    WHERE(BUTTONS, words_pointer(words, "buttons", bake_buttons(bake), false));
    NUMBER(fingerprint);
    bake_table(bake, "struct cup_plan", "plan", false, words);
}

/* A table of the state: its type, the size of one, its name in the site, how
 * many, and the block without which it has no use. `values` in each are of 16
 * bits on a part that counts with these. */
struct part {
    const char *type;
    const char *name;
    size_t size;
    size_t count;
    int block;
    size_t values;
};
#define PARTS_MOST 40

/* The block without which a table is of no use. */
#define BLOCK_EVER ALWAYS
#define BLOCK_BUTTONS CUP_BLOCK_BUTTONS
#define BLOCK_SEVERAL CUP_BLOCK_SEVERAL
#define BLOCK_SPANS CUP_BLOCK_SPANS
#define BLOCK_ONCE CUP_BLOCK_ONCE
#define BLOCK_QUIET CUP_BLOCK_QUIET
#define BLOCK_CLOCK CUP_BLOCK_CLOCK
#define BLOCK_TALLIES CUP_BLOCK_TALLIES
#define BLOCK_SLACK CUP_BLOCK_SLACK
#define BLOCK_TRIES CUP_BLOCK_TRIES
#define BLOCK_CHOICES CUP_BLOCK_CHOICES

/* Lists the tables of a plan's state; returns how many. */
static size_t list_parts(const struct cup_plan *plan, struct part *parts)
{
#define X(type, name, count, block, values)                                    \
    {#type, #name, sizeof(type), (size_t)(count), BLOCK_##block, values},
    const struct part all[] = {CUP_TABLES(X)};
#undef X
    size_t count = 0;
    for (size_t i = 0; i < sizeof(all) / sizeof(all[0]); i++)
        if (all[i].count > 0)
            parts[count++] = all[i];
    return count;
}

/* Means of 24 bits take the place of values, and tanks have none. */
static void weigh_counts(const struct bake *bake, struct weight *bytes)
{
    const size_t sensors = bake->plan->sensor_count;
    const size_t levels = 2 * (size_t)bake->plan->tank_count;
    bytes->wide -= levels * sizeof(int32_t);
    bytes->small -= sensors;
    if (!bake->uses[CUP_BLOCK_WIDE])
        bytes->small += (sensors + levels) * sizeof(int16_t);
}

/* Bytes of state where the core is built for this plan alone. */
static struct weight weigh_state(const struct bake *bake)
{
    struct part parts[PARTS_MOST];
    struct weight bytes = {0, 0};
    for (size_t left = list_parts(bake->plan, parts); left > 0; left--) {
        const struct part *part = &parts[left - 1];
        if (part->block != ALWAYS && !bake->uses[part->block])
            continue;
        bytes.wide += part->count * part->size;
        if (!bake->uses[CUP_BLOCK_WIDE])
            bytes.small -= part->count * part->values * sizeof(int16_t);
    }
    if (!bake->uses[CUP_BLOCK_VALUES])
        weigh_counts(bake, &bytes);
    if (!bake->uses[CUP_BLOCK_PACES]) /* one for all */
        bytes.wide -= sizeof(uint32_t) * (bake->plan->sensor_count - 1u);
    if (!bake->uses[CUP_BLOCK_STEERING]) /* pumps without hand runs */
        bytes.wide -= 2 * sizeof(uint32_t) * bake->plan->pump_count;
    bytes.small += bytes.wide;
    bytes.small -= bake->plan->pump_count * (sizeof(cup_index) - 1);
    bytes.small -= 2 * (sizeof(cup_few) - 1) * bake->plan->tank_count;
    return bytes;
}

/* Writes a line; it counts for nothing where its block is not built. */
static void put_part(FILE *out, const struct part *part, const char *line)
{
    if (part->block == ALWAYS)
        fprintf(out, "    %s\n", line);
    else
        fprintf(out, "#if !defined CUP_USES || CUP_USES_%s\n    %s\n#endif\n",
                bake_block_name(part->block), line);
}

static void put_state(FILE *out, const struct cup_plan *plan,
                      const char *plan_name, const char *name)
{
    struct part parts[PARTS_MOST];
    size_t count = list_parts(plan, parts);
    char line[80];
    fprintf(out, "\nstatic struct {\n");
    for (size_t i = 0; i < count; i++) {
        snprintf(line, sizeof(line), "%s %s[%zu];", parts[i].type,
                 parts[i].name, parts[i].count);
        put_part(out, &parts[i], line);
    }
    fprintf(out, "} state;\n\nconst struct cup_site %s = {\n    .plan = &%s,\n",
            name, plan_name);
    for (size_t i = 0; i < count; i++) {
        snprintf(line, sizeof(line), ".%s = state.%s,", parts[i].name,
                 parts[i].name);
        put_part(out, &parts[i], line);
    }
    fprintf(out, "};\n");
}

/* "adc:3" into 3; -1 when that is no number that a board's port can have. */
static int pin_of(const char *port)
{
    const char *colon = strchr(port, ':');
    char *end = NULL;
    if (!colon || !isdigit((unsigned char)colon[1]))
        return -1;
    unsigned long number = strtoul(colon + 1, &end, 10);
    return *end == '\0' && number <= UINT8_MAX ? (int)number : -1;
}

bool cup_file_has_pins(const struct cup_file *file, char *wrong, size_t size)
{
    const struct cup_plan *plan = cup_file_plan(file);
    for (cup_index i = 0; i < cup_duty_thing(plan, 0); i++) {
        const char *port = cup_file_port(file, i);
        if (!port || (pin_of(port) >= 0 && isalpha((unsigned char)*port)))
            continue;
        snprintf(wrong, size,
                 "[%s] port = %s: a board needs KIND:NUMBER, a number from 0 "
                 "to 255, such as relay:0",
                 plan->names[i], port);
        return false;
    }
    return true;
}

bool cup_file_is_timed(const struct cup_file *file, enum cup_bake kind,
                       char *wrong, size_t size)
{
    const struct cup_plan *plan = cup_file_plan(file);
    if (kind <= CUP_BAKE_COUNTING)
        return true;
    for (cup_index i = 0; i < plan->duty_count; i++) {
        const struct cup_duty *duty = &plan->duties[i];
        uint32_t ms = duty->dose   ? duty->dose->dose_ms
                      : duty->turn ? duty->turn->run_ms
                                   : 0;
        if (ms % plan->scan_ms == 0)
            continue;
        snprintf(wrong, size,
                 "[%s] gives water for %.3g s at a time, and a bare or steered "
                 "board times by its scan, %.3g s: expected so many whole "
                 "scans, or a shorter scan",
                 plan->names[cup_duty_thing(plan, i)], ms / 1000.0,
                 plan->scan_ms / 1000.0);
        return false;
    }
    return true;
}

/* Where sensors and outputs are connected. */
static void put_pins(FILE *out, const struct cup_file *file, const char *name)
{
    const struct cup_plan *plan = cup_file_plan(file);
    fprintf(out, "\nCUP_FLASH struct cup_pin %s_pins[] = {", name);
    for (cup_index i = 0; i < cup_duty_thing(plan, 0); i++) {
        const char *port = cup_file_port(file, i);
        if (port)
            fprintf(out, "{'%c', %d}, ", *port, pin_of(port));
        else
            fprintf(out, "{0, 0}, ");
    }
    fprintf(out, "};\n");
}

/* A grower's words within a comment: they can neither end nor begin one. */
static void put_comment(FILE *out, const char *text)
{
    for (char before = ' '; *text; before = *text++)
        fputc((before == '*' && *text == '/') || (before == '/' && *text == '*')
                  ? '.'
                  : *text,
              out);
}

/* What `check` says, as a comment. */
static void put_sentences(FILE *out, const struct cup_file *file)
{
    char *text = NULL;
    size_t size = 0;
    FILE *to = open_memstream(&text, &size);
    if (!to)
        abort();
    cup_file_explain(file, to);
    if (fclose(to))
        abort();
    for (char *line = strtok(text, "\n"); line; line = strtok(NULL, "\n")) {
        fputs(" * ", out);
        put_comment(out, line);
        fputc('\n', out);
    }
    free(text);
}

/* How wide values are on a part of 8 bits, and why. */
static void put_width(FILE *out, const struct bake *bake)
{
    cup_index thing = bake_wide_thing(bake->plan);
    if (!bake->uses[CUP_BLOCK_WIDE])
        fprintf(out, " * Its values fit 16 bits, which saves flash on a part "
                     "of 8.\n *\n");
    else if (thing == CUP_NONE)
        fprintf(out, " * Pressures or volumes need values of 32 bits.\n *\n");
    else
        fprintf(out, " * Its values need 32 bits, because of %s%s.\n *\n",
                bake->plan->names[thing],
                thing < bake->plan->sensor_count
                    ? ": a `plausible` may bound it"
                    : "");
}

/* What a board compares with its marks, and why. */
static void put_marks(FILE *out, const struct bake *bake)
{
    cup_index thing = bake->uncounted;
    if (!bake->uses[CUP_BLOCK_VALUES])
        fprintf(out, " * Its marks are counts: values are worked out only when "
                     "they are told.\n *\n");
    else if (thing != CUP_NONE)
        fprintf(out,
                " * Values are worked out with each sample, because of %s: "
                "its curve\n * turns back, or its marks are nearer than two "
                "counts.\n *\n",
                bake->plan->names[thing]);
    else
        fprintf(out,
                " * Values are worked out with each sample: levels that may "
                "leap, checks,\n * settings, lamps, floats, pressures, a "
                "thermometer or a mean of more than\n * %d need that.\n *\n",
                CUP_MEAN_EXACT);
}

/* What such a board does without, and a controller does not. */
static void put_belief(FILE *out, const struct bake *bake)
{
    if (bake->plan->spans > 0 && !bake->uses[CUP_BLOCK_SPANS])
        fprintf(out, " * So it believes each level that it reads, at once: "
                     "one that leaps is not\n * caught, and its leap, believe, "
                     "gains and loses are left out.\n *\n");
}

static void put_head(FILE *out, const struct cup_file *file, const char *name,
                     const struct bake *bake, struct weight state)
{
    fputs("/* ", out);
    put_comment(out, cup_file_name(file));
    fprintf(out,
            ", baked by cuplatch " CUP_VERSION ".\n *\n"
            " * `%s` is the site, for every call that takes one; it needs no "
            "binding.\n"
            " * The plan takes %zu bytes of flash on a part of 8 bits and %zu "
            "on one of\n"
            " * 32, without the core; the state takes %zu bytes of RAM on the "
            "former and\n"
            " * %zu on the latter.\n *\n",
            name, bake->flash.small, bake->flash.wide, state.small, state.wide);
    put_width(out, bake);
    put_marks(out, bake);
    put_belief(out, bake);
    put_sentences(out, file);
    fputs(" */\n"
          "#ifdef __has_include\n"
          "#if !__has_include(\"cuplatch/port.h\")\n"
          "#include \"cuplatch.h\" /* the core as two files */\n"
          "#endif\n"
          "#endif\n"
          "#ifndef CUPLATCH_PORT_H\n"
          "#include \"cuplatch/port.h\"\n"
          "#endif\n\n",
          out);
}

static void free_tables(struct bake *bake)
{
    for (size_t i = 0; i < bake->count; i++) {
        free(bake->tables[i].type);
        free(bake->tables[i].words);
        free(bake->tables[i].name);
    }
    free(bake->tables);
}

char *cup_file_bake(const struct cup_file *file, const char *name,
                    enum cup_bake kind)
{
    char *tables = NULL;
    char *text = NULL;
    size_t size = 0;
    struct bake bake = {.plan = cup_file_plan(file),
                        .kind = kind,
                        .named = kind <= CUP_BAKE_COUNTING};
    bake_blocks(&bake);
    bake.out = open_memstream(&tables, &size);
    FILE *out = open_memstream(&text, &size);
    if (!bake.out || !out)
        abort();
    put_plan(&bake);
    if (fclose(bake.out))
        abort();
    put_head(out, file, name, &bake, weigh_state(&bake));
    fputs(tables, out);
    put_state(out, bake.plan, bake.tables[bake.count - 1].name, name);
    put_pins(out, file, name);
    if (fclose(out))
        abort();
    free_tables(&bake);
    free(tables);
    return text;
}

/* What the site is called for the linker: another name for other blocks or
 * sizes, so that a core built with these does not link with it. FNV-1a. */
static void put_link_name(const struct bake *bake, FILE *out, const char *name)
{
    uint32_t sum = 2166136261u;
    for (int i = 0; i < CUP_BLOCK_COUNT; i++)
        sum = (sum ^ bake->uses[i]) * 16777619u;
    fprintf(out,
            "/* Links with a core that is built with this file, and with no "
            "other. */\n"
            "#if defined(__AVR__) || defined(CUP_SMALL)\n"
            "#define %s %s_small_%08" PRIx32 "\n#else\n#define %s %s_%08" PRIx32
            "\n#endif\n",
            name, name, sum, name, name, sum);
}

char *cup_file_bake_header(const struct cup_file *file, const char *name,
                           enum cup_bake kind)
{
    char *text = NULL;
    size_t size = 0;
    struct bake bake = {.plan = cup_file_plan(file),
                        .kind = kind,
                        .named = kind <= CUP_BAKE_COUNTING};
    FILE *out = open_memstream(&text, &size);
    if (!out)
        abort();
    bake_blocks(&bake);
    fputs("/* ", out);
    put_comment(out, cup_file_name(file));
    fprintf(out,
            ", baked by cuplatch " CUP_VERSION ". To build the core for "
            "it alone:\n"
            " * -DCUP_USES='\"THIS-FILE\"' */\n"
            "#ifndef CUPLATCH_BAKED_%s_H\n#define CUPLATCH_BAKED_%s_H\n\n",
            name, name);
    fputs("#ifdef CUP_USES\n", out);
    bake_uses(&bake, out);
    fprintf(out, "#define CUP_ONE_SITE %s\n", name);
    put_link_name(&bake, out, name);
    fprintf(out,
            "#endif\n\nstruct cup_site;\n"
            "extern const struct cup_site %s;\n\n#endif\n",
            name);
    if (fclose(out))
        abort();
    return text;
}
