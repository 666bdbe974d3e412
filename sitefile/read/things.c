/* Sections into things: kinds and keys known, values read, names found. */
#include "things.h"

#include <ctype.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "cuplatch/decode.h"
#include "cuplatch/say.h"
#include "cuplatch/window.h"

#define MOST_WORDS 64

/* A value under reading, with what its message needs. */
struct reading {
    const struct key *key;
    struct value *value;
    const struct things *things;
    struct problems *problems;
};

/* Lists of words for nearest_word() */

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

static const char *nearest_thing(const struct things *things, const char *word)
{
    const char **list = calloc(things->count + 1, sizeof(*list));
    if (!list)
        abort();
    for (size_t i = 0; i < things->count; i++)
        list[i] = things->list[i].section->name;
    const char *near = nearest_word(word, list);
    free(list);
    return near;
}

static void wrong_word(struct problems *problems, struct place place,
                       const char *message, const char *near)
{
    if (near)
        problem_error(problems, place, "%s; did you mean \"%s\"?", message,
                      near);
    else
        problem_error(problems, place, "%s", message);
}

/* One reader for each type of key */

static void read_text(struct reading *reading)
{
    if (*reading->value->text == '\0')
        problem_error(reading->problems, reading->value->place,
                      "there is nothing after =; expected %s",
                      reading->key->help);
}

static void read_port(struct reading *reading)
{
    const char *colon = strchr(reading->value->text, ':');
    if (!colon || colon == reading->value->text || colon[1] == '\0')
        problem_error(reading->problems, reading->value->place,
                      "expected KIND:WHERE, such as adc:0 or relay:1");
}

static void list_words(char *text, size_t size, const char *const *words)
{
    size_t used = 0;
    for (; *words; words++) {
        int more = snprintf(text + used, size - used, "%s%s",
                            used ? " or " : "", *words);
        used += (size_t)more < size - used ? (size_t)more : 0;
    }
}

static void read_choice(struct reading *reading)
{
    char words[160];
    char message[200];
    const char *const *word = reading->key->words;
    for (int32_t i = 0; word[i]; i++)
        if (strcmp(word[i], reading->value->text) == 0) {
            reading->value->number = i;
            return;
        }
    list_words(words, sizeof(words), word);
    snprintf(message, sizeof(message), "expected %s", words);
    wrong_word(reading->problems, reading->value->place, message,
               nearest_word(reading->value->text, word));
}

static bool is_word(const char *const *words, const char *word)
{
    for (; *words; words++)
        if (strcmp(*words, word) == 0)
            return true;
    return false;
}

const struct thing *things_find(const struct things *things,
                                struct problems *problems, struct place place,
                                const char *name, const char *const *kinds)
{
    char words[80];
    char message[200];
    list_words(words, sizeof(words), kinds);
    for (size_t i = 0; i < things->count; i++) {
        const struct thing *thing = &things->list[i];
        if (strcmp(thing->section->name, name) != 0)
            continue;
        if (is_word(kinds, cup_kinds[thing->kind].name))
            return thing;
        problem_error(problems, place,
                      "\"%s\" is a %s; expected the name of a %s", name,
                      thing->word, words);
        return NULL;
    }
    snprintf(message, sizeof(message),
             "there is no [%.40s] in this file; expected the name of a %s",
             name, words);
    wrong_word(problems, place, message, nearest_thing(things, name));
    return NULL;
}

static void read_thing(struct reading *reading)
{
    const struct thing *found =
        things_find(reading->things, reading->problems, reading->value->place,
                    reading->value->text, reading->key->words);
    if (found)
        reading->value->number = (int32_t)(found - reading->things->list);
}

static void report(struct reading *reading, const char *wrong)
{
    if (wrong)
        problem_error(reading->problems, reading->value->place, "%s", wrong);
}

static void read_count(struct reading *reading)
{
    report(reading,
           quantity_read_whole(reading->value->text, reading->key->low,
                               reading->key->high, &reading->value->number));
}

static void read_quantity(struct reading *reading)
{
    char low[24];
    char high[24];
    const struct key *key = reading->key;
    struct value *value = reading->value;
    const char *wrong = quantity_read(value->text, key->unit, &value->number);
    report(reading, wrong);
    if (wrong || (value->number >= key->low && value->number <= key->high))
        return;
    cup_say_value(low, sizeof(low), key->low, (uint8_t)key->unit);
    cup_say_value(high, sizeof(high), key->high, (uint8_t)key->unit);
    problem_error(reading->problems, value->place, "expected %s to %s", low,
                  high);
}

/* Read whole once the unit is known, in plan.c. */
static void read_later(struct reading *reading)
{
    read_text(reading);
}

static void read_read(struct reading *reading)
{
    struct value *value = reading->value;
    char what[8] = "";
    int first = -1;
    int count = 0;
    int used = 0;
    sscanf(value->text, "%7s %d %d%n", what, &first, &count, &used);
    bool holding = strcmp(what, "holding") == 0;
    bool right = (holding || strcmp(what, "input") == 0) && first >= 0 &&
                 count >= 1 && count <= CUP_MODBUS_REGISTERS &&
                 first + count <= 65536 && value->text[used] == '\0';
    if (!right)
        problem_error(reading->problems, value->place,
                      "expected holding or input, the first register and how "
                      "many (1 to %d), such as holding 0 7",
                      CUP_MODBUS_REGISTERS);
    value->number = !holding;
    value->second = first;
    value->third = count;
}

