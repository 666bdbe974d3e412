/* Each goes out under a number of its own, by which its answer is known. */
#include "words.h"

#include <math.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "reply.h"

#define TELL_MOST 16
#define WORD_MOST 120
#define ID_MOST 64

struct waiting {
    json_int_t number; /* 0: nothing waits here */
    struct later *later;
    int64_t until;
};

struct words_desk {
    struct event *look;
    struct waiting list[WORDS_WAITING];
    char known[WORDS_KNOWN][ID_MOST + 1];
    size_t known_count;
    json_int_t number;
    int64_t since; /* words from before nobody can know again */
};

/* Out of time */

static void give_up(struct waiting *waiting)
{
    struct evhttp_request *request = later_end(waiting->later);
    waiting->number = 0;
    if (request)
        reply_error(request, 504,
                    "the controller has not answered; look "
                    "whether it counted before you say it again");
}

static void look(evutil_socket_t fd, short what, void *self)
{
    struct words_desk *desk = self;
    int64_t now = (int64_t)time(NULL);
    (void)fd, (void)what;
    for (size_t i = 0; i < WORDS_WAITING; i++)
        if (desk->list[i].number && desk->list[i].until < now)
            give_up(&desk->list[i]);
}

struct words_desk *words_open(struct event_base *base)
{
    struct timeval often = {.tv_sec = 1};
    struct words_desk *desk = calloc(1, sizeof(*desk));
    if (!desk)
        abort();
    desk->since = (int64_t)time(NULL);
    desk->look = event_new(base, -1, EV_PERSIST, look, desk);
    if (!desk->look || event_add(desk->look, &often) != 0)
        abort();
    return desk;
}

void words_close(struct words_desk *desk)
{
    for (size_t i = 0; i < WORDS_WAITING; i++)
        if (desk->list[i].number)
            (void)later_end(desk->list[i].later);
    event_free(desk->look);
    free(desk);
}

/* What may go on */

/* "lift off", "site hold". */
static bool stops(const char *word)
{
    const char *last = strrchr(word, ' ');
    return strcmp(word, "site hold") == 0 ||
           (last && strcmp(last, " off") == 0);
}

static bool is_known(const struct words_desk *desk, const char *id)
{
    for (size_t i = 0; i < desk->known_count && i < WORDS_KNOWN; i++)
        if (strcmp(desk->known[i], id) == 0)
            return true;
    return false;
}

/* Letters that a word may have; whatever else the console says of it. */
static bool is_plain(const char *text, size_t length)
{
    if (length == 0 || length > WORD_MOST || strlen(text) != length)
        return false;
    for (size_t i = 0; i < length; i++)
        if (text[i] < ' ' || text[i] > '~')
            return false;
    return true;
}

/* What is wrong with the shape of it; null: nothing. */
static const char *shape_of(const json_t *body)
{
    const char *id = json_string_value(json_object_get(body, "id"));
    const json_t *tell = json_object_get(body, "tell");
    if (!id || !*id || strlen(id) > ID_MOST)
        return "expected id, a text of up to 64 letters that is new each time";
    if (!json_is_number(json_object_get(body, "t")))
        return "expected t, when it was said, in s UTC";
    if (json_array_size(tell) < 1 || json_array_size(tell) > TELL_MOST)
        return "expected tell, a list of 1 to 16 words";
    for (size_t i = 0; i < json_array_size(tell); i++) {
        const json_t *word = json_array_get(tell, i);
        if (!json_is_string(word) ||
            !is_plain(json_string_value(word), json_string_length(word)))
            return "expected words of plain letters, 120 at most";
    }
    return NULL;
}

static bool only_stops(const json_t *tell)
{
    for (size_t i = 0; i < json_array_size(tell); i++)
        if (!stops(json_string_value(json_array_get(tell, i))))
            return false;
    return true;
}

/* Why a word comes too late; null: it does not. */
static const char *too_late(const struct words_desk *desk, const json_t *body)
{
    double said = json_number_value(json_object_get(body, "t"));
    double now = (double)time(NULL);
    if (only_stops(json_object_get(body, "tell")))
        return NULL;
    if (!(fabs(now - said) <= WORDS_OLD_S) || said < (double)desk->since - 1)
        return "this was said too long ago, or by another clock; say it again";
    if (is_known(desk, json_string_value(json_object_get(body, "id"))))
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

static void pass_on(struct words_desk *desk, struct evhttp_request *request,
                    struct link *link, const char *who, const json_t *body)
{
    char by[64];
    struct waiting *waiting = room(desk);
    if (!waiting) {
        reply_error(request, 503, "too many words wait for their answer");
        return;
    }
    snprintf(by, sizeof(by), "page %s", who);
    snprintf(desk->known[desk->known_count++ % WORDS_KNOWN], ID_MOST + 1, "%s",
             json_string_value(json_object_get(body, "id")));
    *waiting = (struct waiting){.number = ++desk->number,
                                .later = later_begin(request),
                                .until = (int64_t)time(NULL) + WORDS_ANSWER_S};
    link_say(link, json_pack("{s:I, s:O, s:s}", "id", desk->number, "tell",
                             json_object_get(body, "tell"), "by", by));
}

void words_tell(struct words_desk *desk, struct evhttp_request *request,
                struct link *link, const char *who)
{
    json_t *body = request_json(request);
    const char *wrong =
        body ? shape_of(body) : "expected one JSON object: id, t and tell";
    const char *late = wrong ? NULL : too_late(desk, body);
    if (wrong)
        reply_error(request, HTTP_BADREQUEST, "%s", wrong);
    else if (late)
        reply_error(request, 409, "%s", late);
    else if (!link)
        reply_error(request, 503, "the controller is not there");
    else
        pass_on(desk, request, link, who, body);
    json_decref(body);
}

void words_answered(struct words_desk *desk, const json_t *line)
{
    json_int_t number = json_integer_value(json_object_get(line, "id"));
    for (size_t i = 0; i < WORDS_WAITING; i++) {
        struct waiting *waiting = &desk->list[i];
        if (number == 0 || waiting->number != number)
            continue;
        waiting->number = 0;
        struct evhttp_request *request = later_end(waiting->later);
        json_t *answer = json_copy((json_t *)line);
        json_object_del(answer, "id");
        if (request)
            reply_json(request,
                       json_is_true(json_object_get(line, "done")) ? HTTP_OK
                                                                   : 409,
                       answer);
        else
            json_decref(answer);
    }
}
