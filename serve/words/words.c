/* Each goes out under a number of its own, by which its answer is known. */
#include "words.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../ports/common/wall.h"
#include "../past/past.h"
#include "known.h"

#define LIST_MOST 16
#define WORD_MOST 120
/* Who says it, with its zero: as much as a controller keeps. */
#define BY_SIZE 40

struct waiting {
    json_int_t number; /* 0: nothing waits here */
    struct words_from from;
    const struct link *link; /* whom they were said to */
    int64_t until;
};

struct words_desk {
    struct event *look;
    struct past *past;
    struct waiting list[WORDS_WAITING];
    struct known known;
    json_int_t number;
    int64_t since; /* words from before nobody can know again; 0: any */
    bool trusts_clock;
};

static void answer_error(const struct words_from *from, enum words_end end,
                         const char *why)
{
    from->answer(from->self, end, json_pack("{s:s}", "error", why));
}

/* Out of time */

static void look(evutil_socket_t fd, short what, void *self)
{
    struct words_desk *desk = self;
    int64_t now = (int64_t)time(NULL);
    (void)fd, (void)what;
    for (size_t i = 0; i < WORDS_WAITING; i++) {
        struct waiting *waiting = &desk->list[i];
        if (!waiting->number || waiting->until >= now)
            continue;
        waiting->number = 0;
        answer_error(&waiting->from, WORDS_SILENT,
                     "the controller has not answered; look "
                     "whether it counted before you say it again");
    }
}

struct words_desk *words_open(struct event_base *base, const char *history,
                              struct past *past, bool trusts_clock)
{
    struct timeval often = {.tv_sec = 1};
    struct words_desk *desk = calloc(1, sizeof(*desk));
    if (!desk)
        abort();
    known_open(&desk->known, history);
    desk->since = history ? 0 : (int64_t)time(NULL);
    desk->past = past;
    desk->trusts_clock = trusts_clock;
    desk->look = event_new(base, -1, EV_PERSIST, look, desk);
    if (!desk->look || event_add(desk->look, &often) != 0)
        abort();
    return desk;
}

void words_close(struct words_desk *desk)
{
    for (size_t i = 0; i < WORDS_WAITING; i++)
        if (desk->list[i].number)
            answer_error(&desk->list[i].from, WORDS_SILENT,
                         "cuplatch-serve ends");
    event_free(desk->look);
    free(desk);
}

/* What may go on */

/* "lift off", "site hold". */
bool words_stop(const char *word)
{
    const char *blank = strchr(word, ' ');
    return strcmp(word, "site hold") == 0 ||
           (blank && strcmp(blank, " off") == 0);
}

static bool is_letter(char letter)
{
    return letter >= ' ' && letter <= '~';
}

/* Letters that a word may have; whatever else the console says of it. */
static bool is_plain(const char *text, size_t length)
{
    if (length == 0 || length > WORD_MOST || strlen(text) != length)
        return false;
    for (size_t i = 0; i < length; i++)
        if (!is_letter(text[i]))
            return false;
    return true;
}

static bool are_plain(const json_t *list)
{
    for (size_t i = 0; i < json_array_size(list); i++) {
        const json_t *word = json_array_get(list, i);
        if (!json_is_string(word) ||
            !is_plain(json_string_value(word), json_string_length(word)))
            return false;
    }
    return true;
}

static bool is_id(const char *id)
{
    return id && is_plain(id, strlen(id)) && strlen(id) <= KNOWN_ID_MOST;
}

/* What is wrong with the shape of it; null: nothing. */
static const char *shape_of(const json_t *body)
{
    const char *id = json_string_value(json_object_get(body, "id"));
    const json_t *tell = json_object_get(body, "tell");
    const json_t *list = tell ? tell : json_object_get(body, "ask");
    if (!body)
        return "expected one JSON object: id, t and tell";
    if (!is_id(id))
        return "expected id, a text of up to 64 letters that is new each time";
    if (tell && !json_is_number(json_object_get(body, "t")))
        return "expected t, when it was said, in s UTC";
    if (json_array_size(list) < 1 || json_array_size(list) > LIST_MOST)
        return "expected tell, a list of 1 to 16 words";
    if (!are_plain(list))
        return "expected words of plain letters, 120 at most";
    return NULL;
}

