/* The kernel's own. */
#include "gpio.h"

#include <fcntl.h>
#include <linux/gpio.h>
#include <stdio.h>
#include <string.h>
#include <sys/ioctl.h>
#include <unistd.h>

int gpio_open(int number, struct gpio_chip *about)
{
    char path[40];
    struct gpiochip_info info = {.lines = 0};
    snprintf(path, sizeof(path), "/dev/gpiochip%d", number);
    int chip = open(path, O_RDWR | O_CLOEXEC);
    if (chip >= 0 && ioctl(chip, GPIO_GET_CHIPINFO_IOCTL, &info) != 0) {
        close(chip);
        return -1;
    }
    *about = (struct gpio_chip){.lines = (int)info.lines};
    memcpy(about->name, info.name, sizeof(about->name) - 1);
    memcpy(about->label, info.label, sizeof(about->label) - 1);
    return chip;
}

bool gpio_look(int chip, unsigned line, struct gpio_line *about)
{
    struct gpio_v2_line_info info = {.offset = line};
    if (ioctl(chip, GPIO_V2_GET_LINEINFO_IOCTL, &info) != 0)
        return false;
    *about = (struct gpio_line){
        .output = (info.flags & GPIO_V2_LINE_FLAG_OUTPUT) != 0};
    memcpy(about->name, info.name, sizeof(about->name) - 1);
    memcpy(about->user, info.consumer, sizeof(about->user) - 1);
    if ((info.flags & GPIO_V2_LINE_FLAG_USED) && !*about->user)
        memcpy(about->user, "the kernel", sizeof("the kernel"));
    return true;
}

static uint64_t flags_of(const struct gpio_ask *ask)
{
    static const uint64_t pulls[] = {0, GPIO_V2_LINE_FLAG_BIAS_PULL_UP,
                                     GPIO_V2_LINE_FLAG_BIAS_PULL_DOWN,
                                     GPIO_V2_LINE_FLAG_BIAS_DISABLED};
    uint64_t flags = pulls[ask->pull];
    flags |= ask->outputs ? GPIO_V2_LINE_FLAG_OUTPUT : GPIO_V2_LINE_FLAG_INPUT;
    if (ask->edges)
        flags |= GPIO_V2_LINE_FLAG_EDGE_RISING | GPIO_V2_LINE_FLAG_EDGE_FALLING;
    return flags;
}

/* What was held as it is becomes outputs, each at its value in one call. */
static bool become_outputs(int held, struct gpio_ask *ask)
{
    uint64_t all =
        ask->count == 64 ? UINT64_MAX : (UINT64_C(1) << ask->count) - 1;
    struct gpio_v2_line_config config = {.flags = flags_of(ask),
                                         .num_attrs = 1};
    config.attrs[0].mask = all;
    config.attrs[0].attr.id = GPIO_V2_LINE_ATTR_ID_OUTPUT_VALUES;
    config.attrs[0].attr.values = ask->first;
    return gpio_get(held, all, &ask->found) &&
           ioctl(held, GPIO_V2_LINE_SET_CONFIG_IOCTL, &config) == 0;
}

int gpio_hold(int chip, struct gpio_ask *ask)
{
    struct gpio_v2_line_request request = {.num_lines = (uint32_t)ask->count};
    snprintf(request.consumer, sizeof(request.consumer), "%s", ask->user);
    memcpy(request.offsets, ask->lines, ask->count * sizeof(*ask->lines));
    if (!ask->outputs)
        request.config.flags = flags_of(ask);
    if (ioctl(chip, GPIO_V2_GET_LINE_IOCTL, &request) != 0)
        return -1;
    fcntl(request.fd, F_SETFD, FD_CLOEXEC);
    if (!ask->outputs || become_outputs(request.fd, ask))
        return request.fd;
    close(request.fd);
    return -1;
}

bool gpio_set(int held, uint64_t mask, uint64_t bits)
{
    struct gpio_v2_line_values values = {.mask = mask, .bits = bits};
    return ioctl(held, GPIO_V2_LINE_SET_VALUES_IOCTL, &values) == 0;
}

bool gpio_get(int held, uint64_t mask, uint64_t *bits)
{
    struct gpio_v2_line_values values = {.mask = mask};
    if (ioctl(held, GPIO_V2_LINE_GET_VALUES_IOCTL, &values) != 0)
        return false;
    *bits = values.bits;
    return true;
}

bool gpio_edge(int held, struct gpio_edge *edge)
{
    struct gpio_v2_line_event event;
    if (read(held, &event, sizeof(event)) != (ssize_t)sizeof(event))
        return false;
    *edge = (struct gpio_edge){.ns = event.timestamp_ns,
                               .sequence = event.line_seqno,
                               .line = event.offset,
                               .rising =
                                   event.id == GPIO_V2_LINE_EVENT_RISING_EDGE};
    return true;
}
