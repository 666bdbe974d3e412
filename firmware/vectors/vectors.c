/* Plays a recording of raw values through a baked site and says one number
 * that stands for every output and event: it is the same on every part.
 *
 * A recording is bytes, numbers low byte first: the clock (4, in s since the
 * year 1970 began); then of each pass how many samples were heard (1), and of
 * each the sensor (1), the reason to reject it (1), its raw value (4). 255
 * samples is the end. Passes are a second apart. */
#include "target.h"

#include "cuplatch/port.h"

/* The baked site, unless the build names another. */
#ifndef SITE
extern const struct cup_site baked;
#define SITE (&baked)
#else
const struct cup_site *target_site(void);
#endif

/* A board that does not know the time is compared with a host that might. */
#ifndef NO_CLOCK
#define NO_CLOCK 0
#endif

#define FNV_PRIME UINT32_C(16777619)
#define FNV_BEGIN UINT32_C(2166136261)
#define END 255

static uint32_t hash = FNV_BEGIN;
static uint32_t passes;
static uint32_t events;

static void mix(uint32_t value, uint8_t bytes)
{
    while (bytes-- > 0) {
        hash = (hash ^ (value & 0xFF)) * FNV_PRIME;
        value >>= 8;
    }
}

static void take(void *self, const struct cup_event *event)
{
    const struct cup_cause *cause = &event->cause;
    (void)self;
    target_mark(TARGET_PAUSES);
    events++;
    mix(event->t_ms, 4);
    mix((uint32_t)cause->value, 4);
    mix((uint32_t)cause->limit, 4);
    mix(cause->about == CUP_NONE ? 255 : cause->about, 1);
    mix(cause->reason, 1);
    mix(event->of == CUP_NONE ? 255 : event->of, 1);
    mix(event->kind, 1);
    target_mark(TARGET_GOES_ON);
}

static uint32_t number(uint8_t bytes)
{
    uint32_t value = 0;
    for (uint8_t i = 0; i < bytes; i++)
        value |= (uint32_t)(target_next() & 0xFF) << (8 * i);
    return value;
}

/* What was heard in a pass is read first, so that reading does not count as
 * part of it. */
static struct {
    struct cup_sample sample;
    cup_index sensor;
} heards[16];
#if CUP_ALL_PLAIN
static uint8_t next;
static uint8_t end;
#endif

static void read_heards(int count)
{
    for (int i = 0; i < count; i++) {
        heards[i].sensor = (cup_index)target_next();
        heards[i].sample.reject = (uint8_t)target_next();
        heards[i].sample.raw = (int32_t)number(4);
    }
}

#if CUP_ALL_PLAIN
/* What comes next of those that were heard, if that is whom the site asks. */
static __attribute__((noinline)) struct cup_sample heard_of(cup_index sensor)
{
    mix(sensor, 1);
    if (next == end || heards[next].sensor != sensor)
        return (struct cup_sample){.reject = CUP_REASON_NO_ANSWER};
    return heards[next++].sample;
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    (void)port;
    target_mark(TARGET_PAUSES);
    struct cup_sample sample = heard_of(sensor);
    target_mark(TARGET_GOES_ON);
    return sample;
}

static void ask(uint32_t now_ms, int heard)
{
    next = 0;
    end = (uint8_t)heard;
    (void)!cup_port_ask(NULL, SITE, now_ms);
}
#else
static void ask(uint32_t now_ms, int heard)
{
    struct cup_want want;
    while (cup_site_ask(SITE, now_ms, &want)) {
        target_mark(TARGET_PAUSES);
        mix(want.index, 1);
        target_mark(TARGET_GOES_ON);
    }
    for (int i = 0; i < heard; i++)
        cup_site_hear(SITE, heards[i].sensor, now_ms, heards[i].sample);
}
#endif

static void pass(uint32_t now_ms, int heard)
{
    static const struct cup_sink sink = {take, NULL};
    read_heards(heard);
    target_mark(TARGET_BEGINS);
    ask(now_ms, heard);
    cup_site_decide(SITE, now_ms, &sink);
    target_mark(TARGET_OVER);
    for (cup_index i = 0; i < SITE->plan->pump_count; i++)
        mix(cup_site_place(SITE, i, NULL), 2);
    passes++;
}

static char *put_hex(char *at, uint32_t value)
{
    for (int8_t shift = 28; shift >= 0; shift -= 4)
        *at++ = "0123456789abcdef"[value >> shift & 0xF];
    *at++ = ' ';
    return at;
}

/* The sum, then how many passes and events, all in hexadecimal. */
static void say(void)
{
    char line[32];
    put_hex(put_hex(put_hex(line, hash), passes), events)[-1] = '\0';
    target_say(line);
}

int main(void)
{
    struct cup_word word = {.verb = CUP_VERB_CLOCK, .number = number(4)};
    int heard = target_next();
    int code = 0;
    if (CUP_USES_CLOCK && !NO_CLOCK)
        code = cup_site_steer(SITE, 0, &word) != CUP_OK;
    for (uint32_t now_ms = 0; heard >= 0 && heard <= 16; now_ms += 1000) {
        pass(now_ms, heard);
        heard = target_next();
    }
    say();
    target_exit(code || heard != END);
    return code;
}
