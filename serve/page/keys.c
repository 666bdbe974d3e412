/* A section a key, in the grammar of the other files. */
#include "keys.h"

#include <ctype.h>
#include <errno.h>
#include <sodium.h>
#include <stdio.h>
#include <string.h>

#include "../common/private.h"

#define LETTERS 25
/* Letters and hashes */

/* As it is hashed: small letters alone. False: it cannot be one. */
static bool plain_of(const char *text, char plain[LETTERS + 1])
{
    size_t count = 0;
    for (; *text; text++) {
        if (*text == '-' || isspace((unsigned char)*text))
            continue;
        if (count == LETTERS)
            return false;
        plain[count++] = (char)tolower((unsigned char)*text);
    }
    plain[count] = '\0';
    return count == LETTERS;
}

/* Reading */

static const char *value_of(const struct ini_section *section, const char *key)
{
    for (size_t i = 0; i < section->count; i++)
        if (strcmp(section->entries[i].key, key) == 0)
            return section->entries[i].value;
    return "";
}

static bool take_section(void *self, const struct ini_section *section)
{
    struct keys *keys = self;
    const char *hash = value_of(section, "hash");
    const char *may = value_of(section, "may");
    bool steers = strcmp(may, "steer") == 0;
    if (strlen(hash) != SECRET_HASH_SIZE - 1 || keys->count == KEYS_MOST ||
        (!steers && strcmp(may, "look") != 0))
        return false;
    struct key *key = &keys->list[keys->count++];
    snprintf(key->name, sizeof(key->name), "%s", section->name);
    snprintf(key->hash, sizeof(key->hash), "%s", hash);
    key->steers = steers;
    return true;
}

bool keys_open(struct keys *keys, const char *path, char *wrong, size_t size)
{
    char expected[80];
    *keys = (struct keys){.path = path};
    if (sodium_init() < 0) {
        snprintf(wrong, size, "no chance is to be had");
        return false;
    }
    snprintf(expected, sizeof(expected),
             "hash = 64 digits and may = steer or look, of %d keys at most",
             KEYS_MOST);
    bool good = private_read(path, &keys->as_read, take_section, keys, expected,
                             wrong, size);
    if (!good)
        keys->count = 0;
    return good;
}

void keys_refresh(struct keys *keys)
{
    char wrong[240];
    if (private_changed(keys->path, &keys->as_read))
        (void)keys_open(keys, keys->path, wrong, sizeof(wrong));
}

/* Finding */

const struct key *keys_find(const struct keys *keys, const char *text)
{
    char plain[LETTERS + 1];
    char hash[SECRET_HASH_SIZE];
    const struct key *found = NULL;
    if (!plain_of(text, plain))
        return NULL;
    secret_hash(plain, hash);
    for (size_t i = 0; i < keys->count; i++)
        if (sodium_memcmp(keys->list[i].hash, hash, SECRET_HASH_SIZE) == 0)
            found = &keys->list[i];
    return found;
}

const struct key *keys_named(const struct keys *keys, const char *name)
{
    for (size_t i = 0; i < keys->count; i++)
        if (strcmp(keys->list[i].name, name) == 0)
            return &keys->list[i];
    return NULL;
}

/* Writing */

static bool write_file(const struct keys *keys, char *wrong, size_t size)
{
    char text[KEYS_MOST * 160];
    size_t used = 0;
    text[0] = '\0';
    for (size_t i = 0; i < keys->count; i++)
        used += (size_t)snprintf(text + used, sizeof(text) - used,
                                 "[%s]\nhash = %s\nmay = %s\n\n",
                                 keys->list[i].name, keys->list[i].hash,
                                 keys->list[i].steers ? "steer" : "look");
    if (private_put(keys->path, text))
        return true;
    snprintf(wrong, size, "%s", strerror(errno));
    return false;
}

bool keys_add(struct keys *keys, const char *name, bool steers,
              char made[KEY_SIZE], char *wrong, size_t size)
{
    char plain[LETTERS + 1];
    if (!ini_is_name(name)) {
        snprintf(wrong, size,
                 "\"%.40s\" is no name: expected a letter, then "
                 "letters, digits, _ or -, 24 at most",
                 name);
        return false;
    }
    if (keys_named(keys, name) || keys->count == KEYS_MOST) {
        snprintf(wrong, size,
                 keys->count == KEYS_MOST
                     ? "there is no room for another key"
                     : "there is a key of that name; drop it "
                       "first, or choose another name");
        return false;
    }
    struct key *key = &keys->list[keys->count++];
    secret_letters(plain, LETTERS);
    secret_hash(plain, key->hash);
    snprintf(key->name, sizeof(key->name), "%s", name);
    key->steers = steers;
    snprintf(made, KEY_SIZE, "%.5s-%.5s-%.5s-%.5s-%.5s", plain, plain + 5,
             plain + 10, plain + 15, plain + 20);
    return write_file(keys, wrong, size);
}

bool keys_drop(struct keys *keys, const char *name, char *wrong, size_t size)
{
    for (size_t i = 0; i < keys->count; i++)
        if (strcmp(keys->list[i].name, name) == 0) {
            keys->list[i] = keys->list[--keys->count];
            return write_file(keys, wrong, size);
        }
    snprintf(wrong, size, "there is no key of the name %.40s", name);
    return false;
}