/* "x0.1" in millionths; 0 when it is none. */
static int32_t read_scale(const char *text)
{
    char *end = NULL;
    double scale = *text == 'x' ? strtod(text + 1, &end) : 0;
    if (!end || *end || scale <= 0 || scale > 1000)
        return 0;
    return (int32_t)(scale * 1e6 + 0.5);
}

/* Finds a name that is only a part of the value. */
static void find_part(struct reading *reading, const char *name,
                      const char *kind)
{
    const struct thing *found =
        things_find(reading->things, reading->problems, reading->value->place,
                    name, (const char *const[]){kind, NULL});
    if (found)
        reading->value->number = (int32_t)(found - reading->things->list);
}

static void read_take(struct reading *reading)
{
    struct value *value = reading->value;
    char name[32] = "";
    char one[16] = "";
    char two[16] = "";
    int words = sscanf(value->text, "%31s %d %15s %15s", name, &value->second,
                       one, two);
    value->minus = strcmp(one, "signed") == 0;
    const char *scale = value->minus ? two : one;
    value->third = *scale ? read_scale(scale) : 1000000;
    if (words < 2 || value->third == 0 || value->second < 0) {
        problem_error(reading->problems, value->place,
                      "expected SOURCE WORD, then signed and xSCALE where "
                      "needed, such as soil_bus 2 signed x0.1");
        return;
    }
    find_part(reading, name, "source");
}

static void read_range(struct reading *reading)
{
    struct value *value = reading->value;
    char *end;
    long low = strtol(value->text, &end, 10);
    long high = low;
    bool right = end != value->text && strncmp(end, "..", 2) == 0;
    if (right) {
        const char *second = end + 2;
        high = strtol(second, &end, 10);
        right = end != second && *end == '\0';
    }
    if (!right || low >= high || low < -32768 || high > 65535)
        problem_error(reading->problems, value->place,
                      "expected raw LOW..HIGH, such as 300..3800");
    value->number = (int32_t)low;
    value->second = (int32_t)high;
}

/* "median 5" into window and trim; false when it is none of ours. */
static bool parse_smooth(const char *text, int32_t *size, int32_t *trim)
{
    int used = 0;
    int n = 0;
    int k = 0;
    if (sscanf(text, "median %d%n", &n, &used) == 1)
        k = (n - 1) / 2;
    else if (sscanf(text, "mean %d%n", &n, &used) == 1)
        k = 0;
    else if (sscanf(text, "trimmed %d %d%n", &n, &k, &used) != 2)
        return false;
    *size = n;
    *trim = k;
    return text[used] == '\0' && n >= 1 && n <= CUP_WINDOW_MAX && n % 2 == 1 &&
           k >= 0 && k <= (n - 1) / 2;
}

static void read_smooth(struct reading *reading)
{
    struct value *value = reading->value;
    if (!parse_smooth(value->text, &value->number, &value->second))
        problem_error(reading->problems, value->place,
                      "expected median N, mean N or trimmed N K; N odd from "
                      "1 to 31, K below half of N");
}

static void read_retry(struct reading *reading)
{
    struct value *value = reading->value;
    char pause[32];
    int tries = 0;
    int used = 0;
    if (sscanf(value->text, "%31s x%d%n", pause, &tries, &used) != 2 ||
        value->text[used] != '\0' || tries < 1 || tries > 200) {
        problem_error(reading->problems, value->place,
                      "expected TIME xN, such as 10m x3");
        return;
    }
    report(reading, quantity_read(pause, CUP_UNIT_SECOND, &value->number));
    value->second = tries;
}

static void (*const readers[])(struct reading *) = {
    [KEY_TEXT] = read_text,     [KEY_PORT] = read_port,
    [KEY_CHOICE] = read_choice, [KEY_THING] = read_thing,
    [KEY_COUNT] = read_count,   [KEY_QUANTITY] = read_quantity,
    [KEY_MARK] = read_later,    [KEY_RANGE] = read_range,
    [KEY_SMOOTH] = read_smooth, [KEY_RETRY] = read_retry,
    [KEY_POINTS] = read_later,  [KEY_STEADY] = read_later,
    [KEY_RATE] = read_later,    [KEY_READ] = read_read,
    [KEY_TAKE] = read_take,     [KEY_PER_DAY] = read_later,
    [KEY_LATER] = read_later,
};
_Static_assert(sizeof(readers) / sizeof(readers[0]) == KEY_TYPE_COUNT,
               "one reader a type");

/* Sections and keys */

static bool is_name(const char *name)
{
    if (!isalpha((unsigned char)*name) || strlen(name) > CUP_NAME_MAX)
        return false;
    for (; *name; name++)
        if (!isalnum((unsigned char)*name) && *name != '_' && *name != '-')
            return false;
    return true;
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
    if (!entry) {
        problem_error(problems, place,
                      "what is it? expected is = sensor, tank, pump, duty, "
                      "day, alert, source, group, bar, signal or panel");
        return KIND_COUNT;
    }
    for (size_t i = 1; i < KIND_COUNT; i++)
        if (strcmp(cup_kinds[i].name, entry->value) == 0)
            return (enum kind_number)i;
    if (is_word(cup_pump_styles, entry->value))
        return KIND_PUMP;
    wrong_word(problems, (struct place){entry->line, entry->text},
               "no such kind; expected sensor, tank, pump, valve, fan, lamp, "
               "vent, sounder, duty, day, alert, source, group, bar, signal or "
               "panel",
               nearest_kind(entry->value));
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
    if (!is_name(section->name))
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
    wrong_word(problems, (struct place){entry->line, entry->text}, message,
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
    readers[key->type](&reading);
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
    const struct value *value = slot(thing, key, NULL);
    if (!value)
        abort(); /* the schema has no such key */
    return value;
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