static bool only_stops(const json_t *tell)
{
    for (size_t i = 0; i < json_array_size(tell); i++)
        if (!words_stop(json_string_value(json_array_get(tell, i))))
            return false;
    return true;
}

/* Why words come too late; null: they do not. A question never does. */
static const char *too_late(const struct words_desk *desk,
                            const struct words_from *from, const json_t *body)
{
    double said = json_number_value(json_object_get(body, "t"));
    double now = (double)time(NULL);
    const json_t *tell = json_object_get(body, "tell");
    int old_s = from->old_s > 0 ? from->old_s : WORDS_OLD_S;
    if (!tell || only_stops(tell))
        return NULL;
    if (!from->own_clock && !desk->trusts_clock && !wall_is_right())
        return "this machine's clock is not set by the world's, so that nobody "
               "knows how old this is; only off and hold are taken";
    if (!(fabs(now - said) <= old_s) || said < (double)desk->since - 1)
        return "this was said too long ago, or by another clock; say it again";
    if (known_has(&desk->known, json_string_value(json_object_get(body, "id"))))
        return "this has been said already";
    return NULL;
}

/* Out and back */

static struct waiting *room(struct words_desk *desk)
{
    for (size_t i = 0; i < WORDS_WAITING; i++)
        if (!desk->list[i].number)
            return &desk->list[i];
    return NULL;
}

/* Who says it, in plain letters, whoever calls himself what. */
static json_t *plain_by(const char *text)
{
    char by[BY_SIZE];
    size_t used = 0;
    for (; *text && used + 1 < sizeof(by); text++) {
        by[used] = *text;
        if (!is_letter(*text))
            by[used] = '?';
        used++;
    }
    return json_stringn(by, used);
}

static void pass_on(struct words_desk *desk, struct link *link,
                    const struct words_from *from, const json_t *body)
{
    struct waiting *waiting = room(desk);
    json_t *tell = json_object_get(body, "tell");
    if (!waiting) {
        answer_error(from, WORDS_BUSY, "too many words wait for their answer");
        return;
    }
    if (tell)
        known_add(&desk->known, json_string_value(json_object_get(body, "id")));
    *waiting = (struct waiting){.number = ++desk->number,
                                .from = *from,
                                .link = link,
                                .until = (int64_t)time(NULL) + WORDS_ANSWER_S};
    json_t *line =
        json_pack("{s:I, s:o}", "id", desk->number, "by", plain_by(from->by));
    json_object_set(line, tell ? "tell" : "ask",
                    tell ? tell : json_object_get(body, "ask"));
    link_say(link, line);
}

static void refuse(const struct words_desk *desk, const struct words_from *from,
                   const char *late)
{
    char why[200];
    const struct refusal refusal = {"words", from->site, from->by, "late", why};
    snprintf(why, sizeof(why), "refused: %s", late);
    past_refuse(desk->past, &refusal);
}

void words_say(struct words_desk *desk, struct link *link,
               const struct words_from *from, const json_t *body)
{
    const char *wrong = shape_of(body);
    const char *late = wrong ? NULL : too_late(desk, from, body);
    if (late)
        refuse(desk, from, late);
    if (wrong)
        answer_error(from, WORDS_WRONG, wrong);
    else if (late)
        answer_error(from, WORDS_LATE, late);
    else if (!link || !link->there)
        answer_error(from, WORDS_AWAY, "the controller is not there");
    else
        pass_on(desk, link, from, body);
}

void words_answered(struct words_desk *desk, const struct link *link,
                    const json_t *line)
{
    json_int_t number = json_integer_value(json_object_get(line, "id"));
    bool done = json_is_true(json_object_get(line, "done"));
    for (size_t i = 0; i < WORDS_WAITING; i++) {
        struct waiting *waiting = &desk->list[i];
        if (number == 0 || waiting->number != number || waiting->link != link)
            continue;
        json_t *answer = json_copy((json_t *)line);
        json_object_del(answer, "id");
        waiting->number = 0;
        waiting->from.answer(waiting->from.self,
                             done ? WORDS_DONE : WORDS_REFUSED, answer);
    }
}
