/* The thread has line, modem and queue; the loop has links and words. What goes
 * between them is in two short lists behind one lock. */
#include "texts.h"

#include <fcntl.h>
#include <pthread.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "alerts.h"
#include "note.h"
#include "pause.h"
#include "people.h"
#include "queue.h"
#include "said.h"
#include "tty.h"

#define TURN_MS 100
#define LINE_PAUSE_MOST_S 60
#define REPLIES_MOST 16
#define REPLY_TRIES 3
#define SITES_MOST 64

/* A text on its way out that is no alert: an answer. */
struct reply {
    char to[CUP_NUMBER_SIZE];
    char text[TEXTS_ANSWER_MOST + 1];
    int tries;
};

struct local_site {
    const char *name;
    struct link *link;
};

struct texts {
    struct texts_config config;
    struct alerts alerts;
    struct words_desk *words;
    struct local_site sites[SITES_MOST]; /* of the loop */
    size_t site_count;
    struct event *woken;
    /* shared */
    int wake[2];
    pthread_mutex_t lock;
    json_t *fresh;   /* alerts */
    struct said *in; /* words, for the loop */
    struct reply replies[REPLIES_MOST];
    size_t reply_count;
    bool ends;
    /* of the thread */
    pthread_t thread;
    struct people people;
    struct queue waiting;
    struct cup_modem modem;
    struct tty tty;
    enum cup_modem_is was;
    char pin[12];
    bool pin_given; /* and what became of it is not known yet */
    char out[600];  /* what is being sent, */
    char to[CUP_NUMBER_SIZE];
    bool out_is_reply;
    bool sends;
    int64_t again_s;
    int pause_s;
    int day, day_count; /* of the local calendar, messages of it */
    bool told_most;
};

/* The loop: words in, answers out */

static void reply(struct texts *texts, const char *to, const char *text)
{
    pthread_mutex_lock(&texts->lock);
    if (texts->reply_count < REPLIES_MOST) {
        struct reply *one = &texts->replies[texts->reply_count++];
        snprintf(one->to, sizeof(one->to), "%s", to);
        snprintf(one->text, sizeof(one->text), "%s", text);
        one->tries = 0;
    }
    pthread_mutex_unlock(&texts->lock);
}

static void answered(void *self, enum words_end end, json_t *answer)
{
    struct said *said = self;
    char text[TEXTS_ANSWER_MOST + 1];
    (void)end;
    said_answer(answer, text, sizeof(text));
    reply(said->texts, said->from, text);
    json_decref(answer);
    free(said);
}

/* "plot-17 lift off" says which of several. */
static const struct local_site *site_of(const struct texts *texts,
                                        struct said *said)
{
    size_t length = strcspn(said->text, " ");
    if (texts->site_count == 1)
        return &texts->sites[0];
    for (size_t i = 0; i < texts->site_count; i++) {
        const char *name = texts->sites[i].name;
        if (strlen(name) == length && strncmp(name, said->text, length) == 0) {
            said_cut(said, length);
            return &texts->sites[i];
        }
    }
    return NULL;
}

static void say_words(struct texts *texts, struct said *said)
{
    char by[64];
    const struct local_site *site = site_of(texts, said);
    const struct words_from from = {by, TEXTS_OLD_S, false, answered, said};
    snprintf(by, sizeof(by), "text %s", said->name);
    if (!site) {
        reply(texts, said->from, "say first which site");
        free(said);
        return;
    }
    json_t *body = said_body(said);
    words_say(texts->words, site->link, &from, body);
    json_decref(body);
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct texts *texts = self;
    char bytes[32];
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    pthread_mutex_lock(&texts->lock);
    struct said *said = texts->in;
    texts->in = NULL;
    pthread_mutex_unlock(&texts->lock);
    while (said) {
        struct said *next = said->next;
        say_words(texts, said);
        said = next;
    }
}

/* The thread: what comes */

static void hand_over(struct texts *texts, const struct said *said)
{
    struct said *copy = malloc(sizeof(*copy));
    if (!copy)
        abort();
    *copy = *said;
    copy->texts = texts;
    pthread_mutex_lock(&texts->lock);
    struct said **last = &texts->in;
    while (*last)
        last = &(*last)->next;
    copy->next = NULL;
    *last = copy;
    pthread_mutex_unlock(&texts->lock);
    (void)!write(texts->wake[1], "", 1);
}

