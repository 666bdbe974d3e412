/* Questions wait in a ring; the thread makes texts of them, and wakes the loop
 * with a byte. */
#include "records.h"

#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "look_up.h"
#include "reply.h"

struct question {
    struct records_ask ask;
    struct later *later;
    struct looked_up answer;
};

struct records {
    const char *path;
    int wake[2];
    struct event *woken;
    pthread_t thread;
    pthread_mutex_t lock;
    pthread_cond_t more;
    struct question list[RECORDS_WAITING];
    uint64_t asked, looked, given; /* in all */
    bool ends;
};

/* The thread */

static void *run(void *self)
{
    struct records *records = self;
    pthread_mutex_lock(&records->lock);
    while (!records->ends) {
        if (records->looked == records->asked) {
            pthread_cond_wait(&records->more, &records->lock);
            continue;
        }
        struct question *question =
            &records->list[records->looked % RECORDS_WAITING];
        pthread_mutex_unlock(&records->lock);
        if (later_waits(question->later))
            look_up(records->path, &question->ask, &question->answer);
        pthread_mutex_lock(&records->lock);
        records->looked++;
        (void)!write(records->wake[1], "a", 1);
    }
    pthread_mutex_unlock(&records->lock);
    return NULL;
}

/* The loop */

static void give(struct question *question)
{
    struct looked_up *answer = &question->answer;
    struct evhttp_request *request = later_end(question->later);
    question->later = NULL;
    if (request && answer->json)
        reply_json(request, HTTP_OK, answer->json);
    else if (request && answer->text)
        reply_bytes(request, "text/csv; charset=utf-8", answer->text,
                    strlen(answer->text), NULL);
    else if (request)
        reply_error(request, 503, "%s", answer->wrong);
    else
        json_decref(answer->json);
    free(answer->text);
    *answer = (struct looked_up){.json = NULL};
}

static void woken(evutil_socket_t fd, short what, void *self)
{
    struct records *records = self;
    char bytes[32];
    (void)what;
    (void)!read(fd, bytes, sizeof(bytes));
    pthread_mutex_lock(&records->lock);
    uint64_t looked = records->looked;
    pthread_mutex_unlock(&records->lock);
    while (records->given < looked)
        give(&records->list[records->given++ % RECORDS_WAITING]);
}

struct records *records_open(struct event_base *base, const char *path)
{
    struct records *records = calloc(1, sizeof(*records));
    if (!records || pipe2(records->wake, O_NONBLOCK | O_CLOEXEC) != 0)
        abort();
    records->path = path;
    pthread_mutex_init(&records->lock, NULL);
    pthread_cond_init(&records->more, NULL);
    records->woken =
        event_new(base, records->wake[0], EV_READ | EV_PERSIST, woken, records);
    if (!records->woken || event_add(records->woken, NULL) != 0 ||
        pthread_create(&records->thread, NULL, run, records) != 0)
        abort();
    return records;
}

void records_close(struct records *records)
{
    pthread_mutex_lock(&records->lock);
    records->ends = true;
    pthread_cond_signal(&records->more);
    pthread_mutex_unlock(&records->lock);
    pthread_join(records->thread, NULL);
    for (; records->given < records->asked; records->given++) {
        struct question *question =
            &records->list[records->given % RECORDS_WAITING];
        (void)later_end(question->later);
        json_decref(question->answer.json);
        free(question->answer.text);
    }
    event_free(records->woken);
    close(records->wake[0]);
    close(records->wake[1]);
    pthread_mutex_destroy(&records->lock);
    pthread_cond_destroy(&records->more);
    free(records);
}

/* How many wait of the same person; who has left waits no more. */
static int share_of(const struct records *records, const char *by)
{
    int count = 0;
    for (uint64_t i = records->given; i < records->asked; i++) {
        const struct question *question = &records->list[i % RECORDS_WAITING];
        count +=
            later_waits(question->later) && strcmp(question->ask.by, by) == 0;
    }
    return count;
}

void records_answer(struct records *records, struct evhttp_request *request,
                    const struct records_ask *ask)
{
    if (records->asked - records->given == RECORDS_WAITING) {
        reply_error(request, 503, "the history is busy; ask again");
        return;
    }
    if (share_of(records, ask->by) == RECORDS_SHARE) {
        reply_error(request, 503,
                    "%d questions of yours wait for the history already; ask "
                    "again",
                    RECORDS_SHARE);
        return;
    }
    struct question *question =
        &records->list[records->asked % RECORDS_WAITING];
    question->ask = *ask;
    question->later = later_begin(request);
    question->answer = (struct looked_up){.json = NULL};
    pthread_mutex_lock(&records->lock);
    records->asked++;
    pthread_cond_signal(&records->more);
    pthread_mutex_unlock(&records->lock);
}
