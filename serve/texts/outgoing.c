#include "outgoing.h"

#include <errno.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../alerts/alerts.h"
#include "../alerts/queue.h"
#include "../alerts/ranks.h"
#include "../alerts/trial.h"
#include "../common/note.h"
#include "../common/pause.h"
#include "../common/private.h"
#include "when.h"

#define REPLIES_MOST 16
#define REPLY_TRIES 3

struct reply {
    char to[CUP_NUMBER_SIZE];
    char text[OUTGOING_ANSWER_MOST + 1];
    int tries;
};

struct outgoing {
    struct texts_config config;
    /* shared */
    pthread_mutex_t lock;
    json_t *fresh; /* alerts that are not in the file */
    struct reply replies[REPLIES_MOST];
    size_t reply_count;
    /* of the thread */
    struct queue waiting;
    char to[CUP_NUMBER_SIZE];
    char text[CUP_TEXT_MOST + 1]; /* what is being sent */
    bool sends;
    bool is_reply;
    size_t folded;      /* into the one being sent */
    uint16_t sent;      /* messages of the modem, when it was counted last */
    struct today today; /* in a file, too, over restarts */
    bool told_most;
    int64_t again_s;
    int pause_s;
};

/* The file beside the queue that has the day and how many went out. */
static void today_path(const struct outgoing *out, char *path, size_t size)
{
    snprintf(path, size, "%s.today", out->config.queue);
}

static void recall_today(struct outgoing *out)
{
    char path[4400];
    today_path(out, path, sizeof(path));
    FILE *in = fopen(path, "r");
    if (in && fscanf(in, "%d %d %d", &out->today.day, &out->today.count,
                     &out->today.answers) < 2)
        note("modem", NULL,
             "%s: expected a day and a number; today counts from 0", path);
    if (in)
        fclose(in);
}

static void keep_today(const struct outgoing *out)
{
    char path[4400];
    char text[40];
    today_path(out, path, sizeof(path));
    snprintf(text, sizeof(text), "%d %d %d\n", out->today.day, out->today.count,
             out->today.answers);
    if (!private_put(path, text))
        note("modem", NULL, "%s: %s; a start counts from 0", path,
             strerror(errno));
}

struct outgoing *outgoing_open(const struct texts_config *config)
{
    struct outgoing *out = calloc(1, sizeof(*out));
    if (!out)
        abort();
    out->config = *config;
    out->fresh = json_array();
    out->pause_s = OUTGOING_PAUSE_FIRST_S;
    queue_open(&out->waiting, "modem", config->queue);
    recall_today(out);
    pthread_mutex_init(&out->lock, NULL);
    return out;
}

void outgoing_close(struct outgoing *out)
{
    queue_close(&out->waiting);
    json_decref(out->fresh);
    pthread_mutex_destroy(&out->lock);
    free(out);
}

/* In */

void outgoing_reply(struct outgoing *out, const char *to, const char *text)
{
    pthread_mutex_lock(&out->lock);
    if (out->reply_count < REPLIES_MOST) {
        struct reply *one = &out->replies[out->reply_count++];
        snprintf(one->to, sizeof(one->to), "%s", to);
        snprintf(one->text, sizeof(one->text), "%s", text);
        one->tries = 0;
    }
    pthread_mutex_unlock(&out->lock);
}

void outgoing_alert(struct outgoing *out, json_t *alert)
{
    pthread_mutex_lock(&out->lock);
    json_array_append_new(out->fresh, alert);
    pthread_mutex_unlock(&out->lock);
}

