/* Which numbers of a duty may be changed while it runs, and how far. */
#include <string.h>

#include "../../grammar/scan.h"
#include "duty.h"

/* Marks that can be passed; and a stop that fills is below full_at. */
static struct span span_of_mark(const struct duty_making *making, uint8_t field)
{
    const struct cup_duty *duty = making->duty;
    const struct cup_pump *pump = &making->file->plan.pumps[duty->pump];
    struct span span = span_of(&making->file->plan, duty->keep);
    span.low += span.low < INT32_MAX;
    span.high -= span.high > INT32_MIN;
    for (uint8_t g = 0; g < pump->guard_count; g++)
        if (pump->guards[g].kind == CUP_GUARD_DESTINATION &&
            pump->guards[g].about == duty->keep && field == CUP_FIELD_STOP &&
            duty->latch.start < duty->latch.stop &&
            span.high >= pump->guards[g].mark)
            span.high = pump->guards[g].mark - 1;
    return span;
}

/* What a setting may be: nothing that would be an error in the file. How two
 * of a duty must lie to each other is seen to when they change. */
static struct span span_of_field(const struct duty_making *making,
                                 uint8_t field)
{
    const struct cup_turn *turn = making->duty->turn;
    uint32_t longest = making->file->plan.pumps[making->duty->pump].longest_ms;
    struct span span = {1000, (int32_t)CUP_TIME_MAX_MS};
    if (field <= CUP_FIELD_STOP)
        return span_of_mark(making, field);
    if (field == CUP_FIELD_DOSE)
        span = (struct span){100, (int32_t)CUP_DAY_MS};
    if ((field == CUP_FIELD_DOSE || field == CUP_FIELD_RUN) && longest > 0 &&
        (uint32_t)span.high >= longest)
        span.high = (int32_t)longest - 1;
    if (field != CUP_FIELD_EVERY)
        return span;
    if (turn->apart_ms > 0)
        span.high = (int32_t)turn->apart_ms;
    if (turn->least_ms > 0)
        span.low = (int32_t)turn->least_ms;
    return span;
}

static void add_setting(const struct duty_making *making, uint8_t field)
{
    struct cup_file *file = making->file;
    struct span span = span_of_field(making, field);
    if (making->duty->settings == CUP_NONE)
        making->duty->settings = file->plan.setting_count;
    file->tables.settings[file->plan.setting_count++] =
        (struct cup_setting){.low = span.low,
                             .high = span.high,
                             .duty = making->thing->index,
                             .field = field};
}

/* Which of a duty's numbers it has at all. */
static bool has_field(const struct duty_making *making, uint8_t field)
{
    const struct cup_duty *duty = making->duty;
    if (field <= CUP_FIELD_STOP)
        return !duty->turn;
    if (field <= CUP_FIELD_SOAK)
        return duty->dose != NULL;
    return duty->turn && (field == CUP_FIELD_RUN || duty->turn->every_ms > 0);
}

static bool read_field(const struct duty_making *making, const char *word,
                       uint8_t *field)
{
    static const char *const fields[] = {
#define X(name, code) code,
        CUP_FIELDS(X)
#undef X
    };
    if (making->duty->turn && strcmp(word, "flood") == 0)
        word = "for";
    for (*field = 0; *field < CUP_FIELD_COUNT; ++*field)
        if (strcmp(fields[*field], word) == 0)
            return has_field(making, *field);
    return false;
}

void duty_make_change(const struct duty_making *making)
{
    const struct value *value = good_value(making->thing, "change");
    struct scanned word;
    unsigned seen = 0;
    if (!value)
        return;
    for (const char *at = value->text; scan_next(&at, &word);) {
        uint8_t field;
        if (!read_field(making, word.text, &field) || (seen & 1u << field)) {
            duty_wrong(making, "change",
                       "expected numbers that this duty has, once each: start "
                       "stop, dose soak, flood or for, every");
            return;
        }
        seen |= 1u << field;
        add_setting(making, field);
    }
}
