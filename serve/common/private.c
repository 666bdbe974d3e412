#include "private.h"

#include <errno.h>
#include <fcntl.h>
#include <libgen.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../grammar/edit.h"

static bool put(const char *path, const char *text)
{
    int made = open(path, O_WRONLY | O_CREAT | O_CLOEXEC, 0600);
    if (made < 0)
        return false;
    close(made);
    return cup_file_replace(path, text) == 0;
}

/* Whose folder a file is in. False, with errno set. */
static bool folder_of(const char *path, struct stat *folder)
{
    char *copy = strdup(path);
    bool good = copy && stat(dirname(copy), folder) == 0;
    free(copy);
    return good;
}

/* Root makes a file as whoever has its folder: the service could not read it
 * otherwise. */
bool private_put(const char *path, const char *text)
{
    struct stat folder;
    if (geteuid() != 0)
        return put(path, text);
    bool good = folder_of(path, &folder) && setegid(folder.st_gid) == 0 &&
                seteuid(folder.st_uid) == 0 && put(path, text);
    int why = errno;
    if (seteuid(0) != 0 || setegid(getgid()) != 0)
        abort();
    errno = why;
    return good;
}

static bool take_all(FILE *in, private_take *take, void *self,
                     const char *expected, char *wrong, size_t size)
{
    struct ini_file file = {NULL, 0};
    struct problems problems = {NULL, 0, 0};
    ini_file_read(&file, in, &problems);
    bool good = problems.errors == 0;
    for (size_t i = 0; good && i < file.count; i++) {
        good = take(self, &file.sections[i]);
        if (!good)
            snprintf(wrong, size, "line %d: expected %s", file.sections[i].line,
                     expected);
    }
    if (problems.errors > 0)
        snprintf(wrong, size, "line %d: %.60s: %.120s", problems.list[0].line,
                 problems.list[0].text, problems.list[0].message);
    ini_file_free(&file);
    problems_free(&problems);
    return good;
}

bool private_read(const char *path, struct stat *as_read, private_take *take,
                  void *self, const char *expected, char *wrong, size_t size)
{
    *as_read = (struct stat){.st_ino = 0};
    FILE *in = fopen(path, "re");
    if (!in && errno == ENOENT)
        return true;
    bool good = in && fstat(fileno(in), as_read) == 0;
    if (!good)
        snprintf(wrong, size, "%s", strerror(errno));
    good = good && take_all(in, take, self, expected, wrong, size);
    if (in)
        fclose(in);
    return good;
}

bool private_changed(const char *path, const struct stat *as_read)
{
    struct stat now = {.st_ino = 0};
    if (stat(path, &now) != 0)
        now = (struct stat){.st_ino = 0};
    return now.st_ino != as_read->st_ino || now.st_size != as_read->st_size ||
           now.st_mtim.tv_sec != as_read->st_mtim.tv_sec ||
           now.st_mtim.tv_nsec != as_read->st_mtim.tv_nsec;
}
