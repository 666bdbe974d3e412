/* Lines from a file descriptor, or from a stream in memory, that a request to
 * stop can interrupt at any moment. */
#ifndef CUPLATCH_PORTS_READER_H
#define CUPLATCH_PORTS_READER_H

#include <stdbool.h>
#include <stdio.h>

/* The longest line, in bytes. */
#define READER_LINE_MOST ((size_t)1024 * 1024)

enum reader_got {
    READER_LINE,     /* a line: `text`, of `length` bytes, ended by a zero */
    READER_TOO_LONG, /* one that is longer than a line may be: passed over */
    READER_END,      /* there is no more */
    READER_STOPPED,  /* told to stop */
    READER_FAILED    /* errno says why */
};

/* `stop_fd` can be read once it must stop; -1: never. The rest is the reader's
 * own; begin with zeros. */
struct reader {
    FILE *in;
    int stop_fd;
    char *text;
    size_t length;
    char *bytes;
    size_t size;
    size_t from;
    size_t to;
    bool over;
};

/* The next line, without its end; it holds until the next call. */
enum reader_got reader_next(struct reader *reader);

/* Throws away what is there already, to the end of the line under way. A file
 * is not a stream that goes on meanwhile: of it nothing is thrown away. */
void reader_drop(struct reader *reader);

void reader_free(struct reader *reader);

#endif
