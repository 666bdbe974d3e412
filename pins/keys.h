/* The keys of a pins file: which way takes which, and what each may say. */
#ifndef CUPLATCH_PINS_KEYS_H
#define CUPLATCH_PINS_KEYS_H

#include "pins.h"

/* How a key's value is read: TEXT as it is; a WORD of a list; a COUNT from low
 * to high; a TIME in ms; HEX bytes; a FRAME such as 8N1; HOLDS, a time or
 * never. COUNTS and TEXTS are lists: one port each. */
enum pin_key_type {
    PIN_KEY_TEXT,
    PIN_KEY_WORD,
    PIN_KEY_COUNT,
    PIN_KEY_TIME,
    PIN_KEY_HEX,
    PIN_KEY_FRAME,
    PIN_KEY_HOLDS,
    PIN_KEY_COUNTS,
    PIN_KEY_TEXTS
};

/* `needed` and `may` are the ways that must have it and that may, a bit each;
 * `at` is where in a struct pin it goes. */
struct pin_key {
    const char *name;
    enum pin_key_type type;
    unsigned needed;
    unsigned may;
    size_t at;
    int32_t low;
    int32_t high;
    const char *const *words;
};

extern const struct pin_key pin_keys[];
extern const size_t pin_key_count;

/* The key of a name that a way takes; null when it takes none of it. */
const struct pin_key *pin_key_of(enum pin_way way, const char *name);

/* Reads a value, or a list's item, into a pin; null, or what was expected, in a
 * buffer that the next call uses again. */
const char *pin_key_take(const struct pin_key *key, const char *text,
                         struct pin *pin);

static inline bool pin_key_is_list(const struct pin_key *key)
{
    return key->type == PIN_KEY_COUNTS || key->type == PIN_KEY_TEXTS;
}

#endif
