/* Edits lines of a site file, with every other byte kept. */
#include "edit.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "text.h"

#define BLANKS " \t"

/* A part of the text: where it begins, and how long it is. */
struct part {
    size_t at;
    size_t length;
};

static struct part trimmed(const char *text, struct part part)
{
    while (part.length > 0 && strchr(" \t\r\n", text[part.at])) {
        part.at++;
        part.length--;
    }
    while (part.length > 0 &&
           strchr(" \t\r\n", text[part.at + part.length - 1]))
        part.length--;
    return part;
}

static bool part_is(const char *text, struct part part, const char *word)
{
    return strlen(word) == part.length &&
           strncmp(text + part.at, word, part.length) == 0;
}

/* The value of a line, without blanks and comment; false if it has none. */
static bool split_line(const char *text, struct part line, struct part *key,
                       struct part *value)
{
    const char *start = text + line.at;
    const char *equals = memchr(start, '=', line.length);
    if (!equals || *start == ';' || *start == '#')
        return false;
    *key = trimmed(text, (struct part){line.at, (size_t)(equals - start)});
    size_t from = line.at + (size_t)(equals - start) + 1;
    size_t end = line.at + line.length;
    for (size_t i = from; i < end; i++)
        if ((text[i] == ';' || text[i] == '#') && i > from &&
            strchr(BLANKS, text[i - 1]))
            end = i;
    *value = trimmed(text, (struct part){from, end - from});
    return true;
}

static bool opens(const char *text, struct part line, const char *thing)
{
    size_t length = strlen(thing);
    const char *start = text + line.at;
    return line.length >= length + 2 && *start == '[' &&
           strncmp(start + 1, thing, length) == 0 && start[length + 1] == ']';
}

/* What to put where: `part` of the text is replaced by three strings. */
struct change {
    struct part part;
    const char *before;
    const char *text;
    const char *after;
};

static char *changed(const char *text, const struct change *change,
                     const char *key)
{
    size_t room = strlen(text) + strlen(change->before) + strlen(key) +
                  strlen(change->text) + strlen(change->after) + 8;
    char *result = malloc(room);
    if (!result)
        abort();
    size_t end = change->part.at + change->part.length;
    snprintf(result, room, "%.*s%s%s%s%s%s%s", (int)change->part.at, text,
             change->before, key, *key ? " = " : "", change->text,
             change->after, text + end);
    return result;
}

/* Where an edit goes: the value of its key's line, or behind the last key of
 * its thing. */
struct place_found {
    bool thing;
    bool key;
    struct part value;
    size_t last_line_end;
    bool last_line_ended;
};

static void look_at_line(const char *text, struct part whole,
                         const struct cup_edit *edit, struct place_found *found,
                         bool *inside)
{
    struct part line = trimmed(text, whole);
    struct part key;
    struct part value;
    if (line.length > 0 && text[line.at] == '[')
        *inside = opens(text, line, edit->thing);
    if (!*inside || line.length == 0)
        return;
    found->thing = true;
    bool has_value = split_line(text, line, &key, &value);
    if (!has_value && text[line.at] != '[')
        return;
    found->last_line_end = whole.at + whole.length;
    found->last_line_ended = text[found->last_line_end - 1] == '\n';
    if (has_value && !found->key && part_is(text, key, edit->key)) {
        found->key = true;
        found->value = value;
    }
}

static char *edit_once(const char *text, const struct cup_edit *edit)
{
    struct place_found found = {0};
    bool inside = false;
    size_t at = text_mark(text);
    while (text[at]) {
        size_t length = strcspn(text + at, "\n");
        length += text[at + length] == '\n';
        look_at_line(text, (struct part){at, length}, edit, &found, &inside);
        at += length;
    }
    if (!found.thing)
        return NULL;
    if (found.key) {
        struct change change = {found.value, "", edit->value, ""};
        return changed(text, &change, "");
    }
    const char *end = strstr(text, "\r\n") ? "\r\n" : "\n";
    struct change change = {{found.last_line_end, 0},
                            found.last_line_ended ? "" : end,
                            edit->value,
                            end};
    return changed(text, &change, edit->key);
}

char *cup_edit_text(const char *text, const struct cup_edit *edits,
                    size_t count)
{
    char *now = strdup(text);
    for (size_t i = 0; now && i < count; i++) {
        char *next = edit_once(now, &edits[i]);
        free(now);
        now = next;
    }
    return now;
}
