/* Loop and thread share a list behind one lock; the file is the thread's. */
#include "post.h"

#include <errno.h>
#include <fcntl.h>
#include <pthread.h>
#include <signal.h>
#include <spawn.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../common/note.h"
#include "../common/pause.h"
#include "queue.h"
#include "trial.h"

#define WORDS_MOST 16
#define LOOK_NS 50000000L
#define GRACE_MS 2000

/* `fresh` waits to be put into the file; `waiting` is in it. Both are lists of
 * alerts as they will be said. */
struct post {
    struct post_config config;
    struct alerts alerts;
    pthread_t thread;
    pthread_mutex_t lock;
    pthread_cond_t more;
    json_t *fresh;
    bool ends;
    /* of the thread */
    struct queue waiting;
    int64_t again_s;
    int pause_s;
};

/* The loop's half */

static void take_alert(void *self, json_t *alert)
{
    struct post *post = self;
    pthread_mutex_lock(&post->lock);
    json_array_append_new(post->fresh, alert);
    pthread_cond_signal(&post->more);
    pthread_mutex_unlock(&post->lock);
}

/* The thread */

static pid_t start(char *command, int in)
{
    char *words[WORDS_MOST + 1] = {NULL};
    char *rest;
    size_t count = 0;
    pid_t pid = -1;
    posix_spawn_file_actions_t actions;
    posix_spawnattr_t how;
    sigset_t none;
    for (char *word = strtok_r(command, " ", &rest); word && count < WORDS_MOST;
         word = strtok_r(NULL, " ", &rest))
        words[count++] = word;
    sigemptyset(&none);
    posix_spawn_file_actions_init(&actions);
    posix_spawn_file_actions_adddup2(&actions, in, STDIN_FILENO);
    posix_spawn_file_actions_addopen(&actions, STDOUT_FILENO, "/dev/null",
                                     O_WRONLY, 0);
    posix_spawnattr_init(&how);
    posix_spawnattr_setflags(&how,
                             POSIX_SPAWN_SETPGROUP | POSIX_SPAWN_SETSIGMASK);
    posix_spawnattr_setpgroup(&how, 0);
    posix_spawnattr_setsigmask(&how, &none);
    errno = words[0]
                ? posix_spawn(&pid, words[0], &actions, &how, words, environ)
                : ENOENT;
    posix_spawn_file_actions_destroy(&actions);
    posix_spawnattr_destroy(&how);
    return errno ? -1 : pid;
}

static bool is_over(struct post *post)
{
    pthread_mutex_lock(&post->lock);
    bool ends = post->ends;
    pthread_mutex_unlock(&post->lock);
    return ends;
}

static int64_t now_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (int64_t)at.tv_sec * 1000 + at.tv_nsec / 1000000;
}

/* Its exit status; -1 when it had to be ended, all that it started with it. */
static int await(struct post *post, pid_t pid)
{
    static const struct timespec nap = {0, LOOK_NS};
    int64_t end = now_ms() + INT64_C(1000) * POST_ANSWER_S;
    int status = 0;
    bool asked = false;
    while (waitpid(pid, &status, WNOHANG) == 0) {
        if (!asked && (now_ms() > end || is_over(post))) {
            asked = true;
            kill(-pid, SIGTERM);
            end = now_ms() + GRACE_MS;
        } else if (asked && now_ms() > end)
            kill(-pid, SIGKILL);
        nanosleep(&nap, NULL);
    }
    return asked ? -1 : status;
}

/* Starts the command with a line to read; it fits into what a pipe holds. */
static pid_t start_with(const struct post *post, const char *line)
{
    int ends[2];
    char *command = strdup(post->config.command);
    if (!command || pipe2(ends, O_CLOEXEC) != 0)
        abort();
    (void)fcntl(ends[1], F_SETFL, O_NONBLOCK);
    pid_t pid = start(command, ends[0]);
    int why = errno;
    close(ends[0]);
    (void)!write(ends[1], line, strlen(line));
    (void)!write(ends[1], "\n", 1);
    close(ends[1]);
    free(command);
    errno = why;
    return pid;
}

