/* A Cortex-M board, as its emulator has it, at 25 MHz:
 *
 *     relay:N  GPIO 0, pin N           adc:N   channel N of a 12-bit converter
 *     echo:N   GPIO 1, trigger pin             on SPI, 16 bits a transfer
 *              2N, echo pin 2N + 1     pin:N   GPIO 2, pin N, closed is low
 *
 * SysTick counts milliseconds, timer 0 times echoes, UART 0 is the console,
 * the watchdog resets what stalls for 2 s. The journal lies in RAM that is kept
 * over a reset, as behind a battery. */
#include "../common/kept.h"
#include "../common/memory.h"
#include "../common/pins.h"

#define HZ UINT32_C(25000000)
#define BAUD UINT32_C(38400)

typedef volatile uint32_t reg;
#define REG(at) (*(reg *)(at))

/* CMSDK peripherals, by their offsets in the part's memory. */
#define TIMER_CTRL REG(0x40000000)
#define TIMER_VALUE REG(0x40000004)
#define TIMER_RELOAD REG(0x40000008)
#define UART_DATA REG(0x40004000)
#define UART_STATE REG(0x40004004)
#define UART_CTRL REG(0x40004008)
#define UART_BAUD REG(0x40004010)
#define DOG_LOAD REG(0x40008000)
#define DOG_CTRL REG(0x40008008)
#define DOG_CLEAR REG(0x4000800C)
#define RELAY_OUT REG(0x40010004)
#define RELAY_ENABLE REG(0x40010010)
#define ECHO_IN REG(0x40011000)
#define ECHO_OUT REG(0x40011004)
#define ECHO_ENABLE REG(0x40011010)
#define PIN_IN REG(0x40012000)
#define SPI_CR0 REG(0x40026000)
#define SPI_CR1 REG(0x40026004)
#define SPI_DATA REG(0x40026008)
#define SPI_STATE REG(0x4002600C)
#define SPI_SCALE REG(0x40026010)
/* Of the core. */
#define TICK_CTRL REG(0xE000E010)
#define TICK_RELOAD REG(0xE000E014)
#define TICK_VALUE REG(0xE000E018)

#define UART_FULL 1u
#define UART_HEARD 2u
#define SPI_GOT 4u

/* Called by the start-up code before any memory is set up. */
void outputs_safe(void)
{
    RELAY_OUT = 0;
    RELAY_ENABLE = 0xFF;
}

static volatile uint32_t ticks_ms;

void tick(void);
void tick(void)
{
    ticks_ms++;
}

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return ticks_ms;
}

struct cup_port *board_begin(void)
{
    ECHO_ENABLE = 0x55;
    TIMER_RELOAD = UINT32_MAX;
    TIMER_CTRL = 1;
    UART_BAUD = HZ / BAUD;
    UART_CTRL = 3; /* both ways */
    SPI_SCALE = 2;
    SPI_CR0 = 15; /* 16 bits */
    SPI_CR1 = 2;
    TICK_RELOAD = HZ / 1000 - 1;
    TICK_VALUE = 0;
    TICK_CTRL = 7;
    DOG_LOAD = HZ; /* twice: the first time it only warns */
    DOG_CTRL = 3;
    return NULL;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
    DOG_CLEAR = 1;
}

/* Until a tick at a time, so that nothing is missed. */
void board_sleep(uint32_t ms)
{
    uint32_t since_ms = ticks_ms;
    while (cup_left(ticks_ms, since_ms, ms) > 0 && !(UART_STATE & UART_HEARD))
        __asm__ volatile("wfi");
}

struct cup_sample sample_adc(uint8_t channel)
{
    uint32_t since_ms = ticks_ms;
    SPI_DATA = (uint32_t)channel << 12;
    while (!(SPI_STATE & SPI_GOT))
        if (cup_elapsed(ticks_ms, since_ms) > 2)
            return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = (int32_t)(SPI_DATA & 0xFFF)};
}

/* The timer counts down. */
static uint32_t passed_us(uint32_t from)
{
    return (from - TIMER_VALUE) / (HZ / 1000000);
}

static bool awaits(uint32_t mask, bool high, uint32_t within_us)
{
    uint32_t from = TIMER_VALUE;
    while (!(ECHO_IN & mask) == high)
        if (passed_us(from) > within_us)
            return false;
    return true;
}

/* 10 us of trigger; the echo begins within 2 ms and lasts 30 ms at most. */
struct cup_sample sample_echo(uint8_t number)
{
    uint32_t trigger = 1u << (2 * number);
    struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
    uint32_t from = TIMER_VALUE;
    ECHO_OUT = trigger;
    while (passed_us(from) < 10)
        ;
    ECHO_OUT = 0;
    if (!awaits(trigger << 1, true, 2000))
        return sample;
    from = TIMER_VALUE;
    if (!awaits(trigger << 1, false, 30000))
        return sample;
    return (struct cup_sample){.raw = (int32_t)passed_us(from)};
}

struct cup_sample sample_contact(uint8_t number)
{
    return (struct cup_sample){.raw = !(PIN_IN >> number & 1)};
}

struct cup_sample board_sample(struct cup_pin pin)
{
    return sample_pin(pin);
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    uint8_t number = baked_pins[cup_pump_thing(baked.plan, pump)].number;
    (void)port;
    if (high)
        RELAY_OUT |= 1u << number;
    else
        RELAY_OUT &= ~(1u << number);
    return CUP_OK;
}

void board_say(char byte)
{
    while (UART_STATE & UART_FULL)
        ;
    UART_DATA = (uint8_t)byte;
}

int board_heard(void)
{
    return UART_STATE & UART_HEARD ? (int)(UART_DATA & 0xFF) : -1;
}

const struct cup_store *board_store(void)
{
    return kept_store();
}
