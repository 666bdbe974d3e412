/* gnuplot, run by a list of words in a folder of our own, for so long at most.
 */
#include "draw.h"

#include <errno.h>
#include <fcntl.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../common/delivery.h"

#define SECONDS_MOST 120
#define PATH_SIZE 128

static const char *path_of(const struct drawing *drawing, const char *name,
                           char *path)
{
    snprintf(path, PATH_SIZE, "%s/%s", drawing->folder, name);
    return path;
}

static bool fail(const char *what)
{
    fprintf(stderr, "cuplatch: %s: %s\n", what, strerror(errno));
    return false;
}

bool drawing_begin(struct drawing *drawing)
{
    const char *temporary = getenv("TMPDIR");
    if (!temporary || strlen(temporary) > 40 || *temporary != '/')
        temporary = "/tmp";
    snprintf(drawing->folder, sizeof(drawing->folder), "%s/cuplatch-XXXXXX",
             temporary);
    drawing->script = NULL;
    if (!mkdtemp(drawing->folder))
        return fail(drawing->folder);
    drawing->script = drawing_file(drawing, "script");
    if (drawing->script)
        return true;
    drawing_drop(drawing);
    return false;
}

FILE *drawing_file(const struct drawing *drawing, const char *name)
{
    char path[PATH_SIZE];
    FILE *file = fopen(path_of(drawing, name, path), "w");
    if (!file)
        fail(path);
    return file;
}

void drawing_data(char *name, int number)
{
    snprintf(name, DRAWING_NAME_SIZE, "data%d", number);
}

/* Between single quotes gnuplot takes every byte as it is, but for the quote
 * itself, which is doubled, and the end of a line. */
void drawing_text(const struct drawing *drawing, const char *text, bool tic)
{
    fputc('\'', drawing->script);
    for (; *text; text++) {
        unsigned char byte = (unsigned char)*text;
        if (byte == '\'' || (byte == '%' && tic))
            fputc(byte, drawing->script);
        fputc(byte < 0x20 || byte == 0x7F ? ' ' : byte, drawing->script);
    }
    fputc('\'', drawing->script);
}

/* The child: nothing but the script goes in, nothing comes out. */
static void become_gnuplot(const struct drawing *drawing)
{
    int nothing = open("/dev/null", O_RDWR);
    for (int fd = 0; fd <= 2; fd++)
        if (dup2(nothing, fd) < 0)
            _exit(126);
    if (chdir(drawing->folder) != 0)
        _exit(126);
    execlp("gnuplot", "gnuplot", "-d", "script", (char *)NULL);
    _exit(127);
}

/* What it exits with; -1 when it took too long. */
static int wait_for(pid_t child)
{
    const struct timespec nap = {.tv_nsec = 10000000};
    int status = 0;
    for (int naps = 0; naps < SECONDS_MOST * 100; naps++) {
        if (waitpid(child, &status, WNOHANG) == child)
            return WIFEXITED(status) ? WEXITSTATUS(status) : 126;
        nanosleep(&nap, NULL);
    }
    kill(child, SIGKILL);
    waitpid(child, &status, 0);
    return -1;
}

static bool run(const struct drawing *drawing)
{
    pid_t child = fork();
    if (child == 0)
        become_gnuplot(drawing);
    int code = child < 0 ? 126 : wait_for(child);
    if (code == 127)
        fprintf(stderr, "cuplatch: there is no gnuplot to draw with; install "
                        "the package gnuplot-nox\n");
    else if (code != 0)
        fprintf(stderr, "cuplatch: gnuplot %s\n",
                code < 0 ? "took more than two minutes, and was ended"
                         : "could not draw the picture");
    return code == 0;
}

static bool copy(FILE *from, FILE *to)
{
    char bytes[8192];
    size_t count;
    while ((count = fread(bytes, 1, sizeof(bytes), from)) > 0)
        if (fwrite(bytes, 1, count, to) != count)
            return false;
    return !ferror(from) && fflush(to) == 0 && fsync(fileno(to)) == 0;
}

/* Whether the folder of a path is there to be written to; if not, that was
 * told, before anybody waits for a picture. */
static bool has_folder(const char *path)
{
    char *folder = strdup(path);
    if (!folder)
        return fail(path);
    char *slash = strrchr(folder, '/');
    if (slash)
        slash[slash == folder] = '\0';
    const char *name = slash ? folder : ".";
    bool good = access(name, W_OK | X_OK) == 0;
    if (!good && errno == ENOENT)
        fprintf(stderr,
                "cuplatch: %s: there is no folder %s; make it first, or name "
                "another\n",
                path, name);
    else if (!good)
        fail(name);
    free(folder);
    return good;
}

static bool deliver(const struct drawing *drawing, const char *to)
{
    char path[PATH_SIZE];
    struct delivery delivery;
    FILE *from = fopen(path_of(drawing, DRAWING_PICTURE, path), "r");
    bool done = from && delivery_begin(&delivery, to) &&
                delivery_end(&delivery, copy(from, delivery.out));
    if (!done)
        fail(to);
    if (from)
        fclose(from);
    return done;
}

bool drawing_end(struct drawing *drawing, const char *to)
{
    bool written = fclose(drawing->script) == 0;
    drawing->script = NULL;
    bool done =
        has_folder(to) && written && run(drawing) && deliver(drawing, to);
    drawing_drop(drawing);
    return done;
}

void drawing_drop(struct drawing *drawing)
{
    char path[PATH_SIZE];
    char name[DRAWING_NAME_SIZE];
    if (drawing->script)
        fclose(drawing->script);
    for (int i = 0; i < DRAWING_FILES; i++) {
        drawing_data(name, i);
        unlink(path_of(drawing, name, path));
    }
    unlink(path_of(drawing, "script", path));
    unlink(path_of(drawing, DRAWING_PICTURE, path));
    rmdir(drawing->folder);
}
