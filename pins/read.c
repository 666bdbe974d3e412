/* Sections into pins, one a port. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>

#include "keys.h"

#define X(name, code, ...) code,
static const char *const codes[] = {PIN_WAYS(X) NULL};
#undef X

const char *pin_way_code(enum pin_way way)
{
    return codes[way];
}

const struct pin pin_none = {.line = -1,
                             .trigger = -1,
                             .echo = -1,
                             .coil = -1,
                             .bus = -1,
                             .address = -1,
                             .unit = -1,
                             .baud = -1,
                             .read = -1,
                             .timeout_ms = -1,
                             .holds_ms = -1,
                             .off_pulse_ms = -1};

/* The word of a list; a longer one fits nothing. */
struct item {
    char text[64];
};

static bool next_item(const char **at, struct item *item)
{
    *at += strspn(*at, " \t,");
    size_t length = strcspn(*at, " \t,");
    snprintf(item->text, sizeof(item->text), "%.*s", (int)length, *at);
    *at += length;
    return length > 0;
}

static struct pin *add(struct pins *pins, const struct pin *from)
{
    pins->list = realloc(pins->list, (pins->count + 1) * sizeof(*pins->list));
    if (!pins->list)
        abort();
    pins->list[pins->count] = *from;
    return &pins->list[pins->count++];
}

static struct place place_of(const struct ini_section *section)
{
    return (struct place){section->line, section->text};
}

static void tell_way(struct pins *pins, const struct ini_entry *entry)
{
    char list[200];
    char message[240];
    words_list(list, sizeof(list), codes);
    snprintf(message, sizeof(message), "no such way; expected %s", list);
    problem_word(&pins->problems, (struct place){entry->line, entry->text},
                 message, nearest_word(entry->value, codes));
}

/* Which way a section goes; false when that is not known, which was told. */
static bool read_way(struct pins *pins, const struct ini_section *section,
                     enum pin_way *way)
{
    const struct ini_entry *first = section->count ? section->entries : NULL;
    if (!first || strcmp(first->key, "through") != 0) {
        problem_error(&pins->problems, place_of(section),
                      "expected through = gpio, iio, serial or another way as "
                      "its first key");
        return false;
    }
    for (int i = 0; i < PIN_WAY_COUNT; i++)
        if (strcmp(first->value, codes[i]) == 0) {
            *way = (enum pin_way)i;
            return true;
        }
    tell_way(pins, first);
    return false;
}

/* A key that the way does not take: what it takes instead. */
static void tell_key(struct pins *pins, enum pin_way way,
                     const struct ini_entry *entry)
{
    const char *names[32] = {NULL};
    size_t count = 0;
    for (size_t i = 0; i < pin_key_count; i++)
        if (pin_key_of(way, pin_keys[i].name) == &pin_keys[i])
            names[count++] = pin_keys[i].name;
    char list[160];
    char message[240];
    words_list(list, sizeof(list), names);
    snprintf(message, sizeof(message), "%s takes no such key; it takes %s",
             codes[way], list);
    problem_word(&pins->problems, (struct place){entry->line, entry->text},
                 message, nearest_word(entry->key, names));
}

/* What all ports of a section share; `list` is the entry whose items are each
 * a port. */
static void read_shared(struct pins *pins, const struct ini_section *section,
                        struct pin *pin, const struct ini_entry **list)
{
    for (size_t i = 1; i < section->count; i++) {
        const struct ini_entry *entry = &section->entries[i];
        struct place place = {entry->line, entry->text};
        const struct pin_key *key = pin_key_of(pin->way, entry->key);
        if (!key) {
            tell_key(pins, pin->way, entry);
            continue;
        }
        if (pin_key_is_list(key)) {
            *list = entry;
            continue;
        }
        const char *wrong = pin_key_take(key, entry->value, pin);
        if (wrong)
            problem_error(&pins->problems, place, "%s", wrong);
    }
}

static const struct ini_entry *entry_of(const struct ini_section *section,
                                        const char *name)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, name) == 0)
            return &section->entries[i];
    return NULL;
}

