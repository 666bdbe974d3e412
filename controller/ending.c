/* Signals and failures. */
#include "ending.h"

#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

static volatile int stop;
/* Both ends of a pipe of our own: the handler writes, who waits reads. */
static int stop_pipe[2] = {-1, -1};

static void on_signal(int number)
{
    int was = errno;
    (void)number;
    stop = 1;
    if (write(stop_pipe[1], "", 1) < 0)
        stop = 1; /* it is full: that is enough */
    errno = was;
}

/* What was ignored when we were started stays so, as nohup wants it. */
static void end_by(int number)
{
    struct sigaction action = {.sa_handler = on_signal};
    struct sigaction before;
    if (sigaction(number, NULL, &before) == 0 && before.sa_handler != SIG_IGN)
        sigaction(number, &action, NULL);
}

/* Neither end is left to a program that we start, nor can it hold us up. With
 * none nobody could stop us, so we end before anything runs. */
static void make_pipe(void)
{
    if (pipe(stop_pipe) != 0) {
        fprintf(stderr, "cuplatch: cannot be made ready to be stopped: %s\n",
                strerror(errno));
        exit(EXIT_OUTSIDE);
    }
    for (int i = 0; i < 2; i++) {
        fcntl(stop_pipe[i], F_SETFD, FD_CLOEXEC);
        fcntl(stop_pipe[i], F_SETFL, O_NONBLOCK);
    }
}

/* Without SA_RESTART, so that a read under way ends. A write that nobody reads,
 * or that is too large, fails instead of ending us. */
const volatile int *stop_flag(void)
{
    static const int ends[] = {SIGHUP,  SIGINT,  SIGQUIT, SIGTERM,
                               SIGUSR1, SIGUSR2, SIGALRM, SIGVTALRM,
                               SIGPROF, SIGXCPU, SIGPOLL};
    if (stop_pipe[0] < 0)
        make_pipe();
    for (size_t i = 0; i < sizeof(ends) / sizeof(ends[0]); i++)
        end_by(ends[i]);
    signal(SIGPIPE, SIG_IGN);
    signal(SIGXFSZ, SIG_IGN);
    return &stop;
}

int stop_fd(void)
{
    return stop_pipe[0];
}

void tell_failure(const char *what, int why)
{
    fprintf(stderr, "cuplatch: %s%s%s\n", what, why ? ": " : "",
            why ? strerror(why) : "");
}

int tell_unopened(const char *path)
{
    int why = errno;
    fprintf(stderr, "cuplatch: %s: %s\n", path,
            why == EISDIR ? "is a folder; expected a file in it"
                          : strerror(why));
    errno = why;
    return why == EISDIR || why == ENOENT ? EXIT_USAGE : EXIT_OUTSIDE;
}
