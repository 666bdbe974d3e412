/* Anything else that can be read: a program that is asked by lines ("read
 * adc:0") and answers with a line: a number, "hex" and bytes, or "none". */
#include <ctype.h>
#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "ways.h"

/* In the child: its standard input and output are one socket. */
static void become(const char *command, int end)
{
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    setpgid(0, 0);
    dup2(end, STDIN_FILENO);
    dup2(end, STDOUT_FILENO);
    signal(SIGPIPE, SIG_DFL);
    execl("/bin/sh", "sh", "-c", command, (char *)NULL);
    _exit(127);
}

static void shut_program(struct duct *duct)
{
    if (duct->fd < 0)
        return;
    close(duct->fd);
    duct->fd = -1;
    if (duct->more > 1) {
        kill(-(pid_t)duct->more, SIGKILL);
        waitpid((pid_t)duct->more, NULL, 0);
    }
    duct->more = -1;
}

static bool open_program(struct duct *duct, char *wrong, size_t size)
{
    int ends[2];
    if (duct->fd >= 0)
        return true;
    if (socketpair(AF_UNIX, SOCK_STREAM | SOCK_CLOEXEC, 0, ends) != 0) {
        snprintf(wrong, size, "%s", strerror(errno));
        return false;
    }
    pid_t child = fork();
    if (child == 0)
        become(duct->pin->command, ends[1]);
    close(ends[1]);
    duct->fd = ends[0];
    duct->more = (int)child;
    if (child > 0) {
        setpgid(child, child); /* whichever of us is first */
        return true;
    }
    snprintf(wrong, size, "it cannot be started: %s", strerror(errno));
    close(duct->fd);
    duct->fd = -1;
    return false;
}

/* A line, within the time; false when none came whole. */
static bool hear_line(struct duct *duct, char *line, size_t size)
{
    size_t used = 0;
    while (used + 1 < size && duct_can_read(duct->fd, duct->answer_ms)) {
        ssize_t got = read(duct->fd, line + used, 1);
        if (got <= 0)
            return false;
        if (line[used] == '\n') {
            line[used] = '\0';
            return true;
        }
        used++;
    }
    return false;
}

static bool hear_hex(const char *at, struct reply *heard)
{
    struct reply came = {.count = 0};
    while (*at) {
        char pair[3] = {at[0], at[1], '\0'};
        if (isspace((unsigned char)*at)) {
            at++;
            continue;
        }
        if (!isxdigit((unsigned char)pair[0]) ||
            !isxdigit((unsigned char)pair[1]) || came.count == HEARD_MOST)
            return false;
        came.bytes[came.count++] = (uint8_t)strtoul(pair, NULL, 16);
        at += 2;
    }
    if (came.count > 0)
        *heard = came;
    return came.count > 0;
}

static bool hear_answer(const char *line, struct reply *heard)
{
    char *end;
    if (strcmp(line, "none") == 0)
        return true;
    if (strncmp(line, "hex ", 4) == 0)
        return hear_hex(line + 4, heard);
    long number = strtol(line, &end, 10);
    if (end == line || *end || number > INT32_MAX || number < INT32_MIN)
        return false;
    *heard = (struct reply){.raw = (int32_t)number};
    return true;
}

/* One that says something else, or nothing, is started anew. */
static void read_program(struct duct *duct, struct reply *heard)
{
    char line[HEARD_MOST * 3 + 8];
    int length = snprintf(line, sizeof(line), "read %s\n", duct->pin->port);
    if (send(duct->fd, line, (size_t)length, MSG_NOSIGNAL) != length ||
        !hear_line(duct, line, sizeof(line)) || !hear_answer(line, heard))
        shut_program(duct);
}

const struct way way_program = {.open = open_program,
                                .read = read_program,
                                .shut = shut_program,
                                .answer_ms = 5000};
