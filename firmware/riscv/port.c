/* A board with a 32-bit RISC-V microcontroller, rv32imac, at 16 MHz:
 *
 *     relay:N  GPIO 20 + N, high is on     adc:N  channel N of a 12-bit
 *     echo:N   GPIO 10 + 2N, trigger              converter on SPI 1
 *              GPIO 11 + 2N, echo          pin:N  GPIO 0, 1, 9, 18, 19; closed
 *     serial   UART 0, 38400 baud                 is low
 *
 * The machine timer counts time, the cycle counter times echoes, the watchdog
 * of the always-on block resets what stalls for 2 s. The journal lies in RAM
 * that is kept over a reset. */
#include "../common/kept.h"
#include "../common/memory.h"
#include "../common/pins.h"

#define HZ UINT32_C(16000000)
#define BAUD UINT32_C(38400)
/* Of the machine timer; an emulator may have another. */
#ifndef TIMER_HZ
#define TIMER_HZ UINT32_C(32768)
#endif

typedef volatile uint32_t reg;
#define REG(at) (*(reg *)(at))

#define TIMER_AT_LOW REG(0x02004000) /* when it interrupts */
#define TIMER_AT_HIGH REG(0x02004004)
#define TIMER_LOW REG(0x0200BFF8)
#define TIMER_HIGH REG(0x0200BFFC)
#define DOG_CONFIG REG(0x10000000)
#define DOG_FEED REG(0x10000018)
#define DOG_KEY REG(0x1000001C)
#define DOG_MOST REG(0x10000020)
#define PIN_VALUE REG(0x10012000)
#define PIN_IN REG(0x10012004)
#define PIN_OUT REG(0x10012008)
#define PIN_HIGH REG(0x1001200C)
#define PIN_PULL_UP REG(0x10012010)
#define PIN_FUNCTION REG(0x10012038)
#define UART_SEND REG(0x10013000)
#define UART_GET REG(0x10013004)
#define UART_SENDS REG(0x10013008)
#define UART_GETS REG(0x1001300C)
#define UART_PENDING REG(0x10013014)
#define UART_DIVIDER REG(0x10013018)
#define SPI_DIVIDER REG(0x10024000)
#define SPI_SELECT REG(0x10024018)
#define SPI_FORMAT REG(0x10024040)
#define SPI_SEND REG(0x10024048)
#define SPI_GET REG(0x1002404C)

#define RELAYS UINT32_C(0x00F00000)
#define TRIGGERS UINT32_C(0x00001400)
#define ECHOES UINT32_C(0x00002800)
#define CONTACTS UINT32_C(0x000C0203)
#define SERIAL UINT32_C(0x00030000)
#define CONVERTER UINT32_C(0x0000003C)
/* A queue that is full, or empty. */
#define QUEUE_NOT UINT32_C(0x80000000)
#define UART_HEARD 2u
#define SPI_HOLD 2u /* selected between two bytes, too */
#define SPI_BYTES UINT32_C(0x00080000)
#define DOG_OPEN UINT32_C(0x0051F15E)
#define DOG_FOOD UINT32_C(0x0D09F00D)
#define DOG_RUNS UINT32_C(0x1101) /* counts, resets, ticks of 2 / 32768 s */
#define TIMER_WAKES 0x80u         /* mie.MTIE */

void outputs_safe(void)
{
    PIN_HIGH = 0;
    PIN_OUT = RELAYS | TRIGGERS;
}

/* Clock */

static uint64_t timer(void)
{
    uint32_t high;
    uint32_t low;
    do {
        high = TIMER_HIGH;
        low = TIMER_LOW;
    } while (high != TIMER_HIGH);
    return (uint64_t)high << 32 | low;
}

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return (uint32_t)(timer() * 1000 / TIMER_HZ);
}

static uint32_t cycles(void)
{
    uint32_t now;
    __asm__ volatile("csrr %0, mcycle" : "=r"(now));
    return now;
}

/* Each register of the watchdog takes a word only after the key. */
static void tell_dog(reg *at, uint32_t word)
{
    DOG_KEY = DOG_OPEN;
    *at = word;
}

