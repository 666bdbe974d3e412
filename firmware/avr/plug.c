/* Pulls the plug of a board again and again: the image of examples/board runs
 * in simavr against sensors that answer, its power is cut at random cycles, and
 * what must hold is looked at after every instruction.
 *
 *   - no relay is on before the boot wait is over
 *   - no two pumps run together
 *   - the journal is never lost
 *   - a flood that was given before the cuts does not come again after them
 *   - what is said to its serial line is answered, and done
 *
 * The image's site has its times shortened: day after 20 s of light, floods of
 * 30 s.
 *
 * Use: plug IMAGE CUTS */
#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_time.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cuplatch/base.h"
#include "cuplatch/reason.h"

#define HZ 16000000
#define PORTD_AT 0x2B
#define RELAYS 0xF0
#define BOOT_WAIT_S 15

/* Numbers of things in examples/board/board.ini. */
enum { TRAY_PUMP = 11, READINGS = 9, PUMPS = 3 };
#define TRAY_RELAY 0x40

struct echo {
    struct bench *bench;
    avr_irq_t *pin;
    uint32_t width_us;
    bool was_high;
};

struct bench {
    avr_t *avr;
    struct echo echoes[2];
    char line[100];
    size_t used;
    uint64_t booted; /* cycles */
    unsigned floods;
    unsigned restored;
    unsigned wrong;
    int answer; /* to what was said last; -1: none */
    unsigned readings;
    unsigned pumps;
};

static void wrong(struct bench *bench, const char *what)
{
    if (bench->wrong++ < 5)
        printf("WRONG after %.3f s: %s\n",
               (double)(bench->avr->cycle - bench->booted) / HZ, what);
}

/* What the board says: ms, of, kind, about, reason, value, limit. Shorter lines
 * are answers. */
static void look_at_line(struct bench *bench)
{
    unsigned t_ms, of, kind, about, reason;
    int value, limit;
    int numbers = sscanf(bench->line, "%u %u %u %u %u %d %d", &t_ms, &of, &kind,
                         &about, &reason, &value, &limit);
    if (numbers == 1)
        bench->answer = (int)t_ms;
    bench->readings += numbers == 3;
    bench->pumps += numbers == 6;
    if (numbers != 7 && numbers != 6 && numbers != 3 && numbers != 1)
        wrong(bench, bench->line);
    if (numbers != 7)
        return;
    bench->floods += of == TRAY_PUMP && kind == CUP_KIND_START;
    bench->restored += reason == CUP_REASON_JOURNAL;
    if (reason == CUP_REASON_JOURNAL_LOST || reason == CUP_REASON_JOURNAL_OTHER)
        wrong(bench, "the journal is lost");
}

static void hear_byte(avr_irq_t *irq, uint32_t byte, void *self)
{
    struct bench *bench = self;
    (void)irq;
    if (byte == '\n') {
        bench->line[bench->used] = '\0';
        bench->used = 0;
        look_at_line(bench);
    } else if (byte != '\r' && bench->used < sizeof(bench->line) - 1) {
        bench->line[bench->used++] = (char)byte;
    }
}

/* Echoes: the pin rises a while after the trigger falls, for as long as the
 * sound is under way. */

static avr_cycle_count_t fall(avr_t *avr, avr_cycle_count_t when, void *self)
{
    (void)avr, (void)when;
    avr_raise_irq(((struct echo *)self)->pin, 0);
    return 0;
}

static avr_cycle_count_t rise(avr_t *avr, avr_cycle_count_t when, void *self)
{
    struct echo *echo = self;
    (void)when;
    avr_raise_irq(echo->pin, 1);
    avr_cycle_timer_register_usec(avr, echo->width_us, fall, echo);
    return 0;
}

static void on_trigger(avr_irq_t *irq, uint32_t high, void *self)
{
    struct echo *echo = self;
    (void)irq;
    if (echo->was_high && !high)
        avr_cycle_timer_register_usec(echo->bench->avr, 400, rise, echo);
    echo->was_high = high;
}

static void join_echo(struct bench *bench, int number, uint32_t width_us)
{
    struct echo *echo = &bench->echoes[number];
    *echo = (struct echo){bench, NULL, width_us, false};
    echo->pin =
        avr_io_getirq(bench->avr, AVR_IOCTL_IOPORT_GETIRQ('B'), 2 * number + 1);
    avr_irq_register_notify(
        avr_io_getirq(bench->avr, AVR_IOCTL_IOPORT_GETIRQ('B'), 2 * number),
        on_trigger, echo);
}

/* Beds that are wet, tanks half full, full day, a tray that is empty. */
static void set_sensors(struct bench *bench)
{
    static const uint32_t mv[] = {2200, 2200, 2200, 4400};
    for (int i = 0; i < 4; i++)
        avr_raise_irq(
            avr_io_getirq(bench->avr, AVR_IOCTL_ADC_GETIRQ, ADC_IRQ_ADC0 + i),
            mv[i]);
    avr_raise_irq(avr_io_getirq(bench->avr, AVR_IOCTL_IOPORT_GETIRQ('C'), 4),
                  1);
}

