/* What comes over a serial line all the while: kept from one asking to the
 * next, and no longer. */
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <string.h>
#include <termios.h>
#include <unistd.h>

#include "serial.h"
#include "ways.h"

int serial_baud(const struct pin *pin)
{
    return pin->baud > 0 ? (int)pin->baud : SERIAL_BAUD;
}

const char *serial_frame(const struct pin *pin)
{
    return *pin->frame ? pin->frame : "8N1";
}

static bool speed_of(int baud, speed_t *speed)
{
    static const struct {
        int baud;
        speed_t speed;
    } speeds[] = {{300, B300},       {600, B600},       {1200, B1200},
                  {2400, B2400},     {4800, B4800},     {9600, B9600},
                  {19200, B19200},   {38400, B38400},   {57600, B57600},
                  {115200, B115200}, {230400, B230400}, {460800, B460800},
                  {921600, B921600}};
    for (size_t i = 0; i < sizeof(speeds) / sizeof(speeds[0]); i++)
        if (speeds[i].baud == baud) {
            *speed = speeds[i].speed;
            return true;
        }
    return false;
}

static void set_frame(struct termios *line, const char *frame)
{
    cfmakeraw(line);
    line->c_cflag &= (tcflag_t) ~(CSIZE | PARENB | PARODD | CSTOPB);
    line->c_cflag |= CLOCAL | CREAD;
    line->c_cflag |= frame[0] == '7' ? CS7 : CS8;
    if (frame[1] != 'N')
        line->c_cflag |= PARENB;
    if (frame[1] == 'O')
        line->c_cflag |= PARODD;
    if (frame[2] == '2')
        line->c_cflag |= CSTOPB;
}

int serial_open(const char *device, int baud, const char *frame, char *wrong,
                size_t size)
{
    struct termios line;
    speed_t speed;
    if (!speed_of(baud, &speed)) {
        snprintf(wrong, size,
                 "no line runs at %d baud; expected 9600, 19200 or "
                 "another usual speed",
                 baud);
        return -1;
    }
    int fd = open(device, O_RDWR | O_NOCTTY | O_NONBLOCK | O_CLOEXEC);
    if (fd < 0) {
        snprintf(wrong, size, "%s: %s", device, strerror(errno));
        return -1;
    }
    if (tcgetattr(fd, &line) == 0) {
        set_frame(&line, frame);
        cfsetispeed(&line, speed);
        cfsetospeed(&line, speed);
        if (tcsetattr(fd, TCSANOW, &line) == 0)
            return fd;
    }
    snprintf(wrong, size, "%s: is no serial line", device);
    close(fd);
    return -1;
}

static void shut_serial(struct duct *duct)
{
    if (duct->fd >= 0)
        close(duct->fd);
    duct->fd = -1;
    duct->streams = false;
    duct->last_count = 0;
}

static bool open_serial(struct duct *duct, char *wrong, size_t size)
{
    const struct pin *pin = duct->pin;
    if (duct->fd < 0)
        duct->fd = serial_open(pin->device, serial_baud(pin), serial_frame(pin),
                               wrong, size);
    duct->streams = duct->fd >= 0;
    return duct->streams;
}

/* What came since it was asked last; nothing when it is silent. */
static void read_serial(struct duct *duct, struct reply *heard)
{
    while (duct->fd >= 0 && duct_can_read(duct->fd, 0))
        duct_take(duct);
    if (duct->last_count == 0)
        return;
    *heard = (struct reply){.count = duct->last_count};
    memcpy(heard->bytes, duct->last, duct->last_count);
    duct->last_count = 0;
}

const struct way way_serial = {.open = open_serial,
                               .read = read_serial,
                               .shut = shut_serial,
                               .answer_ms = 1000};