struct cup_port *board_begin(void)
{
    PIN_IN = RELAYS | ECHOES | CONTACTS;
    PIN_PULL_UP = CONTACTS;
    PIN_FUNCTION = SERIAL | CONVERTER;
    UART_DIVIDER = HZ / BAUD - 1;
    UART_SENDS = 1;
    UART_GETS = 1;
    SPI_DIVIDER = 7; /* 1 MHz */
    SPI_FORMAT = SPI_BYTES;
    tell_dog(&DOG_MOST, 32768);
    tell_dog(&DOG_FEED, DOG_FOOD);
    tell_dog(&DOG_CONFIG, DOG_RUNS);
    __asm__ volatile("csrw mie, %0" : : "r"(TIMER_WAKES));
    return NULL;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
    tell_dog(&DOG_FEED, DOG_FOOD);
}

/* Until a tick at a time, so that no byte waits; interrupts wake it, but are
 * not taken. */
void board_sleep(uint32_t ms)
{
    uint32_t since_ms = cup_port_now_ms(NULL);
    while (cup_left(cup_port_now_ms(NULL), since_ms, ms) > 0 &&
           !(UART_PENDING & UART_HEARD)) {
        uint64_t at = timer() + TIMER_HZ / 1000;
        TIMER_AT_HIGH = UINT32_MAX;
        TIMER_AT_LOW = (uint32_t)at;
        TIMER_AT_HIGH = (uint32_t)(at >> 32);
        __asm__ volatile("wfi");
    }
}

/* Sensors */

static bool is_over_us(uint32_t from, uint32_t us)
{
    return cycles() - from > us * (HZ / 1000000);
}

/* A byte to the converter, and what came back for it; false when nothing did.
 */
static bool swap_byte(uint8_t out, uint32_t *in)
{
    uint32_t from = cycles();
    SPI_SEND = out;
    do {
        *in = SPI_GET;
        if (is_over_us(from, 1000))
            return false;
    } while (*in & QUEUE_NOT);
    return true;
}

struct cup_sample sample_adc(uint8_t channel)
{
    uint32_t high;
    uint32_t low;
    SPI_SELECT = SPI_HOLD;
    bool heard =
        swap_byte((uint8_t)(channel << 4), &high) && swap_byte(0, &low);
    SPI_SELECT = 0;
    if (!heard)
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = (int32_t)((high << 8 | low) & 0xFFF)};
}

static bool awaits(uint32_t mask, bool high, uint32_t within_us)
{
    uint32_t from = cycles();
    while (!(PIN_VALUE & mask) == high)
        if (is_over_us(from, within_us))
            return false;
    return true;
}

/* 10 us of trigger; the echo begins within 2 ms and lasts 30 ms at most. */
struct cup_sample sample_echo(uint8_t number)
{
    uint32_t trigger = UINT32_C(1) << (10 + 2 * number);
    struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
    uint32_t from = cycles();
    PIN_HIGH |= trigger;
    while (!is_over_us(from, 10))
        ;
    PIN_HIGH &= ~trigger;
    if (!awaits(trigger << 1, true, 2000))
        return sample;
    from = cycles();
    if (!awaits(trigger << 1, false, 30000))
        return sample;
    return (struct cup_sample){
        .raw = (int32_t)((cycles() - from) / (HZ / 1000000))};
}

struct cup_sample sample_contact(uint8_t number)
{
    static const uint8_t contacts[] = {0, 1, 9, 18, 19};
    if (number >= sizeof(contacts))
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return (struct cup_sample){.raw = !(PIN_VALUE >> contacts[number] & 1)};
}

struct cup_sample board_sample(struct cup_pin pin)
{
    return sample_pin(pin);
}

/* Outputs; what the pin itself is at is read back. */
enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    uint8_t number = baked_pins[cup_pump_thing(baked.plan, pump)].number;
    uint32_t relay = UINT32_C(1) << (20 + number);
    (void)port;
    if (high)
        PIN_HIGH |= relay;
    else
        PIN_HIGH &= ~relay;
    return !(PIN_VALUE & relay) == high ? CUP_ERROR_PORT : CUP_OK;
}

/* Serial line */

void board_say(char byte)
{
    while (UART_SEND & QUEUE_NOT)
        ;
    UART_SEND = (uint8_t)byte;
}

int board_heard(void)
{
    uint32_t byte = UART_GET;
    return byte & QUEUE_NOT ? -1 : (int)(byte & 0xFF);
}

const struct cup_store *board_store(void)
{
    return kept_store();
}
