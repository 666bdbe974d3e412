/* Sections into things: kinds and keys known, a value for each key. */
#include "things.h"

#include <stdlib.h>
#include <string.h>

#include "cuplatch/say.h"
#include "values.h"

#define MOST_WORDS 64

/* What a thing may be, as messages say it. */
#define KINDS                                                                  \
    "sensor, tank, pump, valve, fan, lamp, vent, sounder, duty, day, alert, "  \
    "source, group, bar, signal, panel or button"

static const char *nearest_key(const struct kind *kind, const char *word)
{
    const char *list[MOST_WORDS] = {0};
    for (size_t i = 0; i < kind->count && i + 1 < MOST_WORDS; i++)
        list[i] = kind->keys[i].name;
    return nearest_word(word, list);
}

static const char *nearest_kind(const char *word)
{
    const char *list[MOST_WORDS] = {0};
    size_t count = 0;
    for (size_t i = 1; i < KIND_COUNT; i++)
        list[count++] = cup_kinds[i].name;
    for (size_t i = 1; cup_pump_styles[i]; i++)
        list[count++] = cup_pump_styles[i];
    return nearest_word(word, list);
}

static const struct ini_entry *kind_entry(const struct ini_section *section)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, "is") == 0)
            return &section->entries[i];
    return NULL;
}

/* The kind of a section, or KIND_COUNT when that is not known. */
static enum kind_number find_kind(const struct ini_section *section,
                                  struct problems *problems)
{
    struct place place = {section->line, section->text};
    const struct ini_entry *entry = kind_entry(section);
    if (strcmp(section->name, "site") == 0)
        return KIND_SITE;
    if (!entry && !strchr(section->text, ']'))
        return KIND_COUNT; /* that was told */
    if (!entry) {
        problem_error(problems, place, "what is it? expected is = " KINDS);
        return KIND_COUNT;
    }
    for (size_t i = 1; i < KIND_COUNT; i++)
        if (strcmp(cup_kinds[i].name, entry->value) == 0)
            return (enum kind_number)i;
    if (is_word(cup_pump_styles, entry->value))
        return KIND_PUMP;
    problem_word(problems, (struct place){entry->line, entry->text},
                 "no such kind; expected " KINDS, nearest_kind(entry->value));
    return KIND_COUNT;
}

/* How many of a section's keys a kind knows. */
static size_t known_keys(const struct ini_section *section,
                         const struct kind *kind)
{
    size_t known = 0;
    for (size_t i = 0; i < section->count; i++)
        for (size_t k = 0; k < kind->count; k++)
            known += strcmp(kind->keys[k].name, section->entries[i].key) == 0;
    return known;
}

/* What a section of an unknown kind may have been meant to be, so that its
 * other mistakes are told, too: the kind with the nearest word, else the one
 * that knows most of its keys; KIND_COUNT when it could be anything. */
static enum kind_number guess_kind(const struct ini_section *section)
{
    const struct ini_entry *entry = kind_entry(section);
    const char *near = entry ? nearest_kind(entry->value) : NULL;
    enum kind_number best = KIND_COUNT;
    size_t most = 0;
    for (size_t i = 1; i < KIND_COUNT; i++) {
        size_t known = known_keys(section, &cup_kinds[i]);
        if (near && strcmp(cup_kinds[i].name, near) == 0)
            return (enum kind_number)i;
        if (known > most) {
            most = known;
            best = (enum kind_number)i;
        }
    }
    return near && is_word(cup_pump_styles, near) ? KIND_PUMP : best;
}

/* Which of the pump's styles its kind is. */
static enum pump_style find_style(const char *word)
{
    int style = STYLE_PUMP;
    while (cup_pump_styles[style] && strcmp(cup_pump_styles[style], word) != 0)
        style++;
    return cup_pump_styles[style] ? (enum pump_style)style : STYLE_PUMP;
}

static void add_thing(struct things *things, const struct ini_section *section,
                      struct problems *problems)
{
    struct place place = {section->line, section->text};
    if (!ini_is_name(section->name))
        problem_error(problems, place,
                      "a name is a letter, then letters, digits, _ or -, at "
                      "most %d",
                      CUP_NAME_MAX);
    enum kind_number kind = find_kind(section, problems);
    bool guessed = kind == KIND_COUNT;
    if (guessed)
        kind = guess_kind(section);
    if (kind == KIND_COUNT)
        return;
    struct thing *thing = &things->list[things->count++];
    const struct ini_entry *entry = kind_entry(section);
    *thing = (struct thing){.kind = kind, .section = section, .place = place};
    thing->guessed = guessed;
    thing->word = entry && kind != KIND_SITE ? entry->value : "site";
    if (guessed)
        thing->word = cup_kinds[kind].name;
    thing->style = find_style(thing->word);
    thing->index = (uint16_t)things->count_of[kind]++;
    thing->values = calloc(cup_kinds[kind].count, sizeof(*thing->values));
    if (!thing->values)
        abort();
}

