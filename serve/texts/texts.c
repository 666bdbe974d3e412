/* The thread has line, modem and queue; the loop has links and words. What goes
 * between them is in two short lists behind one lock. */
#include "texts.h"

#include <fcntl.h>
#include <pthread.h>
#include <stdatomic.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../alerts/alerts.h"
#include "../common/note.h"
#include "../past/past.h"
#include "card.h"
#include "incoming.h"
#include "outgoing.h"
#include "people.h"
#include "tty.h"
#include "when.h"

#define TURN_MS 100
#define LINE_PAUSE_MOST_S 60
/* A card that wants a PIN is looked after so often. */
#define CARD_S 5

/* Words with a code that may be under way at once. */
#define CODES_MOST 8

struct local_site {
    const char *name;
    struct link *link;
};

struct texts {
    struct texts_config config;
    struct alerts alerts;
    struct words_desk *words;
    struct past *past;
    struct outgoing *out;
    struct event *woken;
    /* shared */
    int wake[2];
    pthread_mutex_t lock;
    struct local_site sites[LINKS_MOST];
    size_t site_count;
    struct incoming *in;       /* words, for the loop */
    char codes[CODES_MOST][7]; /* of words that are not answered yet */
    bool ends;
    atomic_bool ready; /* the line is there, and the modem */
    /* of the thread */
    pthread_t thread;
    struct people people;
    struct wrong_codes wrong[PEOPLE_MOST];
    struct cup_modem modem;
    struct tty tty;
    enum cup_modem_is was;
    bool pin_given; /* and what became of it is not known yet */
    int64_t card_s; /* when it was looked after last */
};

/* The loop: words in, answers out */

/* A code is void once it counted, or may have; a mistyped word burns none. */
static void end_code(struct texts *texts, const struct incoming *said,
                     bool counted)
{
    pthread_mutex_lock(&texts->lock);
    for (size_t i = 0; *said->code && i < CODES_MOST; i++)
        if (strcmp(texts->codes[i], said->code) == 0)
            *texts->codes[i] = '\0';
    if (*said->code && counted)
        people_spend(&texts->people, said->name, said->code);
    pthread_mutex_unlock(&texts->lock);
}

static void answered(void *self, enum words_end end, json_t *answer)
{
    struct incoming *said = self;
    char text[OUTGOING_ANSWER_MOST + 1];
    end_code(said->texts, said, end == WORDS_DONE || end == WORDS_SILENT);
    incoming_answer(said, answer, text, sizeof(text));
    outgoing_reply(said->texts->out, said->from, text);
    json_decref(answer);
    free(said);
}

static void say_words(struct texts *texts, struct incoming *said)
{
    char by[64];
    const struct words_from from = {said->site, by,       TEXTS_OLD_S,
                                    false,      answered, said};
    snprintf(by, sizeof(by), "text %s", said->name);
    json_t *body = incoming_body(said);
    words_say(texts->words, said->link, &from, body);
    json_decref(body);
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct texts *texts = self;
    char bytes[32];
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    pthread_mutex_lock(&texts->lock);
    struct incoming *said = texts->in;
    texts->in = NULL;
    pthread_mutex_unlock(&texts->lock);
    while (said) {
        struct incoming *next = said->next;
        say_words(texts, said);
        said = next;
    }
}

/* The thread: what comes */

static void hand_over(struct texts *texts, const struct incoming *said)
{
    struct incoming *copy = malloc(sizeof(*copy));
    if (!copy)
        abort();
    *copy = *said;
    copy->texts = texts;
    pthread_mutex_lock(&texts->lock);
    struct incoming **last = &texts->in;
    while (*last)
        last = &(*last)->next;
    copy->next = NULL;
    *last = copy;
    pthread_mutex_unlock(&texts->lock);
    (void)!write(texts->wake[1], "", 1);
}

/* "plot-17 lift off" says which of several; null: it does not, and `names` is
 * what it could have said. */
