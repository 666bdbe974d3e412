#include "incoming.h"

#include <ctype.h>
#include <inttypes.h>
#include <stdio.h>
#include <string.h>

#include "../common/secret.h"
#include "../words/words.h"

void incoming_read(struct incoming *said, const struct cup_message *message,
                   const char *name)
{
    char all[CUP_MESSAGE_SIZE + 60];
    char hash[SECRET_HASH_SIZE];
    size_t used = 0;
    *said = (struct incoming){.sent_s = message->sent_s};
    snprintf(said->name, sizeof(said->name), "%s", name);
    snprintf(said->from, sizeof(said->from), "%s", message->from);
    for (const char *at = message->text; *at; at++) {
        bool blank = isspace((unsigned char)*at);
        bool again = used == 0 || said->text[used - 1] == ' ';
        char small = (char)tolower((unsigned char)*at);
        if (!blank || !again)
            said->text[used++] = small;
        if (blank && !again)
            said->text[used - 1] = ' ';
    }
    if (used > 0 && said->text[used - 1] == ' ')
        said->text[used - 1] = '\0';
    snprintf(all, sizeof(all), "%s %" PRIu32 " %s", message->from,
             message->sent_s, message->text);
    secret_hash(all, hash);
    snprintf(said->id, sizeof(said->id), "text.%.32s", hash);
}

/* Whether a text begins with a word. */
static bool begins(const char *text, const char *word)
{
    size_t length = strlen(word);
    return strncmp(text, word, length) == 0 &&
           (text[length] == ' ' || text[length] == '\0');
}

void incoming_plain(struct incoming *said)
{
    char name[CUP_MESSAGE_SIZE];
    if (strcmp(said->text, "stop") == 0 || strcmp(said->text, "hold") == 0)
        snprintf(said->text, sizeof(said->text), "site hold");
    if (strncmp(said->text, "off ", 4) != 0)
        return;
    snprintf(name, sizeof(name), "%s", said->text + 4);
    if (*name && !strchr(name, ' '))
        snprintf(said->text, sizeof(said->text), "%.120s off", name);
}

bool incoming_wants_help(const struct incoming *said)
{
    return strcmp(said->text, "help") == 0 || strcmp(said->text, "?") == 0 ||
           *said->text == '\0';
}

void incoming_cut(struct incoming *said, size_t length)
{
    const char *rest = said->text + length;
    while (*rest == ' ')
        rest++;
    memmove(said->text, rest, strlen(rest) + 1);
}

bool incoming_code(struct incoming *said, char code[7])
{
    if (strspn(said->text, "0123456789") != 6 || said->text[6] != ' ')
        return false;
    memcpy(code, said->text, 6);
    code[6] = '\0';
    incoming_cut(said, 7);
    return true;
}

/* What it asks; null: it does not. */
static const char *question_of(const char *text)
{
    static const char *const asks[] = {"ask",    "levels", "pumps",
                                       "duties", "alerts", "settings",
                                       "days",   "why",    "status"};
    for (size_t i = 0; i < sizeof(asks) / sizeof(asks[0]); i++)
        if (begins(text, asks[i]))
            return i == 0 && text[3] ? text + 4 : text;
    return NULL;
}

bool incoming_asks(const struct incoming *said)
{
    return question_of(said->text) != NULL;
}

bool incoming_stops(const struct incoming *said)
{
    return words_stop(said->text);
}

bool incoming_may(const struct incoming *said, bool only_looks, bool coded)
{
    return incoming_asks(said) || coded ||
           (!only_looks && incoming_stops(said));
}

const char *incoming_why_not(const struct incoming *said, bool only_looks)
{
    if (said->paused)
        return "too many wrong codes: none counts for a day; off, hold and ask "
               "do";
    if (only_looks)
        return "this number may ask, not steer; help says what";
    return "that needs a code of your list before it; off, hold and ask do not";
}

json_t *incoming_body(const struct incoming *said)
{
    const char *question = question_of(said->text);
    const char *word = said->text;
    if (question && strcmp(question, "status") == 0)
        return json_pack("{s:s, s:I, s:[s, s, s]}", "id", said->id, "t",
                         (json_int_t)said->sent_s, "ask", "alerts", "levels",
                         "pumps");
    if (begins(word, "tell") && word[4])
        word += 5;
    return json_pack("{s:s, s:I, s:[s]}", "id", said->id, "t",
                     (json_int_t)said->sent_s, question ? "ask" : "tell",
                     question ? question : word);
}

/* Adds lines, each behind a semicolon but the first of all. */
static size_t add_lines(char *text, size_t size, size_t used, const char *lines)
{
    bool begins_line = used > 0 && *lines;
    for (const char *at = lines; *at && used + 3 < size; at++) {
        if (begins_line || *at == '\n') {
            text[used++] = ';';
            text[used++] = ' ';
        }
        if (*at != '\n' && used + 1 < size)
            text[used++] = *at;
        begins_line = false;
    }
    text[used] = '\0';
    return used;
}

void incoming_answer(const struct incoming *said, const json_t *answer,
                     char *text, size_t size)
{
    size_t i;
    json_t *one;
    size_t used = 0;
    const char *error = json_string_value(json_object_get(answer, "error"));
    *text = '\0';
    json_array_foreach(json_object_get(answer, "answers"), i, one)
    {
        const char *lines = json_string_value(one);
        used = add_lines(text, size, used, lines ? lines : "");
    }
    if (error)
        snprintf(text, size, "refused: %s", error);
    else if (strcmp(said->text, "site hold") == 0)
        snprintf(text, size,
                 "on hold: nothing starts. To go on: a code, and site go");
    else if (used == 0)
        snprintf(text, size, "nothing");
}