void outgoing_keep(struct outgoing *out, struct people *people)
{
    size_t i;
    json_t *alert;
    pthread_mutex_lock(&out->lock);
    json_t *fresh = out->fresh;
    out->fresh = json_array();
    pthread_mutex_unlock(&out->lock);
    if (json_array_size(fresh) > 0)
        people_refresh(people);
    json_array_foreach(fresh, i, alert)
    {
        for (size_t p = 0; p < people->count; p++) {
            json_t *one = json_copy(alert);
            json_object_set_new(one, "to", json_string(people->list[p].number));
            queue_add(&out->waiting, one);
            json_decref(one);
        }
    }
    if (json_array_size(fresh) > 0)
        queue_save(&out->waiting);
    json_decref(fresh);
}

/* When */

static int minute_of_day(time_t now, int *day)
{
    struct tm local;
    localtime_r(&now, &local);
    *day = local.tm_year * 366 + local.tm_yday;
    return local.tm_hour * 60 + local.tm_min;
}

/* Alerts wait for the morning, but not what does harm meanwhile. */
static bool is_quiet(const struct outgoing *out, time_t now)
{
    int day;
    return when_is_quiet(out->config.quiet_from, out->config.quiet_to,
                         minute_of_day(now, &day));
}

static void count(struct outgoing *out, const struct cup_modem *modem,
                  time_t now)
{
    int day;
    uint16_t sent = cup_modem_sent(modem);
    (void)minute_of_day(now, &day);
    if (when_begins(&out->today, day))
        out->told_most = false;
    int more = when_sent(out->sent, sent);
    out->sent = sent;
    out->today.count += more;
    if (out->is_reply)
        out->today.answers += more;
    if (more > 0)
        keep_today(out);
}

static bool may_answer(struct outgoing *out)
{
    bool may = when_may_answer(&out->today, out->config.a_day);
    if (!may && out->reply_count > 0 && !out->told_most)
        note("modem", NULL, "%d answers went out today: no more do",
             out->today.answers);
    out->told_most |= !may && out->reply_count > 0;
    return may;
}

static bool may_alert(struct outgoing *out, const json_t *alert)
{
    bool may =
        when_may_alert(&out->today, out->config.a_day, rank_is_harm(alert));
    if (!may && !out->told_most)
        note("modem", NULL, "%d messages went out today: no more do, but harm",
             out->today.count);
    out->told_most |= !may;
    return may;
}

/* Words */

/* Whether it waited so long that its time belongs to it. */
#define LATE_S 600

static void say_when(const json_t *alert, time_t now, char *text, size_t size)
{
    struct tm local;
    time_t since = (time_t)json_integer_value(json_object_get(alert, "heard"));
    *text = '\0';
    if (now - since > LATE_S)
        strftime(text, size, " (%H:%M)", localtime_r(&since, &local));
}

/* So many that wait for the same person are one text. */
#define FOLD_LEAST 3

static bool is_folded(const json_t *first, const json_t *other)
{
    return strcmp(event_text(first, "to"), event_text(other, "to")) == 0 &&
           !rank_is_harm(other);
}

static size_t count_folded(const struct queue *queue)
{
    size_t i;
    size_t count = 0;
    json_t *other;
    json_array_foreach(queue->list, i, other)
    {
        count += i > 0 && is_folded(queue_first(queue), other);
    }
    return count;
}

static void drop_folded(const struct queue *queue)
{
    for (size_t i = json_array_size(queue->list); i > 1; i--)
        if (is_folded(queue_first(queue), json_array_get(queue->list, i - 1)))
            json_array_remove(queue->list, i - 1);
}

/* "Keeper's Garden: header 8 % is below 10 %. Fetch water. And 7 more; see the
 * page." The last of a day says that it is. */
static void word_alert(struct outgoing *out, const json_t *alert, time_t now,
                       char *text, size_t size)
{
    char when[20];
    char more[60] = "";
    bool over = json_is_true(json_object_get(alert, "over"));
    out->folded = count_folded(&out->waiting);
    if (out->folded < FOLD_LEAST)
        out->folded = 0;
    if (out->folded > 0)
        snprintf(more, sizeof(more), " And %zu more: see the page.",
                 out->folded);
    say_when(alert, now, when, sizeof(when));
    snprintf(text, size, "%.60s: %s%.160s.%s%s%.100s%s%s",
             event_text(alert, "site_name"), over ? "over: " : "",
             *event_text(alert, "what") ? event_text(alert, "what")
                                        : event_text(alert, "why"),
             when, *event_text(alert, "to_do") ? " " : "",
             event_text(alert, "to_do"), more,
             out->today.count + 1 == out->config.a_day
                 ? " The last text of today, but for harm."
                 : "");
}

