/* One by one, each by its row. */
#include "entries.h"

#include <stdio.h>
#include <string.h>

static struct place place_of(const struct ini_entry *entry)
{
    return (struct place){entry->line, entry->text};
}

#define KEYS_MOST 8

static void wrong_key(struct problems *problems, const struct ini_entry *entry,
                      const struct entry_key *keys)
{
    char list[120];
    char message[200];
    const char *names[KEYS_MOST + 1] = {NULL};
    for (size_t i = 0; keys[i].name; i++)
        names[i] = keys[i].name;
    words_list(list, sizeof(list), names);
    snprintf(message, sizeof(message), "no such key; expected %s", list);
    problem_word(problems, place_of(entry), message,
                 nearest_word(entry->key, names));
}

static void read_key(struct problems *problems, const struct ini_entry *entry,
                     const struct entry_key *keys, void *part)
{
    const struct entry_key *key = keys;
    while (key->name && strcmp(key->name, entry->key) != 0)
        key++;
    if (!key->name) {
        wrong_key(problems, entry, keys);
        return;
    }
    if (key->text)
        *key->text = entry->value;
    if (key->fits && !key->fits(part, entry->value))
        problem_error(problems, place_of(entry), "expected %s", key->expected);
}

void entries_read(struct problems *problems, const struct ini_section *section,
                  const struct entry_key *keys, void *part)
{
    for (size_t i = 0; i < section->count; i++)
        read_key(problems, &section->entries[i], keys, part);
}

bool entry_is_path(void *part, const char *text)
{
    (void)part;
    return *text == '/';
}

bool entry_is_yes_or_no(void *part, const char *text)
{
    (void)part;
    return strcmp(text, "yes") == 0 || strcmp(text, "no") == 0;
}

struct place entries_place(const struct ini_section *section)
{
    return (struct place){section->line, section->text};
}
