/* A board with an 8-bit AVR of 32 KB at 16 MHz, or a larger one of 128 KB, that
 * has room for all texts:
 *
 *     relay:N  PD(4+N), high is on    adc:N   ADC channel N
 *     echo:N   trigger PB(2N), echo    pin:N   PC(N), closed is low
 *              PB(2N+1)                serial  38400 baud, 8 bits, no parity
 *
 * A modem, if one is built in, is at the second serial line, at 38400 baud,
 * too.
 *
 * Timer 2 counts milliseconds, timer 1 times echoes, the EEPROM keeps the
 * journal, the watchdog resets what stalls for 2 s. */
#include <avr/eeprom.h>
#include <avr/interrupt.h>
#include <avr/io.h>
#include <avr/sleep.h>
#include <avr/wdt.h>

#include "../common/phone.h"
#include "../common/pins.h"

#define RELAYS 0xF0 /* PD4 to PD7 */
#define TRIGGERS 0x05
#define HZ UINT32_C(16000000)
#define BAUD UINT32_C(38400)

/* Before memory is set up: relays off, and no watchdog left over from the
 * reset that it made. Placed in the start-up code, so it is not called. */
__attribute__((naked, used, section(".init3"))) void outputs_safe(void)
{
    PORTD = 0;
    DDRD = RELAYS;
    MCUSR = 0;
    wdt_disable();
}

/* Clock */

static volatile uint32_t ticks_ms;

ISR(TIMER2_COMPA_vect)
{
    ticks_ms++;
}

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    uint8_t flags = SREG;
    cli();
    uint32_t now_ms = ticks_ms;
    SREG = flags;
    return now_ms;
}

/* The modem's line, of a part that has a second one: 256 bytes are 66 ms. */
#ifdef UDR1
static volatile uint8_t modem_heard[256];
static volatile uint8_t modem_to;
static uint8_t modem_from;

ISR(USART1_RX_vect)
{
    modem_heard[modem_to++] = UDR1;
}

static void begin_modem(void)
{
    UBRR1 = HZ / 16 / BAUD - 1;
    UCSR1B = 1 << RXEN1 | 1 << TXEN1 | 1 << RXCIE1;
}

void board_modem_say(char byte)
{
    while (!(UCSR1A & 1 << UDRE1))
        ;
    UDR1 = (uint8_t)byte;
}

int board_modem_heard(void)
{
    return modem_from == modem_to ? -1 : modem_heard[modem_from++];
}

static bool modem_waits(void)
{
    return modem_from != modem_to;
}
#else
static void begin_modem(void)
{
}

static bool modem_waits(void)
{
    return false;
}
#endif

struct cup_port *board_begin(void)
{
    DDRB = TRIGGERS;
    TCCR2A = 1 << WGM21; /* 16 MHz / 64 / 250 */
    TCCR2B = 1 << CS22;
    OCR2A = 249;
    TIMSK2 = 1 << OCIE2A;
    TCCR1B = 1 << CS11; /* 2 MHz */
    ADMUX = 1 << REFS0;
    ADCSRA = 1 << ADEN | 1 << ADPS2 | 1 << ADPS1 | 1 << ADPS0;
    UBRR0 = HZ / 16 / BAUD - 1;
    UCSR0B = 1 << RXEN0 | 1 << TXEN0 | 1 << RXCIE0;
    begin_modem();
    sei();
    wdt_enable(WDTO_2S);
    return NULL;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
    wdt_reset();
}

/* Sensors */

struct cup_sample sample_adc(uint8_t channel)
{
    ADMUX = (uint8_t)(1 << REFS0 | channel);
    ADCSRA |= 1 << ADSC;
    while (ADCSRA & 1 << ADSC) /* 104 us */
        ;
    return (struct cup_sample){.raw = ADC};
}

/* Whether the echo's line came to be so within a time, in half us. */
static bool awaits(uint8_t mask, bool high, uint16_t within)
{
    uint16_t from = TCNT1;
    while (!(PINB & mask) == high)
        if ((uint16_t)(TCNT1 - from) > within)
            return false;
    return true;
}

/* 10 us of trigger; the echo begins within 2 ms and is as long as the sound is
 * under way, 30 ms at most. */
struct cup_sample sample_echo(uint8_t number)
{
    uint8_t trigger = (uint8_t)(1 << (2 * number));
    uint8_t echo = (uint8_t)(trigger << 1);
    uint16_t from = TCNT1;
    PORTB |= trigger;
    while ((uint16_t)(TCNT1 - from) < 20)
        ;
    PORTB &= (uint8_t)~trigger;
    struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
    if (!awaits(echo, true, 4000))
        return sample;
    from = TCNT1;
    if (!awaits(echo, false, 60000))
        return sample;
    return (struct cup_sample){.raw = (uint16_t)(TCNT1 - from) / 2};
}

struct cup_sample sample_contact(uint8_t number)
{
    return (struct cup_sample){.raw = !(PINC & 1 << number)};
}

struct cup_sample board_sample(struct cup_pin pin)
{
    return sample_pin(pin);
}

/* Outputs */

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    uint8_t number = baked_pins[cup_pump_thing(baked.plan, pump)].number;
    uint8_t relay = (uint8_t)(1 << (number + 4));
    (void)port;
    if (high)
        PORTD |= relay;
    else
        PORTD &= (uint8_t)~relay;
    return !(PORTD & relay) == high ? CUP_ERROR_PORT : CUP_OK;
}

/* Serial line */

void board_say(char byte)
{
    while (!(UCSR0A & 1 << UDRE0))
        ;
    UDR0 = (uint8_t)byte;
}

/* Bytes wait here while a pass is made: 26 come in 7 ms. */
#ifndef USART_RX_vect /* a part with several lines numbers them */
#define USART_RX_vect USART0_RX_vect
#endif
static volatile uint8_t heard[32];
static volatile uint8_t heard_to;
static uint8_t heard_from;

ISR(USART_RX_vect)
{
    heard[heard_to++ % sizeof(heard)] = UDR0;
}

int board_heard(void)
{
    return heard_from == heard_to ? -1 : heard[heard_from++ % sizeof(heard)];
}

/* Idle, so that timer and serial line wake it. */
void board_sleep(uint32_t ms)
{
    uint32_t since_ms = cup_port_now_ms(NULL);
    set_sleep_mode(SLEEP_MODE_IDLE);
    while (cup_left(cup_port_now_ms(NULL), since_ms, ms) > 0 &&
           heard_from == heard_to && !modem_waits())
        sleep_mode();
}

/* Journal, and three copies of what people chose in the rest. */

#define SLOTS 3
#define SLOT_SIZE 256
#define RECORD_SIZE ((E2END + 1 - SLOTS * SLOT_SIZE) / 3)

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes,
                            size_t count)
{
    (void)self;
    eeprom_read_block(bytes, (const void *)(uint16_t)at, count);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    (void)self;
    while (count-- > 0) {
        eeprom_update_byte((uint8_t *)(uint16_t)at++, 0xFF);
        wdt_reset(); /* 3.4 ms a byte */
    }
    return CUP_OK;
}

static enum cup_error keep(void *self, uint32_t at, const uint8_t *bytes,
                           size_t count)
{
    (void)self;
    eeprom_update_block(bytes, (void *)(uint16_t)at, count);
    return CUP_OK;
}

const struct cup_store *board_store(void)
{
    static const struct cup_store store = {.fetch = fetch,
                                           .erase = erase,
                                           .write = keep,
                                           .slot_size = SLOT_SIZE,
                                           .record_size = RECORD_SIZE,
                                           .slots = SLOTS};
    return &store;
}
