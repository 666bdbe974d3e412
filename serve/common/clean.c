#include "clean.h"

#include <string.h>

bool clean_is_name(const char *text)
{
    size_t length = strspn(text, "abcdefghijklmnopqrstuvwxyz"
                                 "ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789_-.");
    return length > 0 && length < 64 && text[length] == '\0';
}

/* What turns the way of writing, or ends a line, or has no width: U+200B to
 * U+200F, U+2028 to U+202E, U+2066 to U+2069; of U+20xx, by its last bytes. */
static bool turns(unsigned char second, unsigned char third)
{
    static const unsigned char spans[][3] = {
        {0x80, 0x8b, 0x8f}, {0x80, 0xa8, 0xae}, {0x81, 0xa6, 0xa9}};
    for (size_t i = 0; i < sizeof(spans) / sizeof(spans[0]); i++)
        if (second == spans[i][0] && third >= spans[i][1] &&
            third <= spans[i][2])
            return true;
    return false;
}

/* A letter that is not shown, or that changes how others are: of C0 and C1, and
 * those that turn the way of writing. `at` is UTF-8, since JSON is. */
static size_t hidden(const unsigned char *at)
{
    if (at[0] < ' ' || at[0] == 127)
        return 1;
    if (at[0] == 0xc2 && at[1] < 0xa0)
        return 2;
    return at[0] == 0xe2 && turns(at[1], at[2]) ? 3 : 0;
}

static size_t size_of(unsigned char first)
{
    if (first < 0x80)
        return 1;
    return first < 0xe0 ? 2 : first < 0xf0 ? 3 : 4;
}

static void clean_text(json_t *json)
{
    char text[CLEAN_LETTERS + 4];
    size_t used = 0;
    const unsigned char *at = (const unsigned char *)json_string_value(json);
    const unsigned char *end = at + json_string_length(json);
    while (at < end && used < CLEAN_LETTERS) {
        size_t bad = hidden(at);
        size_t size = bad > 0 ? bad : size_of(*at);
        if (bad > 0)
            text[used++] = '?';
        else if (used + size <= CLEAN_LETTERS) {
            memcpy(text + used, at, size);
            used += size;
        } else
            break;
        at += size;
    }
    (void)json_string_setn(json, text, used);
}

/* Numbers beyond what every reader of JSON holds to the last digit; nothing
 * that is counted from them runs over. */
static bool is_beyond(const json_t *value)
{
    const json_int_t number = json_integer_value(value);
    return number > CLEAN_NUMBER || number < -CLEAN_NUMBER;
}

static bool is_kept(json_t *value, int depth);

static void clean_object(json_t *json, int depth)
{
    const char *key;
    json_t *value;
    void *next;
    size_t count = 0;
    json_object_foreach_safe(json, next, key, value)
    {
        if (!clean_is_name(key) || ++count > CLEAN_MEMBERS ||
            !is_kept(value, depth))
            json_object_del(json, key);
    }
}

static void clean_list(json_t *json, int depth)
{
    for (size_t i = json_array_size(json); i > 0; i--)
        if (i > CLEAN_MEMBERS || !is_kept(json_array_get(json, i - 1), depth))
            json_array_remove(json, i - 1);
}

/* Cleans it; false where it is too deep, or too large a number, to be kept. */
static bool is_kept(json_t *value, int depth)
{
    if (is_beyond(value))
        return false;
    if (json_is_string(value))
        clean_text(value);
    if (!json_is_object(value) && !json_is_array(value))
        return true;
    if (depth == CLEAN_DEPTH)
        return false;
    if (json_is_object(value))
        clean_object(value, depth + 1);
    else
        clean_list(value, depth + 1);
    return true;
}

json_t *clean_read(const char *text, size_t length)
{
    json_t *json = json_loadb(text, length, JSON_DECODE_ANY, NULL);
    if (json)
        (void)is_kept(json, 0);
    return json;
}
