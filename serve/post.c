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

#include "../grammar/edit.h"
#include "note.h"
#include "pause.h"

#define WORDS_MOST 16
#define LOOK_NS 50000000L
#define GRACE_MS 2000

/* A controller: how far its events were looked at. */
struct sender {
    struct post *post;
    struct sender *next;
    const char *name;
    char id[64];
    char called[120];
    char run[64];
    int64_t number;
};

/* `fresh` waits to be put into the file; `waiting` is in it. Both are lists of
 * alerts as they will be said. */
struct post {
    struct post_config config;
    struct sender *first;
    pthread_t thread;
    pthread_mutex_t lock;
    pthread_cond_t more;
    json_t *fresh;
    bool ends;
    /* of the thread */
    json_t *waiting;
    int64_t again_s;
    int pause_s;
};

/* The loop's half */

static bool is_alert(const char *kind)
{
    static const char *const kinds[] = {"alert", "leak", "trip", "lock"};
    for (size_t i = 0; kind && i < sizeof(kinds) / sizeof(kinds[0]); i++)
        if (strcmp(kind, kinds[i]) == 0)
            return true;
    return false;
}

static void take_site(struct sender *sender, const json_t *site)
{
    const char *id = json_string_value(json_object_get(site, "id"));
    const char *name = json_string_value(json_object_get(site, "name"));
    const char *run = json_string_value(json_object_get(site, "run"));
    snprintf(sender->id, sizeof(sender->id), "%s", id ? id : sender->name);
    snprintf(sender->called, sizeof(sender->called), "%s",
             name ? name : sender->name);
    if (run && strcmp(run, sender->run) != 0) {
        snprintf(sender->run, sizeof(sender->run), "%s", run);
        sender->number = -1;
    }
}

static void take_event(struct sender *sender, json_t *event)
{
    struct post *post = sender->post;
    int64_t number = json_integer_value(json_object_get(event, "number"));
    if (number <= sender->number)
        return;
    sender->number = number;
    if (!is_alert(json_string_value(json_object_get(event, "kind"))))
        return;
    json_t *alert = json_copy(event);
    json_object_set_new(alert, "site", json_string(sender->id));
    json_object_set_new(alert, "site_name", json_string(sender->called));
    json_object_set_new(alert, "run", json_string(sender->run));
    json_object_set_new(alert, "heard", json_integer((json_int_t)time(NULL)));
    pthread_mutex_lock(&post->lock);
    json_array_append_new(post->fresh, alert);
    pthread_cond_signal(&post->more);
    pthread_mutex_unlock(&post->lock);
}

static void heard(void *self, const json_t *line)
{
    struct sender *sender = self;
    json_t *event = json_object_get(line, "event");
    const json_t *site = json_object_get(line, "site");
    if (json_is_object(site))
        take_site(sender, site);
    if (json_is_object(event))
        take_event(sender, event);
}

static void up(void *self, bool there)
{
    (void)self, (void)there;
}

static int64_t since(void *self, const char *id, char *run)
{
    const struct sender *sender = self;
    (void)id;
    snprintf(run, sizeof(sender->run), "%s", sender->run);
    return sender->number;
}

/* The file */

/* Whether an alert is already among those that wait: it may be told again after
 * a start. */
static bool is_there(const json_t *list, const json_t *alert)
{
    size_t i;
    json_t *other;
    json_array_foreach(list, i, other)
    {
        if (json_equal(json_object_get(other, "site"),
                       json_object_get(alert, "site")) &&
            json_equal(json_object_get(other, "run"),
                       json_object_get(alert, "run")) &&
            json_equal(json_object_get(other, "number"),
                       json_object_get(alert, "number")))
            return true;
    }
    return false;
}

static void save(const struct post *post)
{
    char *text = json_dumps(post->waiting, JSON_INDENT(1));
    int made = open(post->config.queue, O_WRONLY | O_CREAT | O_CLOEXEC, 0600);
    if (made >= 0)
        close(made);
    if (!text)
        abort();
    if (made < 0 || cup_file_replace(post->config.queue, text) != 0)
        note("post", NULL, "%s: %s; what is not sent is forgotten at the end",
             post->config.queue, strerror(errno));
    free(text);
}

static void load(struct post *post)
{
    post->waiting = json_load_file(post->config.queue, 0, NULL);
    if (json_is_array(post->waiting))
        return;
    if (access(post->config.queue, F_OK) == 0)
        note("post", NULL, "%s: is no list of alerts; it is begun anew",
             post->config.queue);
    json_decref(post->waiting);
    post->waiting = json_array();
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
    json_array_remove(post->waiting, 0);
    save(post);
    post->pause_s = POST_PAUSE_FIRST_S;
    post->again_s = 0;
}

static void send_first(struct post *post)
{
    char wrong[120] = "";
    json_t *alert = json_array_get(post->waiting, 0);
    int64_t now = (int64_t)time(NULL);
    int64_t since_s = json_integer_value(json_object_get(alert, "heard"));
    const char *why = json_string_value(json_object_get(alert, "why"));
    if (hand_over(post, alert, wrong, sizeof(wrong))) {
        note("post", json_string_value(json_object_get(alert, "site")),
             "sent: %.200s", why ? why : "");
        drop_first(post);
    } else if (now - since_s > POST_OLD_S) {
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
        if (!is_there(post->waiting, alert))
            json_array_append(post->waiting, alert);
    }
    while (json_array_size(post->waiting) > POST_WAITING_MOST) {
        note("post", NULL, "more than %d wait: the oldest goes",
             POST_WAITING_MOST);
        json_array_remove(post->waiting, 0);
    }
    save(post);
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
        else if (json_array_size(post->waiting) > 0 &&
                 time(NULL) >= post->again_s) {
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
    post->fresh = json_array();
    post->pause_s = POST_PAUSE_FIRST_S;
    load(post);
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
    json_decref(post->waiting);
    pthread_mutex_destroy(&post->lock);
    pthread_cond_destroy(&post->more);
    for (struct sender *sender = post->first; sender;) {
        struct sender *next = sender->next;
        free(sender);
        sender = next;
    }
    free(post);
}

struct link_ear post_ear(struct post *post, const char *name)
{
    struct sender *sender = malloc(sizeof(*sender));
    if (!sender)
        abort();
    *sender = (struct sender){
        .post = post, .next = post->first, .name = name, .number = -1};
    post->first = sender;
    return (struct link_ear){since, heard, NULL, up, sender};
}
