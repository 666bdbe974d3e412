/* Devices on an I2C bus: some bytes are written, and after a while some are
 * read. */
#include <errno.h>
#include <fcntl.h>
#include <linux/i2c-dev.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <time.h>
#include <unistd.h>

#include "ways.h"

static void shut_i2c(struct duct *duct)
{
    if (duct->fd >= 0)
        close(duct->fd);
    duct->fd = -1;
}

static bool open_i2c(struct duct *duct, char *wrong, size_t size)
{
    const struct pin *pin = duct->pin;
    char path[32];
    if (duct->fd >= 0)
        return true;
    snprintf(path, sizeof(path), "/dev/i2c-%d", (int)pin->bus);
    duct->fd = open(path, O_RDWR | O_CLOEXEC);
    if (duct->fd < 0)
        snprintf(wrong, size, "%s: %s%s", path, strerror(errno),
                 errno == ENOENT ? "; switch the bus on, and load i2c-dev"
                                 : "");
    else if (ioctl(duct->fd, I2C_SLAVE, (long)pin->address) == 0)
        return true;
    else
        snprintf(wrong, size, "%s: address %d: %s", path, (int)pin->address,
                 errno == EBUSY ? "a driver of the kernel has it; read it "
                                  "through iio or file"
                                : strerror(errno));
    shut_i2c(duct);
    return false;
}

static void read_i2c(struct duct *duct, struct reply *heard)
{
    const struct pin *pin = duct->pin;
    struct timespec wait = {pin->wait_ms / 1000,
                            pin->wait_ms % 1000 * 1000000L};
    struct reply came = {.count = (uint16_t)pin->read};
    if (pin->write_count > 0 &&
        write(duct->fd, pin->write, pin->write_count) != pin->write_count)
        return;
    nanosleep(&wait, NULL);
    if (read(duct->fd, came.bytes, came.count) == came.count)
        *heard = came;
}

const struct way way_i2c = {
    .open = open_i2c, .read = read_i2c, .shut = shut_i2c, .answer_ms = 1000};
