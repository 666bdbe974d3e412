#include "bench.h"

#include <simavr/avr_adc.h>
#include <simavr/avr_ioport.h>
#include <simavr/avr_uart.h>
#include <simavr/sim_elf.h>
#include <simavr/sim_time.h>
#include <stdio.h>

#define PORTD_AT 0x2B
#define RELAYS 0xF0

void bench_wrong(struct bench *bench, const char *what)
{
    if (bench->wrong++ < 5)
        printf("WRONG after %.3f s: %s\n",
               (double)(bench->avr->cycle - bench->booted) / BENCH_HZ, what);
}

static void hear_byte(avr_irq_t *irq, uint32_t byte, void *self)
{
    struct bench *bench = self;
    (void)irq;
    if (byte == '\n') {
        bench->line[bench->used] = '\0';
        bench->used = 0;
        bench->heard(bench);
    } else if (byte != '\r' && bench->used < sizeof(bench->line) - 1) {
        bench->line[bench->used++] = (char)byte;
    }
}

/* Echoes: the pin rises a while after the trigger falls, for as long as the
 * sound is under way. */

static avr_cycle_count_t fall(avr_t *avr, avr_cycle_count_t when, void *self)
{
    (void)avr, (void)when;
    avr_raise_irq(((struct bench_echo *)self)->pin, 0);
    return 0;
}

static avr_cycle_count_t rise(avr_t *avr, avr_cycle_count_t when, void *self)
{
    struct bench_echo *echo = self;
    (void)when;
    avr_raise_irq(echo->pin, 1);
    avr_cycle_timer_register_usec(avr, echo->width_us, fall, echo);
    return 0;
}

static void on_trigger(avr_irq_t *irq, uint32_t high, void *self)
{
    struct bench_echo *echo = self;
    (void)irq;
    if (echo->was_high && !high)
        avr_cycle_timer_register_usec(echo->bench->avr, 400, rise, echo);
    echo->was_high = high;
}

static void join_echo(struct bench *bench, int number, uint32_t width_us)
{
    struct bench_echo *echo = &bench->echoes[number];
    *echo = (struct bench_echo){bench, NULL, width_us, false};
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

unsigned bench_relays(const struct bench *bench)
{
    return bench->avr->data[PORTD_AT] & RELAYS;
}

void bench_run(struct bench *bench, uint64_t cycles)
{
    uint64_t until = bench->avr->cycle + cycles;
    while (bench->avr->cycle < until) {
        int state = avr_run(bench->avr);
        if (bench->check)
            bench->check(bench);
        if (state == cpu_Done || state == cpu_Crashed) {
            bench_wrong(bench, "the part crashed");
            return;
        }
    }
}

void bench_cut(struct bench *bench)
{
    avr_reset(bench->avr);
    bench->booted = bench->avr->cycle;
    bench->used = 0;
    set_sensors(bench);
    if (bench->check)
        bench->check(bench);
}

void bench_type(struct bench *bench, const char *text)
{
    avr_irq_t *line =
        avr_io_getirq(bench->avr, AVR_IOCTL_UART_GETIRQ('0'), UART_IRQ_INPUT);
    for (; *text; text++) {
        avr_raise_irq(line, (uint32_t)*text);
        bench_run(bench, BENCH_HZ / 200);
    }
}

/* Time asleep goes by at once. */
static void skip(avr_t *avr, avr_cycle_count_t cycles)
{
    (void)avr, (void)cycles;
}

bool bench_begin(struct bench *bench, const char *part, const char *path)
{
    elf_firmware_t image = {0};
    uint32_t flags = 0;
    if (elf_read_firmware(path, &image))
        return false;
    avr_t *avr = bench->avr = avr_make_mcu_by_name(part);
    if (!avr)
        return false;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = BENCH_HZ;
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
    bench_cut(bench);
    return true;
}
