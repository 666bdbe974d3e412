/* Finds a line right, or says what is wrong with it, before any of it counts.
 */
#include <inttypes.h>
#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/text.h"
#include "cuplatch/say.h"
#include "inside.h"

bool lines_fail(struct lines *lines, const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    vsnprintf(lines->wrong, sizeof(lines->wrong), form, rest);
    va_end(rest);
    text_mend(lines->wrong);
    return false;
}

/* Finds a sensor or a source. */
bool lines_find(const struct cup_plan *plan, const char *name, cup_index *thing)
{
    for (cup_index i = 0; i < cup_things(plan); i++)
        if ((i < plan->sensor_count || i >= cup_source_thing(plan, 0)) &&
            strcmp(plan->names[i], name) == 0) {
            *thing = i;
            return true;
        }
    return false;
}

bool lines_button(const struct cup_plan *plan, const char *name,
                  cup_index *button)
{
    const char *const *first =
        plan->names + cup_things(plan) + plan->bar_count + plan->signal_count;
    for (*button = 0; *button < plan->button_count; ++*button)
        if (strcmp(first[*button], name) == 0)
            return true;
    return false;
}

/* Whether a thing answers with bytes, and whether it may with a number. */
static bool takes_bytes(const struct cup_plan *plan, cup_index thing)
{
    return thing >= plan->sensor_count ||
           cup_form_is_bytes(plan->sensors[thing].form);
}

int lines_hex(char letter)
{
    const char *digits = "0123456789abcdef";
    const char *at = letter ? strchr(digits, letter | 0x20) : NULL;
    return at ? (int)(at - digits) : -1;
}

static bool is_hex(const char *text)
{
    size_t length = strlen(text);
    for (size_t i = 0; i < length; i++)
        if (lines_hex(text[i]) < 0)
            return false;
    return length % 2 == 0 && length / 2 <= BYTES_MOST;
}

static bool check_bytes(struct lines *lines, const char *name, const char *hex)
{
    return is_hex(hex) ||
           lines_fail(
               lines,
               "raw: %s: expected bytes as pairs of hex digits, at most %d "
               "bytes",
               name, BYTES_MOST);
}

static bool check_number(struct lines *lines, const char *name, json_int_t raw)
{
    return (raw >= INT32_MIN && raw <= INT32_MAX) ||
           lines_fail(lines,
                      "raw: %s: %" JSON_INTEGER_FORMAT " is more than 32 bits",
                      name, raw);
}

static bool check_button(struct lines *lines, const char *name, json_t *value)
{
    json_int_t closed = json_integer_value(value);
    return (json_is_integer(value) && (closed == 0 || closed == 1)) ||
           lines_fail(lines, "raw: %s: expected 1 while it is pressed, else 0",
                      name);
}

/* What a sensor that is asked itself may say. */
static bool check_said(struct lines *lines, const char *name, cup_index thing,
                       json_t *value)
{
    const struct cup_plan *plan = lines->site->plan;
    bool bytes = takes_bytes(plan, thing);
    if (json_is_null(value))
        return true;
    if (json_is_string(value) && bytes)
        return check_bytes(lines, name, json_string_value(value));
    if (json_is_integer(value) && thing < plan->sensor_count)
        return check_number(lines, name, json_integer_value(value));
    return lines_fail(lines, "raw: %s: expected %s, or null for no answer",
                      name, bytes ? "bytes as hex text" : "a whole number");
}

static bool check_raw(struct lines *lines, const char *name, json_t *value)
{
    cup_index thing;
    char known[61];
    const struct cup_plan *plan = lines->site->plan;
    if (lines_button(plan, name, &thing))
        return check_button(lines, name, value);
    if (!lines_find(plan, name, &thing))
        return lines_fail(lines, "raw: there is no sensor named \"%s\"",
                          text_cut(known, sizeof(known), name));
    if (thing < plan->sensor_count && plan->sensors[thing].several)
        return lines_fail(
            lines, "raw: %s: is made of others and takes no raw value", name);
    return check_said(lines, name, thing, value);
}

static bool check_raws(struct lines *lines, json_t *raws)
{
    const char *name;
    json_t *value;
    if (!json_is_object(raws))
        return lines_fail(lines, "raw: expected an object of sensor names");
    json_object_foreach(raws, name,
                        value) if (!check_raw(lines, name, value)) return false;
    return true;
}

static bool refuse_word(struct lines *lines, json_t *words, size_t i,
                        const char *wrong)
{
    char word[81];
    text_cut(word, sizeof(word), json_string_value(json_array_get(words, i)));
    return lines_fail(lines, "tell: %s: %s", word, wrong);
}

