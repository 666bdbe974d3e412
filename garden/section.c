/* Reads the keys of a section, each held to what it may say. */
#include "section.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/quantity.h"
#include "cuplatch/codes.h"

const struct ini_entry *section_entry(struct section *section, const char *key)
{
    for (size_t i = 0; i < section->ini->count && i < KEYS_MOST; i++)
        if (strcmp(section->ini->entries[i].key, key) == 0) {
            section->used[i] = true;
            return &section->ini->entries[i];
        }
    return NULL;
}

void section_wrong(struct section *section, const struct ini_entry *at,
                   const char *message)
{
    struct place place = {section->ini->line, section->ini->text};
    if (at)
        place = (struct place){at->line, at->text};
    problem_error(section->problems, place, "%s", message);
}

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
    const struct ini_entry *at = section_entry(section, key);
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
    section_wrong(section, at, message);
    return span.high;
}

double section_quantity(struct section *section, const char *key,
                        enum cup_unit unit, double otherwise, struct span span)
{
    return read_quantity(section, key, unit, otherwise, span, quantity_read);
}

double section_change(struct section *section, const char *key,
                      enum cup_unit unit, double otherwise, struct span span)
{
    return read_quantity(section, key, unit, otherwise, span,
                         quantity_read_change);
}

double section_number(struct section *section, const char *key,
                      double otherwise, struct span span)
{
    const struct ini_entry *at = section_entry(section, key);
    char *end;
    if (!at)
        return otherwise;
    double value = strtod(at->value, &end);
    if (end != at->value && !*end)
        return within(section, at, value, span, CUP_UNIT_NONE);
    section_wrong(section, at, "expected a plain number");
    return span.high;
}

int section_choice(struct section *section, const char *key,
                   const char *const *words)
{
    const struct ini_entry *at = section_entry(section, key);
    if (!at)
        return 0;
    for (int i = 0; words[i]; i++)
        if (strcmp(words[i], at->value) == 0)
            return i;
    char list[160];
    char message[200];
    words_list(list, sizeof(list), words);
    snprintf(message, sizeof(message), "expected %s", list);
    problem_word(section->problems, (struct place){at->line, at->text}, message,
                 nearest_word(at->value, words));
    return 0;
}