static void check_needed(struct pins *pins, const struct ini_section *section,
                         const struct pin *pin)
{
    for (size_t i = 0; i < pin_key_count; i++)
        if ((pin_keys[i].needed >> pin->way & 1u) &&
            !entry_of(section, pin_keys[i].name))
            problem_error(&pins->problems, place_of(section),
                          "through = %s needs the key \"%s\"", codes[pin->way],
                          pin_keys[i].name);
    if (pin->way != PIN_MODBUS)
        return;
    if (!entry_of(section, "device") == !entry_of(section, "host"))
        problem_error(&pins->problems, place_of(section),
                      "through = modbus needs either device, its serial line, "
                      "or host");
    if (!entry_of(section, "coils"))
        return;
    if (!entry_of(section, "holds"))
        problem_error(&pins->problems, place_of(section),
                      "outputs by modbus need holds, after how long without a "
                      "word the board drops them by itself; never, if it does "
                      "not");
    if (!entry_of(section, "unit"))
        problem_error(&pins->problems, place_of(section),
                      "outputs by modbus need unit, the board's address");
}

/* Whether a name is KIND or KIND:NUMBER. */
static bool is_port(const char *name, bool *whole_kind)
{
    size_t kind = strcspn(name, ":");
    char word[PIN_PORT_MOST];
    *whole_kind = name[kind] == '\0';
    snprintf(word, sizeof(word), "%.*s", (int)kind, name);
    if (kind >= sizeof(word) - 8 || !ini_is_name(word))
        return false;
    const char *number = name + kind + 1;
    return *whole_kind || (*number && strlen(number) <= 5 &&
                           strspn(number, "0123456789") == strlen(number));
}

static void name_port(struct pin *pin, const char *name, bool whole, size_t i)
{
    if (whole)
        snprintf(pin->port, sizeof(pin->port), "%.24s:%zu", name, i);
    else
        snprintf(pin->port, sizeof(pin->port), "%.31s", name);
}

static void add_port(struct pins *pins, const struct pin *pin)
{
    const struct pin *first = pins_find(pins, pin->port);
    if (first)
        problem_error(&pins->problems, pin->place,
                      "%s is given in line %d already", pin->port,
                      first->place.line);
    else
        add(pins, pin);
}

/* A port for each item of the list. */
static void add_list(struct pins *pins, const struct ini_section *section,
                     struct pin *pin, const struct ini_entry *list, bool whole)
{
    const struct pin_key *key = pin_key_of(pin->way, list->key);
    const char *at = list->value;
    struct item item = {""};
    size_t count = 0;
    pin->place = (struct place){list->line, list->text};
    for (; next_item(&at, &item); count++) {
        const char *wrong = pin_key_take(key, item.text, pin);
        if (wrong)
            problem_error(&pins->problems, pin->place, "%s: %s", item.text,
                          wrong);
        name_port(pin, section->name, whole, count);
        if (whole || count == 0)
            add_port(pins, pin);
    }
    if (count == 0 || (!whole && count > 1))
        problem_error(&pins->problems, pin->place,
                      whole ? "expected one or more, apart by blanks"
                            : "[KIND:NUMBER] is one port; expected one");
}

static void read_section(struct pins *pins, const struct ini_section *section)
{
    const struct ini_entry *list = NULL;
    bool whole;
    struct pin pin = pin_none;
    pin.place = place_of(section);
    if (!is_port(section->name, &whole)) {
        problem_error(&pins->problems, pin.place,
                      "expected a kind of port or one port as the site file "
                      "names them, such as [relay] or [echo:0]");
        return;
    }
    if (!read_way(pins, section, &pin.way))
        return;
    read_shared(pins, section, &pin, &list);
    check_needed(pins, section, &pin);
    if (list)
        add_list(pins, section, &pin, list, whole);
    else {
        name_port(&pin, section->name, whole, 0);
        add_port(pins, &pin);
    }
}

bool pins_read(struct pins *pins, const char *path)
{
    *pins = (struct pins){.path = strdup(path)};
    FILE *in = fopen(path, "r");
    if (!in || !pins->path)
        return false;
    ini_file_read(&pins->ini, in, &pins->problems);
    bool failed = ferror(in);
    int why = errno;
    fclose(in);
    errno = why;
    for (size_t i = 0; !failed && i < pins->ini.count; i++)
        read_section(pins, &pins->ini.sections[i]);
    return !failed;
}

void pins_free(struct pins *pins)
{
    ini_file_free(&pins->ini);
    problems_free(&pins->problems);
    free(pins->list);
    free(pins->path);
    *pins = (struct pins){0};
}

struct pin *pins_find(const struct pins *pins, const char *port)
{
    for (size_t i = 0; i < pins->count; i++)
        if (strcmp(pins->list[i].port, port) == 0)
            return &pins->list[i];
    return NULL;
}
