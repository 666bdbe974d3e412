/* Rangers that send a stream: frames are found wherever they begin. */
#include "cuplatch/decode.h"

#define FRAME 4
#define HEADER 0xFF

/* Drops bytes until one is a header, at least the first. */
static void resynchronize(struct cup_stream_state *state)
{
    uint8_t from = 1;
    while (from < state->count && state->bytes[from] != HEADER)
        from++;
    uint8_t kept = (uint8_t)(state->count - from);
    for (uint8_t i = 0; i < kept; i++)
        state->bytes[i] = state->bytes[from + i];
    state->count = kept;
}

struct cup_heard cup_range_bytes(struct cup_stream_state *state, uint8_t byte)
{
    struct cup_heard heard = {0, 0, false};
    uint8_t *frame = state->bytes;
    if (state->count == 0 && byte != HEADER)
        return heard;
    if (state->count >= FRAME)
        state->count = 0; /* not ours: a caller's damage */
    frame[state->count++] = byte;
    if (state->count < FRAME)
        return heard;
    if ((uint8_t)(frame[0] + frame[1] + frame[2]) != frame[3]) {
        heard.dropped = 1;
        resynchronize(state);
        return heard;
    }
    heard.complete = true;
    heard.raw = cup_both(frame[1], frame[2]);
    state->count = 0;
    return heard;
}

static bool is_letter(uint8_t byte)
{
    return (byte >= 'A' && byte <= 'Z') || (byte >= 'a' && byte <= 'z');
}

static bool is_digit(uint8_t byte)
{
    return byte >= '0' && byte <= '9';
}

/* What `count` is while the rest of a line is passed over. */
#define SKIPPING CUP_STREAM_BYTES
#define DIGITS_MOST 5

/* The number of a line that has its letter and digits. */
static struct cup_heard end_of_line(struct cup_stream_state *state)
{
    struct cup_heard heard = {0, 0, false};
    uint8_t count = state->count;
    state->count = 0;
    if (count == 0 || count >= SKIPPING)
        return heard;
    for (uint8_t i = 1; i < count; i++)
        heard.raw = heard.raw * 10 + (state->bytes[i] - '0');
    heard.complete = count > 1 && heard.raw <= UINT16_MAX;
    heard.dropped = !heard.complete;
    return heard;
}

struct cup_heard cup_range_text(struct cup_stream_state *state, uint8_t byte)
{
    struct cup_heard heard = {0, 0, false};
    if (byte == '\r' || byte == '\n')
        return end_of_line(state);
    if (state->count >= SKIPPING)
        return heard;
    bool fits = state->count == 0
                    ? is_letter(byte)
                    : is_digit(byte) && state->count <= DIGITS_MOST;
    if (fits) {
        state->bytes[state->count++] = byte;
        return heard;
    }
    heard.dropped = state->count > 0;
    state->count = SKIPPING;
    return heard;
}

struct cup_sample cup_range_word(const uint8_t *bytes, size_t count)
{
    if (count != 2)
        return (struct cup_sample){.reject = CUP_REASON_BAD_FRAME};
    return (struct cup_sample){.raw = cup_both(bytes[0], bytes[1])};
}

struct cup_sample cup_word12(const uint8_t *bytes, size_t count)
{
    struct cup_sample sample = cup_range_word(bytes, count);
    if (sample.reject == CUP_REASON_NONE && (bytes[1] & 0x0F) != 0)
        sample.reject = CUP_REASON_FAULT;
    sample.raw >>= 4;
    return sample;
}
