/* What an object says under a key. */
#ifndef CUPLATCH_CLI_COMMON_JSON_IN_H
#define CUPLATCH_CLI_COMMON_JSON_IN_H

#include <jansson.h>

/* A text of an object; empty when it has none of that name. */
const char *text_in(const json_t *json, const char *key);
double number_in(const json_t *json, const char *key);

#endif