/* Out */

static bool begin(struct outgoing *out, struct cup_modem *modem, const char *to,
                  const char *text)
{
    snprintf(out->to, sizeof(out->to), "%s", to);
    snprintf(out->text, sizeof(out->text), "%s", text);
    out->sends = cup_modem_send(modem, out->to, out->text);
    return out->sends;
}

static bool begin_reply(struct outgoing *out, struct cup_modem *modem)
{
    struct reply one = {.tries = -1};
    pthread_mutex_lock(&out->lock);
    if (out->reply_count > 0)
        one = out->replies[0];
    pthread_mutex_unlock(&out->lock);
    out->is_reply = one.tries >= 0 && begin(out, modem, one.to, one.text);
    return out->is_reply;
}

static void begin_alert(struct outgoing *out, struct cup_modem *modem,
                        time_t now)
{
    char text[CUP_TEXT_MOST + 1];
    if (now < out->again_s)
        return;
    const json_t *alert = queue_next(&out->waiting, is_quiet(out, now));
    if (!alert || !may_alert(out, alert))
        return;
    word_alert(out, alert, now, text, sizeof(text));
    if (!begin(out, modem, event_text(alert, "to"), text))
        queue_drop(&out->waiting); /* whose number is none */
}

static void end_reply(struct outgoing *out, bool done)
{
    pthread_mutex_lock(&out->lock);
    struct reply *first = &out->replies[0];
    if (done || ++first->tries == REPLY_TRIES) {
        out->reply_count--;
        memmove(first, first + 1, out->reply_count * sizeof(*first));
    }
    pthread_mutex_unlock(&out->lock);
}

static void end_alert(struct outgoing *out, bool done, time_t now)
{
    const json_t *alert = queue_first(&out->waiting);
    int64_t heard_s = json_integer_value(json_object_get(alert, "heard"));
    bool old = now - heard_s > ALERTS_OLD_S || trial_is(alert);
    if (trial_is(alert))
        trial_said(out->config.queue, out->to,
                   done ? "sent" : "was not reached");
    if (done)
        note("modem", NULL, "sent to %s: %.200s", out->to, out->text);
    else if (old)
        note("modem", NULL, "given up after a day: %.200s", out->text);
    else
        note("modem", NULL, "%s was not reached; again in %d s", out->to,
             out->pause_s);
    if (done || old) {
        if (out->folded > 0)
            drop_folded(&out->waiting);
        queue_drop(&out->waiting);
        out->pause_s = OUTGOING_PAUSE_FIRST_S;
        out->again_s = 0;
        return;
    }
    out->again_s = now + out->pause_s;
    out->pause_s = pause_longer(out->pause_s, OUTGOING_PAUSE_MOST_S);
}

static void end(struct outgoing *out, bool done, time_t now)
{
    out->sends = false;
    if (out->is_reply)
        end_reply(out, done);
    else
        end_alert(out, done, now);
}

void outgoing_turn(struct outgoing *out, struct cup_modem *modem, time_t now)
{
    enum cup_sending is = cup_modem_sending(modem);
    count(out, modem, now);
    if (out->sends && is != CUP_SENDING_NOW)
        end(out, is == CUP_SENDING_DONE, now);
    if (out->sends || cup_modem_is(modem) != CUP_MODEM_READY)
        return;
    if (!may_answer(out) || !begin_reply(out, modem))
        begin_alert(out, modem, now);
}
