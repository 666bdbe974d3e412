/* What ways are made with. */
#include "duct.h"

#include <fcntl.h>
#include <poll.h>
#include <string.h>
#include <unistd.h>

void duct_take(struct duct *duct)
{
    uint8_t bytes[HEARD_MOST];
    ssize_t got = read(duct->fd, bytes, sizeof(bytes));
    if (got <= 0) {
        close(duct->fd);
        duct->fd = -1;
        duct->streams = false;
        return;
    }
    size_t count = (size_t)got;
    size_t keeps = sizeof(duct->last) - count;
    if (duct->last_count > keeps) {
        memmove(duct->last, duct->last + duct->last_count - keeps, keeps);
        duct->last_count = (uint16_t)keeps;
    }
    memcpy(duct->last + duct->last_count, bytes, count);
    duct->last_count = (uint16_t)(duct->last_count + count);
}

bool duct_text(const char *path, char *text, size_t size)
{
    int fd = open(path, O_RDONLY | O_CLOEXEC);
    if (fd < 0)
        return false;
    ssize_t got = read(fd, text, size - 1);
    close(fd);
    text[got > 0 ? got : 0] = '\0';
    return got > 0;
}

bool duct_can_read(int fd, int ms)
{
    struct pollfd one = {.fd = fd, .events = POLLIN};
    return poll(&one, 1, ms) > 0 && (one.revents & POLLIN);
}
