/* A board with a modem, under simulation, and a phone far away: what it texts,
 * what it answers, and what it does not.
 *
 * Use: phone IMAGE */
#include <simavr/avr_uart.h>
#include <stdio.h>
#include <string.h>

#include "../../tests/modem/simulated.h"
#include "bench.h"

#define PHONE "+990100200300"
#define STRANGER "+990999999999"
/* From one byte to the next. */
#define BYTE_CYCLES (BENCH_HZ / 3840)

static struct sim sim;
static avr_irq_t *to_board;
static uint64_t next;
static char said[8000]; /* at the console */

static uint32_t now_ms(const struct bench *bench)
{
    return (uint32_t)(bench->avr->cycle / (BENCH_HZ / 1000));
}

static void take_byte(avr_irq_t *irq, uint32_t byte, void *self)
{
    (void)irq;
    sim_take(&sim, now_ms(self), (char)byte);
}

/* After each instruction. */
static void check(struct bench *bench)
{
    char byte;
    if (bench->avr->cycle < next || !sim_give(&sim, now_ms(bench), &byte))
        return;
    next = bench->avr->cycle + BYTE_CYCLES;
    avr_raise_irq(to_board, (uint8_t)byte);
}

static void hear(struct bench *bench)
{
    size_t used = strlen(said);
    snprintf(said + used, sizeof(said) - used, "%s\n", bench->line);
}

static void run(struct bench *bench, unsigned seconds)
{
    bench_run(bench, (uint64_t)seconds * BENCH_HZ);
}

/* A text from somebody, and what the last one that went out is to have in it;
 * null: none goes out. */
static void text(struct bench *bench, const char *from, const char *words,
                 const char *part)
{
    unsigned before = sim.sent;
    sim_comes(&sim, now_ms(bench), from, words, "31/05/10,06:15:30+00");
    run(bench, 8);
    bool sent = sim.sent > before;
    if (sent != (part != NULL) || (part && (!strstr(sim.last_text, part) ||
                                            strcmp(sim.last_to, PHONE) != 0))) {
        bench_wrong(bench, words);
        printf("  the last text: %s\n", sim.last_text);
    }
}

int main(int argc, char **argv)
{
    static struct bench bench = {.heard = hear};
    static const struct sim_faults none = {.late_ms = 5};
    uint32_t flags = 0;
    sim_open(&sim, &none);
    if (argc != 2 || !bench_begin(&bench, "atmega1281", argv[1]))
        return 2;
    avr_ioctl(bench.avr, AVR_IOCTL_UART_GET_FLAGS('1'), &flags);
    flags &= ~(uint32_t)AVR_UART_FLAG_STDIO;
    avr_ioctl(bench.avr, AVR_IOCTL_UART_SET_FLAGS('1'), &flags);
    to_board =
        avr_io_getirq(bench.avr, AVR_IOCTL_UART_GETIRQ('1'), UART_IRQ_INPUT);
    avr_irq_register_notify(
        avr_io_getirq(bench.avr, AVR_IOCTL_UART_GETIRQ('1'), UART_IRQ_OUTPUT),
        take_byte, &bench);
    bench.check = check;
    run(&bench, 135); /* levels are believed after two minutes */
    text(&bench, PHONE, "Ask levels", "header 50.");
    text(&bench, PHONE, "why lift", "header ");
    text(&bench, PHONE, "lift hand 1m", "or why NAME");
    if (strstr(said, "lift mode"))
        bench_wrong(&bench, "a text started something");
    text(&bench, STRANGER, "lift off", NULL);
    if (strstr(said, "lift mode"))
        bench_wrong(&bench, "a stranger moved something");
    text(&bench, PHONE, "lift off", "done");
    if (!strstr(said, "lift mode: lift is switched off"))
        bench_wrong(&bench, "off did not count");
    /* by hand at the board, though nothing rises: that is a trip */
    bench_type(&bench, "lift hand 1m\r");
    run(&bench, 70);
    if (!strstr(sim.last_text, "lift: header rose "))
        bench_wrong(&bench, "a trip was not texted");
    printf("  %s\n", sim.last_text);
    printf("phone: %u texts, %u wrong\n", sim.sent, bench.wrong);
    return bench.wrong ? 1 : 0;
}
