/* Files that follow each other. */
#include "ring.h"

#include <errno.h>
#include <fcntl.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

struct ring {
    char path[PATH_MAX];
    int file;
    off_t used;
};

/* "DIR/events", or the so-and-so-many-th before it. */
static void path_of(const char *beside, int which, char *path, size_t size)
{
    const char *slash = strrchr(beside, '/');
    int length = slash ? (int)(slash + 1 - beside) : 0;
    if (which == 0)
        snprintf(path, size, "%.*sevents", length, beside);
    else
        snprintf(path, size, "%.*sevents.%d", length, beside, which);
}

static bool open_newest(struct ring *ring)
{
    struct stat about;
    char path[PATH_MAX];
    path_of(ring->path, 0, path, sizeof(path));
    ring->file = open(path, O_RDWR | O_CREAT | O_APPEND | O_CLOEXEC, 0644);
    if (ring->file < 0 || fstat(ring->file, &about) != 0)
        return false;
    ring->used = about.st_size;
    return true;
}

static void end_last_line(struct ring *ring)
{
    char last = '\n';
    if (ring->used > 0 && pread(ring->file, &last, 1, ring->used - 1) == 1 &&
        last != '\n' && write(ring->file, "\n", 1) == 1)
        ring->used++;
}

struct ring *ring_open(const char *beside)
{
    struct ring *ring = calloc(1, sizeof(*ring));
    if (!ring)
        return NULL;
    snprintf(ring->path, sizeof(ring->path), "%s", beside);
    if (open_newest(ring)) {
        end_last_line(ring);
        return ring;
    }
    int why = errno;
    ring_close(ring);
    errno = why;
    return NULL;
}

void ring_close(struct ring *ring)
{
    if (ring->file >= 0)
        close(ring->file);
    free(ring);
}

/* The oldest goes, each moves on by one. */
static bool turn(struct ring *ring)
{
    for (int i = RING_FILES - 1; i > 0; i--) {
        char from[PATH_MAX];
        char to[PATH_MAX];
        path_of(ring->path, i - 1, from, sizeof(from));
        path_of(ring->path, i, to, sizeof(to));
        if (rename(from, to) != 0 && errno != ENOENT)
            return false;
    }
    close(ring->file);
    return open_newest(ring);
}

bool ring_add(struct ring *ring, const char *line)
{
    size_t length = strlen(line);
    char *whole = malloc(length + 2);
    if (!whole)
        return false;
    snprintf(whole, length + 2, "%s\n", line);
    bool done = ring->used + (off_t)length < RING_FILE_BYTES || turn(ring);
    ssize_t put = done ? write(ring->file, whole, length + 1) : -1;
    if (put > 0)
        ring->used += put;
    if (put > 0 && put <= (ssize_t)length)
        end_last_line(ring);
    free(whole);
    return put == (ssize_t)length + 1;
}

bool ring_sync(struct ring *ring)
{
    return fdatasync(ring->file) == 0;
}

/* Reading */

static char *whole_file(const char *path, size_t *length)
{
    FILE *in = fopen(path, "r");
    char *text = in ? malloc((size_t)RING_FILE_BYTES * 2) : NULL;
    *length = text ? fread(text, 1, (size_t)RING_FILE_BYTES * 2 - 1, in) : 0;
    if (text)
        text[*length] = '\0';
    if (in)
        fclose(in);
    return text;
}

/* How many lines of a file, from the end, are wanted yet; where they begin. */
static char *last_lines(char *text, size_t length, size_t *wanted)
{
    char *at = text + length;
    while (at > text && *wanted > 0) {
        char *end = at - 1;
        while (end > text && end[-1] != '\n')
            end--;
        at = end;
        --*wanted;
    }
    return at;
}

static void tell_lines(char *at, void (*take)(void *self, const char *line),
                       void *self)
{
    for (char *end; (end = strchr(at, '\n')); at = end + 1) {
        *end = '\0';
        take(self, at);
    }
}

void ring_read(const char *beside, size_t most,
               void (*take)(void *self, const char *line), void *self)
{
    char *texts[RING_FILES] = {NULL};
    char *from[RING_FILES] = {NULL};
    for (int i = 0; i < RING_FILES && most > 0; i++) {
        char path[PATH_MAX];
        size_t length;
        path_of(beside, i, path, sizeof(path));
        texts[i] = whole_file(path, &length);
        if (texts[i])
            from[i] = last_lines(texts[i], length, &most);
    }
    for (int i = RING_FILES - 1; i >= 0; i--) {
        if (from[i])
            tell_lines(from[i], take, self);
        free(texts[i]);
    }
}