/* A change beyond what its setting may be, with what it may be. */
static bool refuse_change(struct lines *lines, json_t *words, size_t i)
{
    const struct cup_plan *plan = lines->site->plan;
    const struct cup_word *word = &lines->words[i];
    char low[24];
    char high[24];
    char message[120];
    uint8_t c = 0;
    while (c + 1 < word->change_count &&
           word->changes[c].value >=
               plan->settings[word->changes[c].setting].low &&
           word->changes[c].value <=
               plan->settings[word->changes[c].setting].high)
        c++;
    cup_index setting = word->changes[c].setting;
    uint8_t unit = cup_setting_unit(plan, setting);
    cup_say_value(low, sizeof(low), plan, plan->settings[setting].low, unit);
    cup_say_value(high, sizeof(high), plan, plan->settings[setting].high, unit);
    snprintf(message, sizeof(message), "%s may be from %s to %s",
             cup_setting_code(plan, setting), low, high);
    return refuse_word(lines, words, i, message);
}

/* Why a word that was read may not be, as far as a person can be told. */
static bool refuse(struct lines *lines, json_t *words, size_t i,
                   enum cup_error error)
{
    const struct cup_word *word = &lines->words[i];
    if (error == CUP_ERROR_RANGE && word->verb == CUP_VERB_SET)
        return refuse_change(lines, words, i);
    return refuse_word(lines, words, i, cup_refusal_text(error, word));
}

/* Words are read one by one, and judged as they will stand together. */
bool lines_judge_words(struct lines *lines, json_t *words)
{
    size_t i;
    json_t *text;
    if (!json_is_array(words))
        return lines_fail(lines, "tell: expected a list of steering words");
    if (json_array_size(words) > WORDS_MOST)
        return lines_fail(lines, "tell: expected at most %d words in a line",
                          WORDS_MOST);
    json_array_foreach(words, i, text)
    {
        if (!json_is_string(text))
            return lines_fail(lines,
                              "tell: expected text, such as \"lift off\"");
        const char *wrong = cup_read_word(
            lines->site->plan, json_string_value(text), &lines->words[i]);
        if (wrong)
            return refuse_word(lines, words, i, wrong);
    }
    lines->word_count = json_array_size(words);
    enum cup_error error =
        cup_site_may_all(lines->site, lines->words, lines->word_count, &i);
    return !error || refuse(lines, words, i, error);
}

static bool check_asked(struct lines *lines, json_t *asked)
{
    size_t i;
    json_t *text;
    if (!json_is_array(asked))
        return lines_fail(lines,
                          "ask: expected a list, such as [\"why lift\"]");
    json_array_foreach(asked, i, text) if (
        !json_is_string(text)) return lines_fail(lines, "ask: expected text, "
                                                        "such as \"why lift\"");
    return true;
}

static bool check_pressed(struct lines *lines, json_t *pressed)
{
    size_t i;
    json_t *text;
    if (!json_is_array(pressed) || lines->site->plan->panel_width == 0)
        return lines_fail(lines,
                          "press: expected a list of inputs, for a site that "
                          "has a panel");
    json_array_foreach(
        pressed, i,
        text) if (!json_is_string(text) ||
                  cup_read_input(json_string_value(text)) ==
                      CUP_INPUT_COUNT) return lines_fail(lines,
                                                         "press: expected "
                                                         "next, less, more "
                                                         "or keep");
    return true;
}

static bool read_time(struct lines *lines, json_t *value, uint32_t *t_ms)
{
    json_int_t time = json_integer_value(value);
    if (!json_is_integer(value) || time < 0 || time > UINT32_MAX)
        return lines_fail(lines,
                          "t_ms: expected a whole number from 0 to %" PRIu32,
                          UINT32_MAX);
    *t_ms = (uint32_t)time * lines->faster;
    lines->told_ms = (uint32_t)time;
    return true;
}

static bool check_keys(struct lines *lines, json_t *json)
{
    const char *key;
    json_t *value;
    char known[61];
    json_object_foreach(
        json, key,
        value) if (strcmp(key, "t_ms") != 0 && strcmp(key, "raw") != 0 &&
                   strcmp(key, "tell") != 0 && strcmp(key, "ask") != 0 &&
                   strcmp(key, "press") !=
                       0) return lines_fail(lines,
                                            "unknown key \"%s\": expected "
                                            "t_ms, raw, tell, ask "
                                            "or press",
                                            text_cut(known, sizeof(known),
                                                     key));
    return true;
}

/* Each part of a line that may be left out, and what holds it to be right. */
static const struct part {
    const char *key;
    bool (*check)(struct lines *lines, json_t *value);
    size_t at;
} parts[] = {{"raw", check_raws, offsetof(struct line, raws)},
             {"ask", check_asked, offsetof(struct line, asked)},
             {"press", check_pressed, offsetof(struct line, pressed)}};

bool lines_judge(struct lines *lines, json_t *json, struct line *line)
{
    if (!json_is_object(json))
        return lines_fail(lines, "expected an object such as {\"t_ms\": 0, "
                                 "\"raw\": {}}");
    if (!check_keys(lines, json) ||
        !read_time(lines, json_object_get(json, "t_ms"), &line->t_ms))
        return false;
    for (size_t i = 0; i < sizeof(parts) / sizeof(parts[0]); i++) {
        json_t *value = json_object_get(json, parts[i].key);
        *(json_t **)((char *)line + parts[i].at) = value;
        if (value && !parts[i].check(lines, value))
            return false;
    }
    return true;
}