/* By its number alone only what looks or stops; the rest needs a code. */
static bool may(const struct texts *texts, const struct person *person,
                struct said *said)
{
    char code[7];
    bool coded = said_code(said, code);
    if (said_asks(said))
        return true;
    if (coded && people_spend(&texts->people, person->name, code))
        return true;
    return !person->only_looks && said_stops(said);
}

static void take_known(struct texts *texts, const struct person *person,
                       const struct cup_message *message)
{
    struct said said;
    said_read(&said, message, person->name);
    if (may(texts, person, &said)) {
        hand_over(texts, &said);
        return;
    }
    note("modem", person->name, "refused without a code: %.100s",
         message->text);
    reply(texts, message->from,
          person->only_looks ? "this number may ask, not steer"
                             : "that needs a code of your list before it; "
                               "off, hold and ask do not");
}

/* Anyone else gets silence. */
static void take_stranger(struct texts *texts,
                          const struct cup_message *message)
{
    if (people_try(&texts->people, message->from, message->text, time(NULL))) {
        note("modem", NULL, "%s was let in, to look", message->from);
        reply(texts, message->from, "you are let in: text ask levels");
    } else
        note("modem", NULL, "a text of %s, whom nobody knows, is not answered",
             *message->from ? message->from : "no number");
}

static void take_heard(struct texts *texts)
{
    const struct cup_message *message = cup_modem_heard(&texts->modem);
    if (!message)
        return;
    people_refresh(&texts->people);
    const struct person *person = people_find(&texts->people, message->from);
    if (person)
        take_known(texts, person, message);
    else
        take_stranger(texts, message);
    cup_modem_forget(&texts->modem);
}

/* The thread: what goes */

static int minute_of_day(time_t now, int *day)
{
    struct tm local;
    localtime_r(&now, &local);
    *day = local.tm_year * 366 + local.tm_yday;
    return local.tm_hour * 60 + local.tm_min;
}

/* Alerts wait for the morning, but not what runs out meanwhile. */
static bool is_quiet(const struct texts *texts, const json_t *alert, time_t now)
{
    const struct texts_config *config = &texts->config;
    int day;
    int minute = minute_of_day(now, &day);
    const char *kind = json_string_value(json_object_get(alert, "kind"));
    bool inside =
        config->quiet_from <= config->quiet_to
            ? minute >= config->quiet_from && minute < config->quiet_to
            : minute >= config->quiet_from || minute < config->quiet_to;
    return inside && !(kind && strcmp(kind, "leak") == 0);
}

static bool may_send_today(struct texts *texts, time_t now)
{
    int day;
    (void)minute_of_day(now, &day);
    if (day != texts->day) {
        texts->day = day;
        texts->day_count = 0;
        texts->told_most = false;
    }
    bool may = texts->day_count < texts->config.a_day;
    if (!may && !texts->told_most)
        note("modem", NULL, "%d messages were sent today: no more go out",
             texts->config.a_day);
    texts->told_most |= !may;
    return may;
}

static bool begin_out(struct texts *texts, const char *to, const char *text,
                      bool is_reply)
{
    snprintf(texts->to, sizeof(texts->to), "%s", to);
    snprintf(texts->out, sizeof(texts->out), "%s", text);
    texts->out_is_reply = is_reply;
    texts->sends = cup_modem_send(&texts->modem, texts->to, texts->out);
    texts->day_count += texts->sends;
    return texts->sends;
}

static bool begin_reply(struct texts *texts)
{
    struct reply one = {.tries = -1};
    pthread_mutex_lock(&texts->lock);
    if (texts->reply_count > 0)
        one = texts->replies[0];
    pthread_mutex_unlock(&texts->lock);
    return one.tries >= 0 && begin_out(texts, one.to, one.text, true);
}

static void begin_alert(struct texts *texts, time_t now)
{
    char text[500];
    const json_t *alert = queue_first(&texts->waiting);
    if (!alert || now < texts->again_s || is_quiet(texts, alert, now))
        return;
    const char *to = json_string_value(json_object_get(alert, "to"));
    const char *why = json_string_value(json_object_get(alert, "why"));
    const char *site = json_string_value(json_object_get(alert, "site_name"));
    snprintf(text, sizeof(text), "%.100s: %.380s", site ? site : "",
             why ? why : "needs somebody");
    if (!begin_out(texts, to ? to : "", text, false) &&
        cup_modem_is(&texts->modem) == CUP_MODEM_READY)
        queue_drop(&texts->waiting); /* whose number is none any more */
}

