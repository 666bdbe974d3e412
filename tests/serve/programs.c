#include "programs.h"

#include <fcntl.h>
#include <netinet/in.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../harness/harness.h"

#define LEFT_OUT 77

char dir[60];

const char *find_program(const char *name)
{
    static char path[300];
    char folders[4000];
    const char *from = getenv("PATH");
    snprintf(folders, sizeof(folders), "%s:/usr/sbin", from ? from : "");
    for (const char *at = folders; *at;) {
        int length = (int)strcspn(at, ":");
        snprintf(path, sizeof(path), "%.*s/%s", length, at, name);
        if (length > 0 && access(path, X_OK) == 0)
            return path;
        at += length;
        at += *at == ':';
    }
    return NULL;
}

void need_program(const char *name)
{
    const char *all = getenv("CUPLATCH_NOTHING_LEFT_OUT");
    if (find_program(name))
        return;
    printf("left out: there is no %s on this machine\n", name);
    exit(all && *all ? 1 : LEFT_OUT);
}

void folder_begin(const char *name)
{
    snprintf(dir, sizeof(dir), "/tmp/cup_serve.%s.%d", name, (int)getpid());
    mkdir(dir, 0700);
}

void folder_end(void)
{
    char command[100];
    snprintf(command, sizeof(command), "rm -rf %s", dir);
    CHECK_INT(system(command), 0);
}

const char *in_dir(const char *name)
{
    static char paths[4][200];
    static unsigned next;
    char *path = paths[next++ % 4];
    snprintf(path, sizeof(paths[0]), "%s/%s", dir, name);
    return path;
}

void write_text(const char *name, const char *text)
{
    FILE *out = fopen(in_dir(name), "w");
    fputs(text, out);
    fclose(out);
}

long count_lines(const char *name)
{
    long lines = 0;
    int letter;
    FILE *in = fopen(in_dir(name), "r");
    while (in && (letter = getc(in)) != EOF)
        lines += letter == '\n';
    if (in)
        fclose(in);
    return lines;
}

int free_port(void)
{
    struct sockaddr_in address = {.sin_family = AF_INET,
                                  .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    socklen_t size = sizeof(address);
    int fd = socket(AF_INET, SOCK_STREAM, 0);
    (void)bind(fd, (struct sockaddr *)&address, sizeof(address));
    getsockname(fd, (struct sockaddr *)&address, &size);
    close(fd);
    return ntohs(address.sin_port);
}

void nap(int ms)
{
    struct timespec span = {ms / 1000, ms % 1000 * 1000000L};
    nanosleep(&span, NULL);
}

pid_t start(const char *const *words, const char *log, rlim_t most)
{
    struct rlimit limit = {most, most};
    pid_t pid = fork();
    if (pid != 0)
        return pid;
    int out = open(in_dir(log), O_WRONLY | O_CREAT | O_APPEND, 0600);
    dup2(out, STDOUT_FILENO);
    dup2(out, STDERR_FILENO);
    if (most > 0)
        setrlimit(RLIMIT_FSIZE, &limit);
    execv(words[0], (char *const *)words);
    _exit(127);
}

int finish(pid_t pid, int signal)
{
    int status;
    pid_t ended = 0;
    kill(pid, signal);
    for (int i = 0; i < WAIT_MS / 20 && ended == 0; i++) {
        ended = waitpid(pid, &status, WNOHANG);
        if (ended == 0)
            nap(20);
    }
    if (ended == 0) {
        kill(pid, SIGABRT); /* it does not end, and leaves where it was */
        waitpid(pid, &status, 0);
    }
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

pid_t start_garden_of(const char *site, const char *speed)
{
    static const char garden[] = GARDEN "/keeper.garden.ini";
    const char *socket = in_dir("socket");
    const char *record = in_dir("record");
    const char *const words[] = {CUPLATCH, "run",      site,         "--port",
                                 "sim",    "--garden", garden,       "--speed",
                                 speed,    "--from",   "2031-05-10", "--socket",
                                 socket,   "--record", record,       NULL};
    pid_t pid = start(words, "garden.log", 0);
    for (int i = 0; i < WAIT_MS / 20 && access(in_dir("socket"), F_OK) != 0;
         i++)
        nap(20);
    return pid;
}

const char *site_that_calls(void)
{
    char command[1200];
    static char calls[200];
    snprintf(calls, sizeof(calls), "%s", in_dir("keeper.ini"));
    snprintf(command, sizeof(command),
             "sed '/^of = header$/,/^steady/{s/^below = .*/below = 98%%/;"
             "s/^clear = .*/clear = 99%%/;s/^steady = .*/steady = 1m/;"
             "s/^repeat = .*/repeat = 2h/}' " GARDEN "/keeper.ini >%s",
             calls);
    CHECK_INT(system(command), 0);
    return calls;
}

pid_t start_serve(rlim_t most)
{
    const char *const words[] = {SERVE, in_dir("serve.ini"), "--trust-clock",
                                 NULL};
    unlink(in_dir("serve.log")); /* of the one before */
    return start(words, "serve.log", most);
}

pid_t start_serve_of(const char *config, const char *log)
{
    const char *const words[] = {SERVE, in_dir(config), "--trust-clock", NULL};
    return start(words, log, 0);
}

static int count_refused(const char *reason)
{
    sqlite3 *file = NULL;
    sqlite3_stmt *row = NULL;
    int count = 0;
    if (sqlite3_open_v2(in_dir("history.db"), &file, SQLITE_OPEN_READWRITE,
                        NULL) == SQLITE_OK &&
        sqlite3_prepare_v2(file,
                           "SELECT count(*) FROM events WHERE kind = 'refuse' "
                           "AND reason = ?1 AND why > '' AND by > ''",
                           -1, &row, NULL) == SQLITE_OK &&
        sqlite3_bind_text(row, 1, reason, -1, SQLITE_STATIC) == SQLITE_OK &&
        sqlite3_step(row) == SQLITE_ROW)
        count = sqlite3_column_int(row, 0);
    sqlite3_finalize(row);
    sqlite3_close(file);
    return count;
}

bool wait_refused(const char *reason, int least)
{
    int count = 0;
    for (int i = 0; i < WAIT_MS / 50 && count < least; i++) {
        nap(50);
        count = count_refused(reason);
    }
    harness_at("%d refused as %s", count, reason);
    return count >= least;
}

int run_serve(const char *config, const char *option, const char *site,
              const char *word, char *said, size_t size)
{
    const char *const words[] = {SERVE, in_dir(config), option,
                                 site,  word,           NULL};
    unlink(in_dir("said"));
    pid_t pid = start(words, "said", 0);
    int status;
    waitpid(pid, &status, 0);
    FILE *in = fopen(in_dir("said"), "r");
    size_t length = in ? fread(said, 1, size - 1, in) : 0;
    if (in)
        fclose(in);
    said[length] = '\0';
    return WIFEXITED(status) ? WEXITSTATUS(status) : -WTERMSIG(status);
}

bool log_has(const char *text)
{
    static char log[20000];
    FILE *in = fopen(in_dir("serve.log"), "r");
    size_t length = in ? fread(log, 1, sizeof(log) - 1, in) : 0;
    if (in)
        fclose(in);
    log[length] = '\0';
    harness_at("%s", log);
    return strstr(log, text) != NULL;
}

bool wait_log(const char *text)
{
    for (int i = 0; i < WAIT_MS / 20; i++) {
        if (log_has(text))
            return true;
        nap(20);
    }
    return false;
}
