/* The pins of a board that is a process: its serial line is BOARD_LINE, its
 * outputs are written to the file BOARD_OUTPUTS, as "0 ". Everything else is
 * the program of every board. */
#include <fcntl.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <time.h>
#include <unistd.h>

#include "../../firmware/common/board.h"

static int line = -1;

uint32_t cup_port_now_ms(struct cup_port *port)
{
    struct timespec now;
    (void)port;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (uint32_t)now.tv_sec * 1000u + (uint32_t)(now.tv_nsec / 1000000);
}

static void write_outputs(const char *text)
{
    const char *path = getenv("BOARD_OUTPUTS");
    FILE *out = path ? fopen(path, "w") : NULL;
    if (!out)
        return;
    fputs(text, out);
    fclose(out);
}

struct cup_port *board_begin(void)
{
    const char *path = getenv("BOARD_LINE");
    prctl(PR_SET_PDEATHSIG, SIGKILL);
    line = open(path ? path : "", O_RDWR | O_NOCTTY | O_NONBLOCK);
    if (line < 0)
        exit(1);
    write_outputs("");
    return NULL;
}

/* The float is closed; the soil wanders a little, and does not answer once in
 * five. */
struct cup_sample board_sample(struct cup_pin pin)
{
    static unsigned asked;
    if (pin.kind == 'p')
        return (struct cup_sample){.raw = 1};
    if (++asked % 5 == 0)
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = 649 + (int32_t)(asked % 3)};
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    static bool on;
    (void)port;
    (void)pump;
    if (on != high)
        write_outputs(high ? "0 " : "");
    on = high;
    return CUP_OK;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
}

void board_say(char byte)
{
    (void)!write(line, &byte, 1);
}

int board_heard(void)
{
    unsigned char byte;
    return read(line, &byte, 1) == 1 ? byte : -1;
}

void board_sleep(uint32_t ms)
{
    struct pollfd one = {.fd = line, .events = POLLIN};
    poll(&one, 1, (int)ms);
}

const struct cup_store *board_store(void)
{
    return NULL;
}
