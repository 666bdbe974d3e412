/* What is read waits in one buffer, which grows to the longest line. */
#include "reader.h"

#include <errno.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define SIZE_LEAST 8192

/* Waits until there is something to read or it must stop. */
static enum reader_got wait_for(const struct reader *reader, int fd)
{
    struct pollfd both[] = {{.fd = reader->stop_fd, .events = POLLIN},
                            {.fd = fd, .events = POLLIN}};
    while (poll(both, 2, -1) < 0)
        if (errno != EINTR)
            return READER_FAILED;
    return both[0].revents ? READER_STOPPED : READER_LINE;
}

/* Room for more: what was taken makes place first. */
static bool make_room(struct reader *reader)
{
    if (reader->from > 0) {
        memmove(reader->bytes, reader->bytes + reader->from,
                reader->to - reader->from);
        reader->to -= reader->from;
        reader->from = 0;
    }
    if (reader->to + 1 < reader->size)
        return true;
    size_t size = reader->size ? reader->size * 2 : SIZE_LEAST;
    char *bytes = realloc(reader->bytes, size);
    if (!bytes)
        return false;
    reader->bytes = bytes;
    reader->size = size;
    return true;
}

static enum reader_got read_more(struct reader *reader)
{
    int fd = fileno(reader->in);
    ssize_t got;
    if (!make_room(reader))
        return READER_FAILED;
    char *to = reader->bytes + reader->to;
    size_t room = reader->size - reader->to - 1;
    if (fd < 0)
        got = (ssize_t)fread(to, 1, room, reader->in);
    else {
        enum reader_got waited = wait_for(reader, fd);
        if (waited != READER_LINE)
            return waited;
        got = read(fd, to, room);
    }
    if (got < 0)
        return errno == EINTR || errno == EAGAIN ? READER_LINE : READER_FAILED;
    reader->to += (size_t)got;
    return got == 0 ? READER_END : READER_LINE;
}

/* Hands out what lies before `end`, and goes on after it. */
static enum reader_got take(struct reader *reader, size_t end, size_t next)
{
    reader->text = reader->bytes + reader->from;
    reader->length = end - reader->from;
    reader->bytes[end] = '\0';
    reader->from = next;
    bool over = reader->over || reader->length > READER_LINE_MOST;
    reader->over = false;
    return over ? READER_TOO_LONG : READER_LINE;
}

enum reader_got reader_next(struct reader *reader)
{
    size_t seen = reader->from;
    for (;;) {
        char *end = reader->to > seen
                        ? memchr(reader->bytes + seen, '\n', reader->to - seen)
                        : NULL;
        if (end)
            return take(reader, (size_t)(end - reader->bytes),
                        (size_t)(end - reader->bytes) + 1);
        if (reader->to - reader->from > READER_LINE_MOST) {
            reader->over = true; /* the rest of it goes, too */
            reader->from = reader->to;
        }
        size_t far = reader->to - reader->from;
        enum reader_got got = read_more(reader);
        seen = reader->from + far;
        if (got == READER_END && (far > 0 || reader->over))
            return take(reader, reader->to, reader->to);
        if (got != READER_LINE)
            return got;
    }
}

/* Whether something can be read at once. */
static bool is_ready(int fd)
{
    struct pollfd in = {.fd = fd, .events = POLLIN};
    return poll(&in, 1, 0) == 1 && in.revents & POLLIN;
}

void reader_drop(struct reader *reader)
{
    struct stat kind;
    int fd = fileno(reader->in);
    if (fd < 0 || fstat(fd, &kind) != 0 || S_ISREG(kind.st_mode))
        return;
    bool inside =
        reader->to > reader->from && reader->bytes[reader->to - 1] != '\n';
    reader->from = reader->to;
    while (is_ready(fd) && read_more(reader) == READER_LINE) {
        inside = reader->bytes[reader->to - 1] != '\n';
        reader->from = reader->to;
    }
    if (inside)
        reader_next(reader);
}

void reader_free(struct reader *reader)
{
    free(reader->bytes);
}
