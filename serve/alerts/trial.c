#include "trial.h"

#include <errno.h>
#include <stdio.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../common/private.h"

#define PATH_SIZE 4400
#define LOOK_NS 200000000L

static void path_of(const char *queue, const char *end, char path[PATH_SIZE])
{
    snprintf(path, PATH_SIZE, "%.4300s.%s", queue, end);
}

bool trial_is_wanted(const char *queue)
{
    char path[PATH_SIZE];
    path_of(queue, "try", path);
    return unlink(path) == 0;
}

json_t *trial_alert(void)
{
    json_int_t now = (json_int_t)time(NULL);
    return json_pack("{s:s, s:s, s:s, s:s, s:s, s:s, s:s, s:I, s:I, s:I, s:b}",
                     "kind", "trial", "rank", "harm", "site", "trial",
                     "site_name", "Cup Latch", "what",
                     "this is a trial, and nothing is wrong", "why",
                     "this is a trial, and nothing is wrong", "to_do", "",
                     "number", now, "heard", now, "since", now, "over", 0);
}

bool trial_is(const json_t *alert)
{
    const char *kind = json_string_value(json_object_get(alert, "kind"));
    return kind && strcmp(kind, "trial") == 0;
}

void trial_said(const char *queue, const char *way, const char *what)
{
    char path[PATH_SIZE];
    path_of(queue, "tried", path);
    FILE *out = fopen(path, "ae");
    if (!out)
        return;
    fprintf(out, "%s: %s\n", way, what);
    fclose(out);
}

/* The command */

static bool ask(const char *queue)
{
    char path[PATH_SIZE];
    path_of(queue, "tried", path);
    (void)unlink(path);
    path_of(queue, "try", path);
    if (private_put(path, "\n"))
        return true;
    fprintf(stderr, "cuplatch-serve: %s: %s\n", path, strerror(errno));
    return false;
}

/* Prints the lines that are new; how many there are, and how many were sent. */
static int hear(const char *queue, int known, int *sent)
{
    char path[PATH_SIZE];
    char line[400];
    int count = 0;
    path_of(queue, "tried", path);
    FILE *in = fopen(path, "re");
    while (in && fgets(line, sizeof(line), in)) {
        if (count++ < known)
            continue;
        fputs(line, stdout);
        *sent += strstr(line, ": sent") != NULL;
    }
    if (in)
        fclose(in);
    fflush(stdout);
    return count;
}

static int missing(const int heard[2], const int answers[2])
{
    return answers[0] + answers[1] - heard[0] - heard[1];
}

static void tell_missing(int count, int all)
{
    if (count > 0)
        fprintf(stderr,
                "cuplatch-serve: %d of %d said nothing within %d s: does the "
                "service run, by this file?\n",
                count, all, TRIAL_WAIT_S);
}

int trial_run(const char *const queues[2], const int answers[2])
{
    static const struct timespec nap = {0, LOOK_NS};
    time_t until = time(NULL) + TRIAL_WAIT_S;
    int heard[2] = {0, 0};
    int sent = 0;
    for (int i = 0; i < 2; i++)
        if (answers[i] > 0 && !ask(queues[i]))
            return 2;
    while (missing(heard, answers) > 0 && time(NULL) < until) {
        nanosleep(&nap, NULL);
        for (int i = 0; i < 2; i++)
            if (answers[i] > 0)
                heard[i] = hear(queues[i], heard[i], &sent);
    }
    tell_missing(missing(heard, answers), answers[0] + answers[1]);
    return sent == answers[0] + answers[1] ? 0 : 1;
}
