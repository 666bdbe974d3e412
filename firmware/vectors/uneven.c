/* Runs a baked board by its port, with passes that come unevenly, late, or with
 * the time gone back, and says a sum over every output and event: built with
 * the whole core or with what the board uses, it is the same. */
#include <stdio.h>

#include "cuplatch/port.h"

/* A bare board's core does not know of outputs that fail: then 0. */
#ifndef OUTPUTS_FAIL
#define OUTPUTS_FAIL 1
#endif

/* Nor does it tell of floods that were missed, or ended before they began: then
 * 0. */
#ifndef OWED_IS_TOLD
#define OWED_IS_TOLD 1
#endif

extern const struct cup_site baked;
extern CUP_FLASH struct cup_pin baked_pins[];

#define PASSES 40000u

static uint32_t now_ms;
static uint32_t pass;
static uint32_t sum = 2166136261u; /* FNV-1a */
static uint32_t events;
static uint32_t samples;

static void mix(uint32_t value)
{
    for (int i = 0; i < 4; i++, value >>= 8)
        sum = (sum ^ (value & 0xFF)) * 16777619u;
}

/* A number made of two, whoever asks first. */
static uint32_t chance(uint32_t a, uint32_t b)
{
    uint32_t x = a * 2654435761u ^ b * 40503u;
    x ^= x >> 15;
    x *= 2246822519u;
    return x ^ x >> 13;
}

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return now_ms;
}

/* Rises and falls, each sensor at its own pace, from one end to the other. */
static int32_t wave(cup_index sensor, int32_t most)
{
    uint32_t period = 400u + 97u * sensor;
    uint32_t at = pass % (2 * period);
    return (int32_t)((at < period ? at : 2 * period - at) * (uint32_t)most /
                     period);
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    uint32_t luck = chance(pass, sensor);
    char kind = baked_pins[sensor].kind;
    (void)port;
    samples++;
    mix(sensor);
    if (luck % 16 == 0 || chance(pass / 60, sensor) % 12 == 0)
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    if (kind != 'a' && kind != 'e')
        return (struct cup_sample){.raw = wave(sensor, 9) > 4};
    return (struct cup_sample){.raw = wave(sensor, kind == 'a' ? 1023 : 11000) +
                                      (int32_t)(luck >> 8) % 12};
}

enum cup_error cup_port_supply(struct cup_port *port, cup_index supply, bool on)
{
    (void)port, (void)supply, (void)on;
    return CUP_OK;
}

size_t cup_port_bytes(struct cup_port *port, cup_index thing, uint8_t *bytes,
                      size_t size)
{
    (void)port, (void)thing, (void)bytes, (void)size;
    return 0;
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    (void)port;
    mix(pump);
    mix(high);
    return OUTPUTS_FAIL && chance(pass / 30, 99) % 40 == 0 ? CUP_ERROR_PORT
                                                           : CUP_OK;
}

enum cup_error cup_port_move(struct cup_port *port, cup_index pump,
                             uint16_t place, int way)
{
    (void)port, (void)way;
    mix(pump);
    mix(place);
    return CUP_OK;
}

void cup_port_light(struct cup_port *port, cup_index lamp, uint8_t lit)
{
    (void)port, (void)lamp, (void)lit;
}

bool cup_port_closed(struct cup_port *port, cup_index button)
{
    (void)port, (void)button;
    return false;
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
}

void cup_port_tell(struct cup_port *port, const struct cup_event *event)
{
    (void)port;
    if (!OWED_IS_TOLD && (event->cause.reason == CUP_REASON_MISSED ||
                          event->cause.reason == CUP_REASON_UNTIL_STANDS))
        return;
    events++;
    mix(event->t_ms);
    mix(event->of == CUP_NONE ? 255 : event->of);
    mix(event->kind);
    mix(event->cause.reason);
    mix(event->cause.about == CUP_NONE ? 255 : event->cause.about);
    mix((uint32_t)event->cause.value);
    mix((uint32_t)event->cause.limit);
}

int main(void)
{
    now_ms = UINT32_MAX - 600000; /* it wraps on the way */
    for (pass = 0; pass < PASSES; pass++) {
        uint32_t luck = chance(pass, 77);
        uint32_t step = 1000 + luck % 7 * (luck >> 8) % 400;
        if (luck % 301 == 0)
            step = luck >> 12; /* up to 17 min */
        if (luck % 997 == 1)
            step = 0 - (luck >> 20); /* back by up to 4 s */
        now_ms += step;
        (void)!cup_port_pass(NULL, &baked);
    }
    printf("%08x %u samples %u events\n", (unsigned)sum, (unsigned)samples,
           (unsigned)events);
    return 0;
}
