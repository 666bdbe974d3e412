#include "json_in.h"

#include <math.h>

const char *text_in(const json_t *json, const char *key)
{
    const char *text = json_string_value(json_object_get(json, key));
    return text ? text : "";
}

double number_in(const json_t *json, const char *key)
{
    double number = json_number_value(json_object_get(json, key));
    return isfinite(number) ? number : 0;
}
