/* Bytes of a sensor into samples, by its form. */
#include "cuplatch/sensor.h"

#if CUP_USES_FRAMES

static struct cup_sample whole_frame(const struct cup_sensor_use *use,
                                     const uint8_t *bytes, size_t count)
{
    CUP_FLASH struct cup_sensor *sensor = use->sensor;
    bool fresh = !(use->state->reading.flags & CUP_READING_KNOWN) ||
                 CUP_IF(SUPPLIES, sensor->supply != CUP_NONE);
    switch (sensor->form) {
#define DECODES_NUMBER(name, decode)
#define DECODES_BLOCK(name, decode)
#define DECODES_STREAM(name, decode)
#define DECODES_FRAME(name, decode)                                            \
    case CUP_FORM_##name:                                                      \
        return decode;
#define X(name, code, arrives, unit, needs, signs, steps, value, decode)       \
    DECODES_##arrives(name, decode)
        CUP_FORMS(X)
#undef DECODES_FRAME
#undef DECODES_STREAM
    default:
        return (struct cup_sample){.reject = CUP_REASON_BAD_FRAME};
    }
}

static struct cup_heard next_byte(const struct cup_sensor_use *use,
                                  struct cup_stream_state *stream, uint8_t byte)
{
    switch (use->sensor->form) {
#define DECODES_FRAME(name, decode)
#define DECODES_STREAM(name, decode)                                           \
    case CUP_FORM_##name:                                                      \
        return decode(stream, byte);
        CUP_FORMS(X)
#undef X
    default:
        return (struct cup_heard){.dropped = true};
    }
}

static const struct cup_sample damaged = {.reject = CUP_REASON_BAD_FRAME};
static const struct cup_sample nothing = {.reject = CUP_REASON_NO_ANSWER};

void cup_sensor_hear_bytes(const struct cup_sensor_use *use,
                           struct cup_stream_state *stream, uint32_t now_ms,
                           const uint8_t *bytes, size_t count)
{
    if (count == 0 || !stream) {
        struct cup_sample sample =
            count == 0 ? nothing : whole_frame(use, bytes, count);
        cup_sensor_hear(use, now_ms, sample);
        return;
    }
    struct cup_sample last = nothing;
    for (size_t i = 0; i < count; i++) {
        struct cup_heard heard = next_byte(use, stream, bytes[i]);
        if (heard.dropped)
            cup_sensor_hear(use, now_ms, damaged);
        if (heard.complete)
            last = (struct cup_sample){.raw = heard.raw};
        else if (heard.dropped && last.reject != CUP_REASON_NONE)
            last = damaged;
    }
    if (last.reject != CUP_REASON_BAD_FRAME)
        cup_sensor_hear(use, now_ms, last);
}

#endif
