/* Keys of the page: who may look and who may steer. A key is shown once, when
 * it is made; the file holds only its hash (BLAKE2b), so who reads the file has
 * no key. 25 letters of 32 are 125 bits: nothing that could be guessed, so that
 * a slow hash would only be slow. */
#ifndef CUPLATCH_SERVE_PAGE_KEYS_H
#define CUPLATCH_SERVE_PAGE_KEYS_H

#include <stdbool.h>
#include <stddef.h>
#include <sys/stat.h>

#include "../common/secret.h"

#define KEY_NAME_SIZE 26
/* "abcde-fghij-..." */
#define KEY_SIZE 30
#define KEYS_MOST 200

struct key {
    char name[KEY_NAME_SIZE];
    char hash[SECRET_HASH_SIZE];
    bool steers;
};

struct keys {
    const char *path;
    struct stat as_read;
    struct key list[KEYS_MOST];
    size_t count;
};

/* Reads the file at `path`, which must live as long; one that is not there has
 * no keys. False, and `wrong` (of `size` bytes) says why. */
bool keys_open(struct keys *keys, const char *path, char *wrong, size_t size);

/* Reads it again where it has changed; what cannot be read has no keys. */
void keys_refresh(struct keys *keys);

/* Whose key a text is, however it is written; null: nobody's. */
const struct key *keys_find(const struct keys *keys, const char *text);
const struct key *keys_named(const struct keys *keys, const char *name);

/* Adds one and writes the file; `made` is what to show once. */
bool keys_add(struct keys *keys, const char *name, bool steers,
              char made[KEY_SIZE], char *wrong, size_t size);

/* Removes one and writes the file. */
bool keys_drop(struct keys *keys, const char *name, char *wrong, size_t size);

#endif
