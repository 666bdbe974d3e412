#include "tty.h"

#include <errno.h>
#include <fcntl.h>
#include <poll.h>
#include <string.h>
#include <termios.h>
#include <time.h>
#include <unistd.h>

#include "../common/note.h"
#include "../common/pause.h"

#define PAUSE_FIRST_S 1
/* So few at a time that a line's own buffer holds them. */
#define BYTES_MOST 128

static speed_t speed_of(int baud)
{
    static const struct {
        int baud;
        speed_t speed;
    } all[] = {{9600, B9600},     {19200, B19200},   {38400, B38400},
               {57600, B57600},   {115200, B115200}, {230400, B230400},
               {460800, B460800}, {921600, B921600}};
    for (size_t i = 0; i < sizeof(all) / sizeof(all[0]); i++)
        if (all[i].baud == baud)
            return all[i].speed;
    return B0;
}

bool tty_is_baud(int baud)
{
    return speed_of(baud) != B0;
}

static bool set_up(const struct tty *tty)
{
    struct termios about;
    if (tcgetattr(tty->fd, &about) != 0)
        return false;
    cfmakeraw(&about);
    about.c_cflag |= CLOCAL | CREAD;
    cfsetspeed(&about, speed_of(tty->baud));
    return tcsetattr(tty->fd, TCSANOW, &about) == 0;
}

static void lose(struct tty *tty)
{
    if (!tty->told)
        note("modem", NULL, "%s: %s; trying again", tty->path, strerror(errno));
    tty->told = true;
    tty_close(tty);
    tty->pause_s = tty->pause_s ? pause_longer(tty->pause_s, tty->pause_most_s)
                                : PAUSE_FIRST_S;
    tty->again_s = (int64_t)time(NULL) + tty->pause_s;
}

static bool open_line(struct tty *tty)
{
    if ((int64_t)time(NULL) < tty->again_s)
        return false;
    tty->fd = open(tty->path, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (tty->fd < 0 || !set_up(tty)) {
        lose(tty);
        return false;
    }
    tty->fresh = true;
    tty->told = false;
    return true;
}

bool tty_wait(struct tty *tty, int ms)
{
    struct pollfd line = {.events = POLLIN};
    bool there = tty->fd >= 0 || open_line(tty);
    line.fd = there ? tty->fd : -1;
    (void)poll(&line, 1, ms);
    return there;
}

/* What came, 0 if nothing did. */
static ssize_t tty_read(struct tty *tty, char *bytes, size_t size)
{
    errno = 0;
    if (tty->fd < 0)
        return 0;
    ssize_t got = read(tty->fd, bytes, size);
    if (got > 0)
        tty->pause_s = 0;
    if (got == 0)
        errno = EIO; /* it was unplugged */
    if (got == 0 || (errno != EAGAIN && errno != EINTR && got < 0))
        lose(tty);
    return got > 0 ? got : 0;
}

static bool tty_has_room(const struct tty *tty, size_t count)
{
    struct pollfd line = {.fd = tty->fd, .events = POLLOUT};
    return count < BYTES_MOST && tty->fd >= 0 &&
           (count > 0 || poll(&line, 1, 0) == 1);
}

static void tty_write(struct tty *tty, const char *bytes, size_t count)
{
    while (count > 0 && tty->fd >= 0) {
        ssize_t put = write(tty->fd, bytes, count);
        if (put < 0 && errno != EINTR) {
            lose(tty);
            return;
        }
        bytes += put > 0 ? put : 0;
        count -= put > 0 ? (size_t)put : 0;
    }
}

void tty_close(struct tty *tty)
{
    if (tty->fd >= 0)
        close(tty->fd);
    tty->fd = -1;
}

void tty_exchange(struct tty *tty, struct cup_modem *modem, uint32_t now_ms)
{
    char bytes[256];
    char byte;
    size_t count = 0;
    ssize_t got = tty_read(tty, bytes, sizeof(bytes));
    for (ssize_t i = 0; i < got; i++)
        cup_modem_take(modem, now_ms, bytes[i]);
    while (count < sizeof(bytes) && tty_has_room(tty, count) &&
           cup_modem_give(modem, now_ms, &byte))
        bytes[count++] = byte;
    tty_write(tty, bytes, count);
}