static struct value *slot(const struct thing *thing, const char *key,
                          const struct key **found)
{
    const struct kind *kind = &cup_kinds[thing->kind];
    for (size_t i = 0; i < kind->count; i++)
        if (strcmp(kind->keys[i].name, key) == 0) {
            if (found)
                *found = &kind->keys[i];
            return &thing->values[i];
        }
    return NULL;
}

static void unknown_key(const struct thing *thing,
                        const struct ini_entry *entry,
                        struct problems *problems)
{
    char message[100];
    const struct kind *kind = &cup_kinds[thing->kind];
    snprintf(message, sizeof(message), "a %s has no key \"%.40s\"", thing->word,
             entry->key);
    problem_word(problems, (struct place){entry->line, entry->text}, message,
                 nearest_key(kind, entry->key));
}

static void read_entry(const struct things *things, struct thing *thing,
                       const struct ini_entry *entry, struct problems *problems)
{
    const struct key *key = NULL;
    if (strcmp(entry->key, "is") == 0)
        return;
    struct value *value = slot(thing, entry->key, &key);
    if (!value) {
        unknown_key(thing, entry, problems);
        return;
    }
    struct place place = {entry->line, entry->text};
    if (value->given) {
        problem_error(problems, place,
                      "given twice; the first is in line %d. Keep one",
                      value->place.line);
        return;
    }
    *value =
        (struct value){.given = true, .place = place, .text = entry->value};
    struct reading reading = {key, value, things, problems};
    size_t before = problems->errors;
    value_read(&reading);
    value->good = problems->errors == before;
}

static void read_thing_keys(const struct things *things, struct thing *thing,
                            struct problems *problems)
{
    const struct kind *kind = &cup_kinds[thing->kind];
    const struct ini_section *section = thing->section;
    if (!section)
        return; /* add_thing() always sets it */
    for (size_t i = 0; i < section->count; i++)
        read_entry(things, thing, &section->entries[i], problems);
    for (size_t i = 0; i < kind->count && !thing->guessed; i++)
        if (kind->keys[i].required && !thing->values[i].given)
            problem_error(problems, thing->place,
                          "a %s needs the key \"%s\": %s", thing->word,
                          kind->keys[i].name, kind->keys[i].help);
}

void things_read(struct things *things, const struct ini_file *file,
                 struct problems *problems)
{
    *things = (struct things){0};
    things->list = calloc(file->count + 1, sizeof(*things->list));
    if (!things->list)
        abort();
    for (size_t i = 0; i < file->count; i++)
        add_thing(things, &file->sections[i], problems);
    for (size_t i = 0; i < things->count; i++)
        read_thing_keys(things, &things->list[i], problems);
}

void things_free(struct things *things)
{
    for (size_t i = 0; i < things->count; i++)
        free(things->list[i].values);
    free(things->list);
    *things = (struct things){0};
}

const struct value *value_of(const struct thing *thing, const char *key)
{
    struct value *value = slot(thing, key, NULL);
    if (!value)
        abort(); /* the schema has no such key */
    value->asked = true;
    return value;
}

const struct value *things_unasked(const struct things *things)
{
    for (size_t i = 0; i < things->count; i++) {
        const struct thing *thing = &things->list[i];
        for (size_t k = 0; k < cup_kinds[thing->kind].count; k++)
            if (thing->values[k].given && !thing->values[k].asked)
                return &thing->values[k];
    }
    return NULL;
}

const struct value *good_value(const struct thing *thing, const char *key)
{
    const struct value *value = value_of(thing, key);
    return value->good ? value : NULL;
}

int32_t number_of(const struct thing *thing, const char *key, int32_t otherwise)
{
    const struct value *value = good_value(thing, key);
    return value ? value->number : otherwise;
}

const struct thing *thing_of(const struct things *things, enum kind_number kind,
                             size_t index)
{
    for (size_t i = 0; i < things->count; i++)
        if (things->list[i].kind == kind && things->list[i].index == index)
            return &things->list[i];
    return NULL;
}