static struct link *site_of(struct texts *texts, struct incoming *said,
                            char *names, size_t size)
{
    struct link *link = NULL;
    size_t length = strcspn(said->text, " ");
    size_t used = 0;
    pthread_mutex_lock(&texts->lock);
    if (texts->site_count == 1) {
        said->site = texts->sites[0].name;
        link = texts->sites[0].link;
    }
    for (size_t i = 0; !link && i < texts->site_count; i++) {
        const char *name = texts->sites[i].name;
        if (strlen(name) == length && strncmp(name, said->text, length) == 0) {
            incoming_cut(said, length);
            said->site = name;
            link = texts->sites[i].link;
        } else if (used < size)
            used += (size_t)snprintf(names + used, size - used, "%s%s",
                                     used > 0 ? ", " : "", name);
    }
    pthread_mutex_unlock(&texts->lock);
    return link;
}

/* Whether a person has that code, and no other words of theirs wait by it. */
static bool begin_code(struct texts *texts, const struct person *person,
                       struct incoming *said, const char *code)
{
    char *room = NULL;
    bool waits = false;
    pthread_mutex_lock(&texts->lock);
    bool has = people_has_code(&texts->people, person->name, code);
    for (size_t i = 0; has && i < CODES_MOST; i++) {
        waits |= strcmp(texts->codes[i], code) == 0;
        if (*texts->codes[i] == '\0')
            room = texts->codes[i];
    }
    has = has && room && !waits;
    if (has) {
        memcpy(room, code, 7);
        memcpy(said->code, code, 7);
    }
    pthread_mutex_unlock(&texts->lock);
    return has;
}

/* Whether a code counts; a wrong one is counted against its person. */
static bool counts(struct texts *texts, const struct person *person,
                   struct incoming *said, const char *code)
{
    struct wrong_codes *wrong =
        when_wrong_by(texts->wrong, PEOPLE_MOST, person->name);
    said->paused = *code && !when_codes_count(wrong, (int64_t)time(NULL));
    if (!*code || said->paused)
        return false;
    if (people_has_code(&texts->people, person->name, code))
        return begin_code(texts, person, said, code);
    when_wrong_code(wrong, (int64_t)time(NULL));
    return false;
}

/* A code is not spent on what needs none. */
static bool may(struct texts *texts, const struct person *person,
                struct incoming *said, const char *code)
{
    bool coded = !incoming_asks(said) && counts(texts, person, said, code);
    return incoming_may(said, person->only_looks, coded);
}

static void refuse(const struct texts *texts, const struct incoming *said,
                   const char *text)
{
    char why[160];
    const struct refusal refusal = {"modem", said->site, said->name, "no-code",
                                    why};
    snprintf(why, sizeof(why), "refused without a code: %.100s", text);
    past_refuse(texts->past, &refusal);
}

static const char help[] =
    "status, levels, alerts, why NAME; off NAME, stop (= hold). With a code of "
    "your list before it: NAME auto, NAME hand 5m, site go";

static void take_known(struct texts *texts, const struct person *person,
                       const struct cup_message *message)
{
    struct incoming said;
    char code[7] = "";
    char names[100] = "";
    char text[160];
    incoming_read(&said, message, person->name);
    (void)incoming_code(&said, code);
    incoming_plain(&said);
    if (incoming_wants_help(&said)) {
        outgoing_reply(texts->out, message->from, help);
        return;
    }
    said.link = site_of(texts, &said, names, sizeof(names));
    if (!said.link) {
        snprintf(text, sizeof(text), "say first which site: %s", names);
        outgoing_reply(texts->out, message->from, text);
        return;
    }
    incoming_plain(&said); /* what came after the site's name */
    if (may(texts, person, &said, code))
        hand_over(texts, &said);
    else {
        refuse(texts, &said, message->text);
        outgoing_reply(texts->out, message->from,
                       incoming_why_not(&said, person->only_looks));
    }
}

/* Anyone else gets silence. */
static void take_stranger(struct texts *texts,
                          const struct cup_message *message)
{
    const char *from = *message->from ? message->from : "no number";
    const struct refusal refusal = {
        "modem", NULL, from, "stranger",
        "nobody knows this number; its text is not answered"};
    if (people_try(&texts->people, message->from, message->text, time(NULL))) {
        note("modem", NULL, "%s was let in, to look", message->from);
        outgoing_reply(texts->out, message->from,
                       "you are let in: text ask levels");
    } else
        past_refuse(texts->past, &refusal);
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
        [CUP_MODEM_LOCKED] = "has no card, or wants another PIN",
        [CUP_MODEM_SEARCHING] = "finds no network",
        [CUP_MODEM_READY] = "is ready"};
    enum cup_modem_is is = cup_modem_is(&texts->modem);
    if (is == texts->was)
        return;
    texts->was = is;
    note("modem", NULL, "%s: %s", texts->config.device, names[is]);
    if (texts->pin_given &&
        (is == CUP_MODEM_READY || is == CUP_MODEM_SEARCHING)) {
        card_was_right(texts->config.queue);
        texts->pin_given = false;
    }
}

