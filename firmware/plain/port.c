/* The smallest port there is, to copy for a part of your own: it stands on
 * registers with made-up names, which your part's header has under others. */
#include "../common/board.h"
#include "../common/kept.h"
#include "../common/memory.h"

/* Registers of the part; part.ld says where they are. */
extern volatile uint32_t part_ms;           /* counts milliseconds */
extern volatile uint32_t part_outputs;      /* a bit each, high is 1 */
extern volatile uint32_t part_inputs;       /* a bit each */
extern volatile uint32_t part_converter[8]; /* raw values, always new */
extern volatile uint32_t part_echo_us[4];   /* the last echo, 0: none */
extern volatile uint32_t part_serial_in;    /* a byte, or all ones: none */
extern volatile uint32_t part_serial_out;
extern volatile uint32_t part_watchdog;

/* Outputs first. */
void outputs_safe(void)
{
    part_outputs = 0;
}

/* The first thing after a reset, with the stack as the part's own loader, or a
 * line of assembly before this, has set it. */
void reset(void);
void reset(void)
{
    outputs_safe();
    begin_memory();
    main();
}

struct cup_port *board_begin(void)
{
    return NULL; /* a port with data of its own returns that */
}

/* 1. The time. It may begin anywhere and wrap. */
uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return part_ms;
}

/* 2. One raw sample. What has no answer says so, and is never a number. */
struct cup_sample board_sample(struct cup_pin pin)
{
    struct cup_sample sample = {.raw = (int32_t)part_converter[pin.number & 7]};
    if (pin.kind == 'e')
        sample.raw = (int32_t)part_echo_us[pin.number & 3];
    if (pin.kind == 'p')
        sample.raw = part_inputs >> pin.number & 1;
    if (pin.kind == 'e' && sample.raw == 0)
        sample.reject = CUP_REASON_NO_ANSWER;
    return sample;
}

/* 3. An output high or low. Reading it back is how a dead driver is found. */
enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    uint8_t number = baked_pins[cup_pump_thing(baked.plan, pump)].number;
    uint32_t bit = UINT32_C(1) << number;
    (void)port;
    part_outputs = high ? part_outputs | bit : part_outputs & ~bit;
    return !(part_outputs & bit) == high ? CUP_ERROR_PORT : CUP_OK;
}

/* 4. The watchdog, once a pass. */
void cup_port_feed(struct cup_port *port)
{
    (void)port;
    part_watchdog = 1;
}

/* 5. Events are told in ../common/main.c, by this. */
void board_say(char byte)
{
    part_serial_out = (uint8_t)byte;
}

int board_heard(void)
{
    uint32_t byte = part_serial_in;
    return byte == UINT32_MAX ? -1 : (int)(byte & 0xFF);
}

/* 6. Nothing is due for so long; a part that can sleep does. */
void board_sleep(uint32_t ms)
{
    uint32_t since_ms = part_ms;
    while (cup_left(part_ms, since_ms, ms) > 0)
        ;
}

/* Only for plans that need them: a supply switched on and off (7), and the
 * bytes of a sensor that answers in frames (8). */
enum cup_error cup_port_supply(struct cup_port *port, cup_index supply, bool on)
{
    uint32_t bit = UINT32_C(0x10000) << supply;
    (void)port;
    part_outputs = on ? part_outputs | bit : part_outputs & ~bit;
    return CUP_OK;
}

size_t cup_port_bytes(struct cup_port *port, cup_index thing, uint8_t *bytes,
                      size_t size)
{
    (void)port, (void)thing, (void)bytes, (void)size;
    return 0; /* none: the sensor is sampled as a number */
}

/* Bytes for the journal; a part without any returns null, and what was set is
 * forgotten. */
const struct cup_store *board_store(void)
{
    return kept_store();
}
