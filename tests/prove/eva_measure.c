/* Measuring with arbitrary bytes, samples and settings within their limits, for
 * Eva: nothing undefined, nothing out of bounds. */
#include "__fc_builtin.h"

#include "cuplatch/curve.h"
#include "cuplatch/decode.h"
#include "cuplatch/span.h"

static uint32_t any(void)
{
    return Frama_C_unsigned_int_interval(0, UINT32_MAX);
}

static uint8_t any_byte(void)
{
    return Frama_C_unsigned_char_interval(0, 255);
}

static void frames(void)
{
    uint8_t bytes[40];
    size_t count = Frama_C_interval(0, 40);
    Frama_C_make_unknown((char *)bytes, sizeof(bytes));
    cup_crc8(bytes, count);
    cup_crc16(bytes, count);
    cup_crc32(any(), bytes, count);
    cup_temp9(bytes, count, any_byte() & 1);
    cup_range_word(bytes, count);
    cup_loop((int32_t)any());
    cup_pulse40(bytes, count, CUP_PULSE40_HUMIDITY, CUP_PULSE40_WHOLE);
    cup_pulse40(bytes, count, CUP_PULSE40_TEMPERATURE, CUP_PULSE40_TENTHS);
    uint8_t request[CUP_MODBUS_REQUEST];
    if (cup_modbus_request(request, any_byte(), CUP_MODBUS_INPUT,
                           (uint16_t)any(), any_byte()))
        return;
    cup_modbus_answer(bytes, count, any_byte(), CUP_MODBUS_INPUT,
                      (uint8_t)Frama_C_interval(1, 17));
    cup_modbus_register(bytes, (uint8_t)Frama_C_interval(0, 17));
}

/* Bytes that begin anywhere; a stream has been anywhere before. */
static void streams(void)
{
    struct cup_stream_state range = {{0}, 0};
    struct cup_stream_state text = {{0}, 0};
    for (int i = 0; i < 40; i++) {
        cup_range_bytes(&range, any_byte());
        cup_range_text(&text, any_byte());
    }
}

static int32_t any_level(void)
{
    return Frama_C_interval(0, CUP_SPAN_FULL);
}

static void hear(struct cup_span *span, struct cup_span_state *state)
{
    uint8_t order[3] = {0, 1, 2};
    struct cup_window_state window = {.count = (uint8_t)Frama_C_interval(1, 3),
                                      .next = (uint8_t)Frama_C_interval(0, 2)};
    struct cup_span_sample sample = {
        .level = any_level(),
        .reading = any_level(),
        .shape = {.size = 3, .trim = (uint8_t)Frama_C_interval(0, 1)},
        .window = &window,
        .order = order};
    cup_span_hear(span, state, any(), &sample);
}

/* A level that anything is heard of, in any order. */
static void spans(void)
{
    struct cup_span span = {.believe_ms = any(),
                            .boot_ms = any(),
                            .lag_ms = any(),
                            .gains = any(),
                            .loses = any(),
                            .leap = Frama_C_interval(1, CUP_SPAN_FULL)};
    struct cup_span_state state;
    cup_span_boot(&state, any());
    for (int i = 0; i < 12; i++) {
        hear(&span, &state);
        cup_span_owes(&span, &state, any());
        if (any_byte() & 1)
            cup_span_brim(&span, &state, any());
        if (any_byte() & 1)
            cup_span_miss(&state, any());
        if (any_byte() & 1)
            cup_span_lose(&state);
        if (any_byte() & 1)
            cup_span_widen(&state, any_level(), any_level());
        if (any_byte() & 1)
            cup_span_believe(&state, any(), any_level(), CUP_SPAN_PERSON);
    }
}

int main(void)
{
    frames();
    streams();
    spans();
    cup_scale((uint16_t)any(), any(), any() | 1u);
    return 0;
}
