/* Nothing is opened: only whether it could be. */
#include "check.h"

#include <errno.h>
#include <grp.h>
#include <libgen.h>
#include <pwd.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

/* What a file is for: it is READ, and must be there; READ where it is there;
 * WRITTEN, and made if need be; RUN. */
enum use { READ, READ_IF_THERE, WRITTEN, RUN };

struct named {
    const char *where;
    const char *path; /* null: nothing is named */
    enum use use;
};

/* Whether a folder takes a new file; 0, or why not. */
static int folder_of(const char *path)
{
    char copy[4400];
    snprintf(copy, sizeof(copy), "%s", path);
    return access(dirname(copy), W_OK | X_OK) == 0 ? 0 : errno;
}

/* 0, or why it cannot be had. */
static int try_file(const struct named *one)
{
    static const int how[] = {R_OK, R_OK, R_OK | W_OK, X_OK};
    if (access(one->path, how[one->use]) == 0)
        return 0;
    int why = errno;
    if (why == ENOENT && one->use == READ_IF_THERE)
        return 0;
    if (why == ENOENT && one->use == WRITTEN)
        return folder_of(one->path);
    return why;
}

/* `who`: ", as cuplatch-serve", or nothing. */
static int try_all(const struct named *list, size_t count, const char *path,
                   const char *who)
{
    static const char *const expected[] = {
        "a file that may be read", "a file that may be read",
        "a file that may be written, or made", "a program that may be run"};
    int wrong = 0;
    for (size_t i = 0; i < count; i++) {
        int why = list[i].path ? try_file(&list[i]) : 0;
        if (why == 0)
            continue;
        wrong++;
        fprintf(stderr, "cuplatch-serve: %s: %s = %s: %s%s; expected %s\n",
                path, list[i].where, list[i].path, strerror(why), who,
                expected[list[i].use]);
    }
    return wrong;
}

static int cannot_try(int why)
{
    fprintf(stderr, "cuplatch-serve: files cannot be tried as %s: %s\n",
            CHECK_USER, strerror(why));
    return 1;
}

/* Tries them as the service's user, with its groups. */
static int try_as(const struct passwd *user, const struct named *list,
                  size_t count, const char *path)
{
    if (initgroups(user->pw_name, user->pw_gid) != 0 ||
        setgid(user->pw_gid) != 0 || setuid(user->pw_uid) != 0)
        return cannot_try(errno);
    return try_all(list, count, path, ", as " CHECK_USER);
}

int check_files(const struct config *config, const char *path)
{
    char program[400];
    const char *command = config->post.command;
    snprintf(program, sizeof(program), "%.*s",
             command ? (int)strcspn(command, " ") : 0, command ? command : "");
    const struct mqtt_config *tells = &config->broker.at;
    const struct mqtt_config *follows = &config->afar.at;
    const struct named list[] = {
        {"[history] file", config->history.file, WRITTEN},
        {"[page] keys", config->page.keys, READ_IF_THERE},
        {"[page] certificate", config->page.certificate, READ},
        {"[broker] password_file", tells->password_file, READ},
        {"[broker] authority", tells->authority, READ},
        {"password_file", follows->password_file, READ},
        {"authority", follows->authority, READ},
        {"[modem] pin_file", config->texts.pin_file, READ},
        {"[modem] people", config->texts.people, READ_IF_THERE},
        {"[post] command", command ? program : NULL, RUN}};
    const size_t count = sizeof(list) / sizeof(list[0]);
    const struct passwd *user = geteuid() == 0 ? getpwnam(CHECK_USER) : NULL;
    if (!user)
        return try_all(list, count, path, "");
    fflush(NULL);
    int status = 0;
    pid_t child = fork();
    if (child == 0)
        _exit(try_as(user, list, count, path));
    if (child < 0 || waitpid(child, &status, 0) != child || !WIFEXITED(status))
        return cannot_try(errno);
    return WEXITSTATUS(status);
}
