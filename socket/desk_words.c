/* What peers ask and tell. */
#include <pwd.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/text.h"
#include "../ports/common/json.h"
#include "cuplatch/console.h"
#include "cuplatch/say.h"
#include "desk_inside.h"

/* Words in one list, and questions. */
#define WORDS_MOST 64

/* What is said */

void desk_say(struct desk *desk, int peer, json_t *json)
{
    char *text = json_dumps(json, CUP_JSON_FORMAT);
    json_decref(json);
    if (!text)
        abort();
    peers_say(desk->peers, peer, text);
    free(text);
}

static json_t *answer_to(const json_t *line)
{
    json_t *answer = json_object();
    json_t *id = json_object_get(line, "id");
    if (id)
        json_object_set(answer, "id", id);
    return answer;
}

void desk_refuse(struct desk *desk, int peer, const json_t *line,
                 const char *error, int word)
{
    json_t *answer = answer_to(line);
    json_object_set_new(answer, "done", json_false());
    json_object_set_new(answer, "error", json_string(error));
    if (word >= 0)
        json_object_set_new(answer, "word", json_integer(word));
    desk_say(desk, peer, answer);
}

/* Asking */

/* The lines of an answer, as one text. */
struct page {
    char text[16384];
    size_t used;
};

static void add_line(void *self, const char *text)
{
    struct page *page = self;
    char *at = page->text + page->used;
    size_t room = sizeof(page->text) - page->used;
    size_t begins = page->used > 0; /* behind the end of the line before */
    int length = snprintf(at, room, "%s%s", begins ? "\n" : "", text);
    if (length < 0 || (size_t)length >= room) {
        *at = '\0';
        return;
    }
    text_mend(at + begins);
    page->used += strlen(at);
}

void desk_ask(struct desk *desk, int peer, const json_t *line,
              const json_t *questions)
{
    json_t *answers = json_array();
    json_t *answer = answer_to(line);
    bool understood = true;
    for (size_t i = 0; i < json_array_size(questions) && i < WORDS_MOST; i++) {
        const char *text = json_string_value(json_array_get(questions, i));
        char question[CUP_CONSOLE_MOST + 8];
        struct page page = {"", 0};
        struct cup_printer printer = {add_line, &page};
        snprintf(question, sizeof(question), "ask %.*s", CUP_CONSOLE_MOST,
                 text ? text : "");
        understood &=
            cup_console_line(desk->site, desk->site_ms, question, &printer);
        json_array_append_new(answers, json_string(page.text));
    }
    json_object_set_new(answer, "done", json_boolean(understood));
    json_object_set_new(answer, "answers", answers);
    desk_say(desk, peer, answer);
}

/* Telling */

/* Who it is, by the kernel's word. */
static void name_user(const struct desk *desk, int peer, char *name,
                      size_t size)
{
    unsigned user = peers_user(desk->peers, peer);
    const struct passwd *entry = getpwuid(user);
    if (entry)
        snprintf(name, size, "%s", entry->pw_name);
    else
        snprintf(name, size, "user %u", user);
}

/* Whether what a user says of who it was is taken. */
static bool is_speaker(const struct desk *desk, const char *user)
{
    size_t length = strlen(user);
    const char *at = desk->about.speakers;
    for (; at && *at; at += strcspn(at, " ,")) {
        at += strspn(at, " ,");
        if (strcspn(at, " ,") == length && strncmp(at, user, length) == 0)
            return true;
    }
    return false;
}

static void name_speaker(struct desk *desk, int peer, const json_t *line)
{
    const char *by = json_string_value(json_object_get(line, "by"));
    char user[sizeof(desk->user)];
    name_user(desk, peer, user, sizeof(user));
    bool speaks = by && is_speaker(desk, user);
    text_cut(desk->by, sizeof(desk->by), speaks ? by : user);
    text_cut(desk->user, sizeof(desk->user), speaks ? user : "");
}

/* Takes all of them, or says which word is wrong, and why; null when none is.
 */
static const char *take_words(const struct desk *desk, const json_t *told,
                              struct cup_word *words, size_t *which)
{
    size_t count = json_array_size(told);
    if (count == 0 || count > WORDS_MOST)
        return "expected 1 to 64 words";
    for (*which = 0; *which < count; ++*which) {
        const char *text = json_string_value(json_array_get(told, *which));
        const char *wrong =
            text ? cup_read_word(desk->site->plan, text, &words[*which])
                 : "expected a text";
        if (wrong)
            return wrong;
    }
    enum cup_error error =
        cup_site_steer_all(desk->site, desk->site_ms, words, count, which);
    return error ? cup_refusal_text(error, &words[*which]) : NULL;
}

/* Taken now: it counts in the next pass, and is answered then. */
void desk_tell(struct desk *desk, int peer, const json_t *line,
               const json_t *told)
{
    struct cup_word words[WORDS_MOST];
    size_t which = 0;
    const char *wrong = take_words(desk, told, words, &which);
    if (wrong) {
        desk_refuse(desk, peer, line, wrong,
                    which < json_array_size(told) ? (int)which : -1);
        return;
    }
    size_t count = json_array_size(told);
    name_speaker(desk, peer, line);
    json_t *answer = answer_to(line);
    json_t *answers = json_array();
    for (size_t i = 0; i < count; i++)
        json_array_append_new(answers, json_string("done"));
    json_object_set_new(answer, "done", json_true());
    json_object_set_new(answer, "answers", answers);
    struct guest *guest = &desk->guests[peer];
    if (!guest->done)
        guest->done = json_array();
    json_array_append_new(guest->done, answer);
}
