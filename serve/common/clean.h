/* What comes from outside, cleaned once, where it comes in: no letter of it
 * moves a cursor, ends a line or turns what stands beside it around. */
#ifndef CUPLATCH_SERVE_COMMON_CLEAN_H
#define CUPLATCH_SERVE_COMMON_CLEAN_H

#include <jansson.h>
#include <stdbool.h>
#include <stdint.h>

/* Letters of a text, members of an object or a list, how deep they may be in
 * each other, and whole numbers either way (2^53 - 1: RFC 8259, 6); what is
 * beyond is left out. */
#define CLEAN_LETTERS 400
#define CLEAN_MEMBERS 2000
#define CLEAN_DEPTH 8
#define CLEAN_NUMBER INT64_C(9007199254740991)

/* Whether it can be a name: letters, digits and _ - . of at most 63. */
bool clean_is_name(const char *text);

/* Reads JSON of any kind and cleans it; null where it is none. It is the
 * caller's. */
json_t *clean_read(const char *text, size_t length);

#endif