static void end_reply(struct texts *texts, bool done)
{
    pthread_mutex_lock(&texts->lock);
    struct reply *first = &texts->replies[0];
    if (done || ++first->tries == REPLY_TRIES) {
        texts->reply_count--;
        memmove(first, first + 1, texts->reply_count * sizeof(*first));
    }
    pthread_mutex_unlock(&texts->lock);
}

static void end_alert(struct texts *texts, bool done, time_t now)
{
    const json_t *alert = queue_first(&texts->waiting);
    int64_t heard_s = json_integer_value(json_object_get(alert, "heard"));
    bool old = now - heard_s > ALERTS_OLD_S;
    if (done)
        note("modem", NULL, "sent to %s: %.200s", texts->to, texts->out);
    else if (old)
        note("modem", NULL, "given up after a day: %.200s", texts->out);
    else
        note("modem", NULL, "%s was not reached; again in %d s", texts->to,
             texts->pause_s);
    if (done || old) {
        queue_drop(&texts->waiting);
        texts->pause_s = TEXTS_PAUSE_FIRST_S;
        texts->again_s = 0;
        return;
    }
    texts->again_s = now + texts->pause_s;
    texts->pause_s = pause_longer(texts->pause_s, TEXTS_PAUSE_MOST_S);
}

static void send_on(struct texts *texts)
{
    time_t now = time(NULL);
    enum cup_sending is = cup_modem_sending(&texts->modem);
    if (texts->sends && is != CUP_SENDING_NOW) {
        texts->sends = false;
        if (texts->out_is_reply)
            end_reply(texts, is == CUP_SENDING_DONE);
        else
            end_alert(texts, is == CUP_SENDING_DONE, now);
    }
    if (texts->sends || cup_modem_is(&texts->modem) != CUP_MODEM_READY ||
        !may_send_today(texts, now))
        return;
    if (!begin_reply(texts))
        begin_alert(texts, now);
}

/* An alert goes to everybody. */
static void take_fresh(struct texts *texts)
{
    size_t i;
    json_t *alert;
    pthread_mutex_lock(&texts->lock);
    json_t *fresh = texts->fresh;
    texts->fresh = json_array();
    pthread_mutex_unlock(&texts->lock);
    if (json_array_size(fresh) > 0)
        people_refresh(&texts->people);
    json_array_foreach(fresh, i, alert)
    {
        for (size_t p = 0; p < texts->people.count; p++) {
            json_t *one = json_copy(alert);
            json_object_set_new(one, "to",
                                json_string(texts->people.list[p].number));
            queue_add(&texts->waiting, one);
            json_decref(one);
        }
    }
    if (json_array_size(fresh) > 0)
        queue_save(&texts->waiting);
    json_decref(fresh);
}

/* The thread: line and modem */

static uint32_t now_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (uint32_t)((uint64_t)at.tv_sec * 1000u +
                      (uint64_t)at.tv_nsec / 1000000u);
}

/* What it is, told when it changes. */
static void tell_change(struct texts *texts)
{
    static const char *const names[] = {
        [CUP_MODEM_STARTING] = "is being set up",
        [CUP_MODEM_ABSENT] = "does not answer; trying again",
        [CUP_MODEM_LOCKED] = "wants a PIN, and has none that was not refused",
        [CUP_MODEM_SEARCHING] = "finds no network",
        [CUP_MODEM_READY] = "is ready"};
    enum cup_modem_is is = cup_modem_is(&texts->modem);
    if (is == texts->was)
        return;
    texts->was = is;
    note("modem", NULL, "%s: %s", texts->config.device, names[is]);
    if (texts->pin_given && is != CUP_MODEM_LOCKED &&
        is != CUP_MODEM_STARTING && is != CUP_MODEM_ABSENT) {
        said_pin_was_right(texts->config.queue);
        texts->pin_given = false;
    }
}

static void move_bytes(struct texts *texts)
{
    char bytes[256];
    char byte;
    size_t count = 0;
    ssize_t got = tty_read(&texts->tty, bytes, sizeof(bytes));
    for (ssize_t i = 0; i < got; i++)
        cup_modem_take(&texts->modem, now_ms(), bytes[i]);
    while (count < sizeof(bytes) && tty_has_room(&texts->tty, count) &&
           cup_modem_give(&texts->modem, now_ms(), &byte))
        bytes[count++] = byte;
    tty_write(&texts->tty, bytes, count);
}

/* One that was refused is not given again until its file changes. */
static const char *pin_of(struct texts *texts)
{
    texts->pin_given = said_pin(texts->config.pin_file, texts->config.queue,
                                texts->pin, sizeof(texts->pin));
    return texts->pin_given ? texts->pin : NULL;
}