static void check(struct bench *bench)
{
    unsigned on = bench->avr->data[PORTD_AT] & RELAYS;
    if (on == 0)
        return;
    if (bench->avr->cycle - bench->booted < (uint64_t)BOOT_WAIT_S * HZ)
        wrong(bench, "a relay is on before the boot wait is over");
    if (on & (on - 1))
        wrong(bench, "two pumps run together");
}

static void run(struct bench *bench, uint64_t cycles)
{
    uint64_t until = bench->avr->cycle + cycles;
    while (bench->avr->cycle < until) {
        int state = avr_run(bench->avr);
        check(bench);
        if (state == cpu_Done || state == cpu_Crashed) {
            wrong(bench, "the part crashed");
            return;
        }
    }
}

static void cut(struct bench *bench)
{
    avr_reset(bench->avr);
    bench->booted = bench->avr->cycle;
    bench->used = 0;
    set_sensors(bench);
    check(bench);
}

/* Says a line to the board, a byte each 5 ms, and waits for two passes. */
static void say(struct bench *bench, const char *text, int answer)
{
    avr_irq_t *line =
        avr_io_getirq(bench->avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
    bench->answer = -1;
    for (const char *at = text; *at; at++) {
        avr_raise_irq(line, (uint32_t)*at);
        run(bench, HZ / 200);
    }
    run(bench, 2 * HZ);
    if (bench->answer != answer)
        wrong(bench, text);
}

static void expect_relays(struct bench *bench, unsigned relays)
{
    if ((bench->avr->data[PORTD_AT] & RELAYS) != relays)
        wrong(bench, "a relay is not as it was steered");
}

/* By hand, off, on hold, and what is asked. */
static void steer(struct bench *bench)
{
    say(bench, "hand 11 60\n", CUP_OK);
    expect_relays(bench, TRAY_RELAY);
    say(bench, "hold\n", CUP_OK);
    expect_relays(bench, 0);
    say(bench, "go\n", CUP_OK);
    say(bench, "off 11\n", CUP_OK);
    expect_relays(bench, 0);
    say(bench, "auto 11\n", CUP_OK);
    say(bench, "clear 9\n", CUP_OK);
    say(bench, "hand 11 999999\n", CUP_ERROR_RANGE);
    say(bench, "off 3\n", CUP_ERROR_NAME);
    say(bench, "ask\n", -1);
    if (bench->readings != READINGS || bench->pumps != PUMPS)
        wrong(bench, "ask was not answered");
}

static uint32_t chance(uint32_t most)
{
    static uint64_t state = 88172645463325252u;
    state ^= state << 13;
    state ^= state >> 7;
    state ^= state << 17;
    return (uint32_t)(state >> 33) % most;
}

/* Time asleep goes by at once. */
static void skip(avr_t *avr, avr_cycle_count_t cycles)
{
    (void)avr, (void)cycles;
}

static bool begin(struct bench *bench, const char *path)
{
    elf_firmware_t image = {0};
    uint32_t flags = 0;
    if (elf_read_firmware(path, &image))
        return false;
    avr_t *avr = bench->avr = avr_make_mcu_by_name("atmega328p");
    if (!avr)
        return false;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = HZ;
    avr->sleep = skip;
    avr->vcc = avr->avcc = avr->aref = 5000;
    avr_load_firmware(avr, &image);
    avr_ioctl(avr, AVR_IOCTL_UART_GET_FLAGS('0'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(avr, AVR_IOCTL_UART_SET_FLAGS('0'), &flags);
    avr_irq_register_notify(
        avr_io_getirq(avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_OUTPUT),
        hear_byte, bench);
    join_echo(bench, 0, 5600); /* cistern: half full */
    join_echo(bench, 1, 2900);
    cut(bench);
    return true;
}

int main(int argc, char **argv)
{
    static struct bench bench;
    if (argc != 3 || !begin(&bench, argv[1]))
        return 2;
    unsigned cuts = (unsigned)strtoul(argv[2], NULL, 10);
    run(&bench, UINT64_C(2) * 60 * HZ); /* dawn, and a flood to its end */
    if (bench.floods != 1)
        wrong(&bench, "no flood came at dawn");
    for (unsigned i = 0; i < cuts; i++) {
        run(&bench, chance(4 * HZ));
        cut(&bench);
    }
    run(&bench, UINT64_C(2) * 60 * HZ);
    if (bench.floods != 1)
        wrong(&bench, "the flood came again");
    if (bench.restored < cuts / 2)
        wrong(&bench, "the journal was seldom read back");
    steer(&bench);
    printf("plug pulled %u times, journal read back %u times, %u wrong\n", cuts,
           bench.restored, bench.wrong);
    return bench.wrong > 0;
}