/* A PIN is given when the card wants one, and marked before; one that was
 * refused is not given again until its file changes. */
static void look_after_card(struct texts *texts)
{
    char pin[12];
    int64_t now = (int64_t)time(NULL);
    if (cup_modem_is(&texts->modem) != CUP_MODEM_LOCKED ||
        now - texts->card_s < CARD_S)
        return;
    texts->card_s = now;
    if (!card_pin(texts->config.pin_file, texts->config.queue, pin,
                  sizeof(pin)))
        return;
    texts->pin_given = true;
    cup_modem_pin(&texts->modem, now_ms(), pin);
}

static bool is_over(struct texts *texts)
{
    pthread_mutex_lock(&texts->lock);
    bool ends = texts->ends;
    pthread_mutex_unlock(&texts->lock);
    return ends;
}

/* A line that was plugged in begins from the beginning. */
static void turn(struct texts *texts)
{
    if (texts->tty.fresh) {
        texts->tty.fresh = false;
        cup_modem_open(&texts->modem, now_ms(), NULL);
        texts->was = CUP_MODEM_STARTING;
    }
    tty_exchange(&texts->tty, &texts->modem, now_ms());
    take_heard(texts);
    outgoing_turn(texts->out, &texts->modem, time(NULL));
    look_after_card(texts);
    tell_change(texts);
}

static void *run(void *self)
{
    struct texts *texts = self;
    while (!is_over(texts)) {
        bool there = tty_wait(&texts->tty, TURN_MS);
        outgoing_keep(texts->out, &texts->people);
        if (there)
            turn(texts);
        texts->ready = there && texts->was == CUP_MODEM_READY;
    }
    outgoing_keep(texts->out, &texts->people);
    return NULL;
}

/* Opening */

static void take_alert(void *self, json_t *alert)
{
    outgoing_alert(((struct texts *)self)->out, alert);
}

struct texts *texts_open(struct event_base *base,
                         const struct texts_config *config,
                         struct words_desk *words, struct past *past)
{
    char wrong[240];
    struct texts *texts = calloc(1, sizeof(*texts));
    if (!texts || pipe2(texts->wake, O_CLOEXEC | O_NONBLOCK) != 0)
        abort();
    texts->config = *config;
    texts->words = words;
    texts->past = past;
    alerts_open(&texts->alerts, take_alert, texts, config->queue);
    texts->out = outgoing_open(config);
    texts->tty = (struct tty){.path = config->device,
                              .baud = config->baud,
                              .fd = -1,
                              .pause_most_s = LINE_PAUSE_MOST_S};
    if (!people_open(&texts->people, config->people, wrong, sizeof(wrong)))
        note("modem", NULL, "%s: %s; nobody is texted", config->people, wrong);
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
        struct incoming *next = texts->in->next;
        free(texts->in);
        texts->in = next;
    }
    tty_close(&texts->tty);
    alerts_close(&texts->alerts);
    outgoing_close(texts->out);
    event_free(texts->woken);
    close(texts->wake[0]);
    close(texts->wake[1]);
    pthread_mutex_destroy(&texts->lock);
    free(texts);
}

struct alerts *texts_alerts(struct texts *texts)
{
    return &texts->alerts;
}

bool texts_are_ready(struct texts *texts)
{
    return texts->ready;
}

struct link_ear texts_ear(struct texts *texts, const char *name)
{
    return alerts_ear(&texts->alerts, name);
}

void texts_link(struct texts *texts, const char *name, struct link *link)
{
    pthread_mutex_lock(&texts->lock);
    texts->sites[texts->site_count++] = (struct local_site){name, link};
    pthread_mutex_unlock(&texts->lock);
}