static bool is_over(struct texts *texts)
{
    pthread_mutex_lock(&texts->lock);
    bool ends = texts->ends;
    pthread_mutex_unlock(&texts->lock);
    return ends;
}

static void *run(void *self)
{
    struct texts *texts = self;
    while (!is_over(texts)) {
        if (!tty_wait(&texts->tty, TURN_MS))
            continue; /* there is no line */
        if (texts->tty.fresh) {
            texts->tty.fresh = false;
            cup_modem_open(&texts->modem, now_ms(), pin_of(texts));
            texts->was = CUP_MODEM_STARTING;
        }
        move_bytes(texts);
        take_fresh(texts);
        take_heard(texts);
        send_on(texts);
        tell_change(texts);
    }
    take_fresh(texts);
    return NULL;
}

/* Opening */

static void take_alert(void *self, json_t *alert)
{
    struct texts *texts = self;
    pthread_mutex_lock(&texts->lock);
    json_array_append_new(texts->fresh, alert);
    pthread_mutex_unlock(&texts->lock);
}

struct texts *texts_open(struct event_base *base,
                         const struct texts_config *config,
                         struct words_desk *words)
{
    char wrong[240];
    struct texts *texts = calloc(1, sizeof(*texts));
    if (!texts || pipe2(texts->wake, O_CLOEXEC | O_NONBLOCK) != 0)
        abort();
    texts->config = *config;
    texts->words = words;
    texts->alerts = (struct alerts){take_alert, texts, NULL};
    texts->fresh = json_array();
    texts->pause_s = TEXTS_PAUSE_FIRST_S;
    texts->tty = (struct tty){.path = config->device,
                              .baud = config->baud,
                              .fd = -1,
                              .pause_most_s = LINE_PAUSE_MOST_S};
    if (!people_open(&texts->people, config->people, wrong, sizeof(wrong)))
        note("modem", NULL, "%s: %s; nobody is texted", config->people, wrong);
    queue_open(&texts->waiting, "modem", config->queue);
    pthread_mutex_init(&texts->lock, NULL);
    texts->woken =
        event_new(base, texts->wake[0], EV_READ | EV_PERSIST, woken, texts);
    if (!texts->woken || event_add(texts->woken, NULL) != 0 ||
        pthread_create(&texts->thread, NULL, run, texts) != 0)
        abort();
    return texts;
}

void texts_close(struct texts *texts)
{
    pthread_mutex_lock(&texts->lock);
    texts->ends = true;
    pthread_mutex_unlock(&texts->lock);
    pthread_join(texts->thread, NULL);
    while (texts->in) {
        struct said *next = texts->in->next;
        free(texts->in);
        texts->in = next;
    }
    tty_close(&texts->tty);
    alerts_close(&texts->alerts);
    queue_close(&texts->waiting);
    json_decref(texts->fresh);
    event_free(texts->woken);
    close(texts->wake[0]);
    close(texts->wake[1]);
    pthread_mutex_destroy(&texts->lock);
    free(texts);
}

struct link_ear texts_ear(struct texts *texts, const char *name)
{
    return alerts_ear(&texts->alerts, name);
}

void texts_link(struct texts *texts, const char *name, struct link *link)
{
    if (texts->site_count < SITES_MOST)
        texts->sites[texts->site_count++] = (struct local_site){name, link};
}

/* The command */

int texts_let_in(const char *people_path)
{
    char code[7];
    char wrong[240];
    if (!people_let_in(people_path, code, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s\n", people_path, wrong);
        return 1;
    }
    printf("%s\n", code);
    fprintf(stderr,
            "Whoever texts this first, within %d minutes, is entered and may "
            "ask.\nAfter %d wrong texts nobody is.\n",
            PEOPLE_LET_IN_S / 60, PEOPLE_TRIES);
    return 0;
}

int texts_new_codes(const char *people_path, const char *name)
{
    char codes[PEOPLE_CODES][7];
    char wrong[240];
    if (!people_new_codes(people_path, name, codes, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s; nothing was changed\n",
                people_path, wrong);
        return 1;
    }
    for (size_t i = 0; i < PEOPLE_CODES; i++)
        printf("%s\n", codes[i]);
    fprintf(stderr,
            "Codes of %s for words that need one, as in \"%s lift auto\": each "
            "counts\nonce. They are not shown again, and those from before are "
            "void.\n",
            name, codes[0]);
    return 0;
}