/* Hands an alert to the command; what is wrong goes into `wrong`. */
static bool hand_over(struct post *post, const json_t *alert, char *wrong,
                      size_t size)
{
    char *line = json_dumps(alert, JSON_COMPACT);
    if (!line)
        abort();
    pid_t pid = start_with(post, line);
    free(line);
    if (pid < 0) {
        snprintf(wrong, size, "%s", strerror(errno));
        return false;
    }
    int status = await(post, pid);
    if (status == -1)
        snprintf(wrong, size, "took longer than %d s, or was ended",
                 POST_ANSWER_S);
    else if (status != 0)
        snprintf(wrong, size, "ended with %d",
                 WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status));
    return status == 0;
}

static void drop_first(struct post *post)
{
    queue_drop(&post->waiting);
    post->pause_s = POST_PAUSE_FIRST_S;
    post->again_s = 0;
}

static void send_first(struct post *post)
{
    char wrong[120] = "";
    json_t *alert = queue_next(&post->waiting, false);
    int64_t since_s = json_integer_value(json_object_get(alert, "heard"));
    const char *why = json_string_value(json_object_get(alert, "why"));
    bool sent = hand_over(post, alert, wrong, sizeof(wrong));
    int64_t now = (int64_t)time(NULL); /* that took its time */
    if (trial_is(alert)) {
        trial_said(post->config.queue, "post", sent ? "sent" : wrong);
        drop_first(post);
    } else if (sent) {
        note("post", json_string_value(json_object_get(alert, "site")),
             "sent: %.200s", why ? why : "");
        drop_first(post);
    } else if (now - since_s > ALERTS_OLD_S) {
        note("post", NULL, "given up after a day: %.200s", why ? why : "");
        drop_first(post);
    } else {
        note("post", NULL, "%s: %s; again in %d s", post->config.command, wrong,
             post->pause_s);
        post->again_s = now + post->pause_s;
        post->pause_s = pause_longer(post->pause_s, POST_PAUSE_MOST_S);
    }
}

/* With the lock held: what came is put into the file. */
static void take_fresh(struct post *post)
{
    size_t i;
    json_t *alert;
    json_t *fresh = post->fresh;
    post->fresh = json_array();
    pthread_mutex_unlock(&post->lock);
    json_array_foreach(fresh, i, alert)
    {
        queue_add(&post->waiting, alert);
    }
    queue_save(&post->waiting);
    json_decref(fresh);
    pthread_mutex_lock(&post->lock);
}

static void *run(void *self)
{
    struct post *post = self;
    pthread_mutex_lock(&post->lock);
    while (!post->ends) {
        struct timespec until = {.tv_sec = time(NULL) + 1};
        if (json_array_size(post->fresh) > 0)
            take_fresh(post);
        else if (queue_first(&post->waiting) && time(NULL) >= post->again_s) {
            pthread_mutex_unlock(&post->lock);
            send_first(post);
            pthread_mutex_lock(&post->lock);
        } else
            pthread_cond_timedwait(&post->more, &post->lock, &until);
    }
    if (json_array_size(post->fresh) > 0)
        take_fresh(post);
    pthread_mutex_unlock(&post->lock);
    return NULL;
}

struct post *post_open(const struct post_config *config)
{
    struct post *post = calloc(1, sizeof(*post));
    if (!post)
        abort();
    post->config = *config;
    alerts_open(&post->alerts, take_alert, post, config->queue);
    post->fresh = json_array();
    post->pause_s = POST_PAUSE_FIRST_S;
    queue_open(&post->waiting, "post", config->queue);
    pthread_mutex_init(&post->lock, NULL);
    pthread_cond_init(&post->more, NULL);
    if (pthread_create(&post->thread, NULL, run, post) != 0)
        abort();
    return post;
}

void post_close(struct post *post)
{
    pthread_mutex_lock(&post->lock);
    post->ends = true;
    pthread_cond_signal(&post->more);
    pthread_mutex_unlock(&post->lock);
    pthread_join(post->thread, NULL);
    json_decref(post->fresh);
    queue_close(&post->waiting);
    pthread_mutex_destroy(&post->lock);
    pthread_cond_destroy(&post->more);
    alerts_close(&post->alerts);
    free(post);
}

struct alerts *post_alerts(struct post *post)
{
    return &post->alerts;
}

struct link_ear post_ear(struct post *post, const char *name)
{
    return alerts_ear(&post->alerts, name);
}
