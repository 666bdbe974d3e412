/* Frames and streams: bytes are read to where they end, and no further. */
#include "alone.h"

/* Frames */

static const uint8_t pad[9] = {0x50, 0x05, 0xC3, 0x5A, 0x11,
                               0xE7, 0x2D, 0x94, 0x08};
static const uint8_t forty[5] = {0x02, 0x47, 0x00, 0xD9, 0x22};
static const uint8_t word[2] = {0x04, 0xFA};

CASE(whole_frames_are_read_to_their_end_and_no_further)
{
    static const struct {
        enum cup_form form;
        const uint8_t *bytes;
        size_t count;
        int32_t raw;
    } frames[] = {{CUP_FORM_TEMP9, pad, sizeof(pad), 1360},
                  {CUP_FORM_PULSE40, forty, sizeof(forty), 583},
                  {CUP_FORM_RANGE_WORD, word, sizeof(word), 1274}};
    uint8_t longer[10] = {0};
    for (size_t i = 0; i < sizeof(frames) / sizeof(frames[0]); i++) {
        struct bench bench;
        memcpy(longer, frames[i].bytes, frames[i].count);
        for (size_t count = 0; count <= sizeof(longer); count++) {
            harness_at("frame %zu, %zu bytes", i, count);
            set_up(&bench, frames[i].form);
            bench.state.reading.flags = CUP_READING_KNOWN;
            hear_bytes(&bench, longer, count);
            CHECK_INT(bench.state.reading.reason,
                      count == frames[i].count ? CUP_REASON_NONE
                      : count == 0             ? CUP_REASON_NO_ANSWER
                                               : CUP_REASON_BAD_FRAME);
            if (count == frames[i].count)
                CHECK_INT(bench.state.reading.value, frames[i].raw);
        }
        memset(longer, 0, sizeof(longer));
    }
    harness_at(NULL);
}

/* Any one byte of zeros is not a wire held low. */
CASE(a_frame_of_zeros_but_for_one_byte_is_judged_by_its_sum)
{
    for (size_t i = 0; i < sizeof(forty) - 1; i++) {
        uint8_t frame[5] = {0};
        harness_at("byte %zu", i);
        frame[i] = frame[4] = 1;
        CHECK_INT(cup_pulse40(edge_copy(frame, 5), 5, CUP_PULSE40_HUMIDITY,
                              CUP_PULSE40_TENTHS)
                      .reject,
                  CUP_REASON_NONE);
    }
    for (size_t i = 0; i < 8; i++) {
        uint8_t frame[9] = {0};
        harness_at("byte %zu", i);
        frame[i] = 1;
        frame[8] = cup_crc8(frame, 8);
        CHECK_INT(cup_temp9(edge_copy(frame, 9), 9, true).reject,
                  CUP_REASON_NONE);
    }
    harness_at(NULL);
}

CASE(a_wire_held_low_is_no_frame)
{
    static const uint8_t zeros[9] = {0};
    CHECK_INT(cup_temp9(edge_copy(zeros, 9), 9, false).reject,
              CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_pulse40(edge_copy(zeros, 5), 5, CUP_PULSE40_HUMIDITY,
                          CUP_PULSE40_TENTHS)
                  .reject,
              CUP_REASON_BAD_FRAME);
}

CASE(a_thermometer_has_sixteen_bits_and_a_sign)
{
    static const struct {
        uint16_t word;
        int32_t raw;
    } rows[] = {{0x7FFF, 32767}, {0x8000, -32768}, {0xFFFF, -1}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        uint8_t frame[9] = {(uint8_t)rows[i].word,
                            (uint8_t)(rows[i].word >> 8)};
        frame[8] = cup_crc8(frame, 8);
        CHECK_INT(cup_temp9(frame, 9, false).raw, rows[i].raw);
    }
}

CASE(a_thermometer_is_not_ready_just_after_power_only)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_TEMP9);
    hear_bytes(&bench, pad, sizeof(pad));
    CHECK_INT(bench.state.reading.reason, CUP_REASON_NOT_READY);
    bench.state.reading.flags = CUP_READING_KNOWN;
    hear_bytes(&bench, pad, sizeof(pad));
    CHECK_INT(bench.state.reading.reason, CUP_REASON_NONE);
    bench.sensor.supply = 0; /* powered for this reading alone */
    hear_bytes(&bench, pad, sizeof(pad));
    CHECK_INT(bench.state.reading.reason, CUP_REASON_NOT_READY);
}

static void check_answer(const uint8_t *answer, size_t length, uint8_t count,
                         uint8_t reason)
{
    CHECK_INT(cup_modbus_answer(edge_copy(answer, length), length, 10,
                                CUP_MODBUS_HOLDING, count),
              reason);
}

static void close_frame(uint8_t *bytes, size_t length)
{
    uint16_t crc = cup_crc16(bytes, length - 2);
    bytes[length - 2] = (uint8_t)crc;
    bytes[length - 1] = (uint8_t)(crc >> 8);
}

CASE(a_modbus_answer_is_read_to_its_end_and_no_further)
{
    uint8_t answer[12] = {10, CUP_MODBUS_HOLDING, 2, 0x12, 0x34};
    uint8_t two[12] = {10, CUP_MODBUS_HOLDING, 4, 1, 2, 3, 4};
    uint8_t sorry[12] = {10, 0x83, 2};
    for (size_t length = 0; length <= sizeof(answer); length++) {
        uint8_t bytes[12];
        harness_at("%zu bytes", length);
        memcpy(bytes, answer, sizeof(bytes));
        if (length >= 2)
            close_frame(bytes, length);
        check_answer(bytes, length, 1,
                     length == 7 ? CUP_REASON_NONE : CUP_REASON_BAD_FRAME);
        memcpy(bytes, sorry, sizeof(bytes));
        if (length >= 2)
            close_frame(bytes, length);
        check_answer(bytes, length, 1,
                     length == 5 ? CUP_REASON_FAULT : CUP_REASON_BAD_FRAME);
    }
    harness_at(NULL);
    close_frame(answer, 7);
    check_answer(answer, 7, 2, CUP_REASON_BAD_FRAME);
    for (int byte = 5; byte < 7; byte++) { /* either half of the sum */
        answer[byte] ^= 0x10;
        check_answer(answer, 7, 1, CUP_REASON_BAD_FRAME);
        answer[byte] ^= 0x10;
    }
    close_frame(two, 9);
    check_answer(two, 9, 2, CUP_REASON_NONE);
    check_answer(two, 9, 1, CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_modbus_register(edge_copy(two, 7), 0), 0x0102);
    CHECK_INT(cup_modbus_register(edge_copy(two, 7), 1), 0x0304);
}

CASE(modbus_requests_are_made_at_their_limits)
{
    static const struct {
        uint8_t unit;
        uint16_t first;
        uint8_t count;
        bool made;
    } rows[] = {
        {1, 0, 1, true},       {0, 0, 1, false},       {247, 0, 1, true},
        {248, 0, 1, false},    {1, 0, 0, false},       {1, 0, 125, true},
        {1, 0, 126, false},    {1, 65535, 1, true},    {1, 65535, 2, false},
        {1, 65411, 125, true}, {1, 65412, 125, false}, {1, 65534, 2, true}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        uint8_t built[CUP_MODBUS_REQUEST];
        memset(built, 0xAA, sizeof(built));
        harness_at("row %zu", i);
        enum cup_error error =
            cup_modbus_request(built, rows[i].unit, CUP_MODBUS_INPUT,
                               rows[i].first, rows[i].count);
        CHECK_INT(error, rows[i].made ? CUP_OK : CUP_ERROR_RANGE);
        if (!rows[i].made)
            continue;
        CHECK_INT(built[0], rows[i].unit);
        CHECK_INT(built[1], CUP_MODBUS_INPUT);
        CHECK_INT(built[2] << 8 | built[3], rows[i].first);
        CHECK_INT(built[4] << 8 | built[5], rows[i].count);
        CHECK_INT(built[6] | built[7] << 8, cup_crc16(built, 6));
    }
    harness_at(NULL);
}

/* Streams */

/* What a stream of bytes came to: its value, and how many frames were bad. */
static void check_stream(enum cup_form form, const char *bytes, size_t count,
                         uint8_t reason, int32_t value, unsigned bad)
{
    struct bench bench;
    set_up(&bench, form);
    hear_bytes(&bench, bytes, count);
    CHECK_INT(bench.state.reading.reason, reason);
    CHECK_INT(bench.state.reading.value, value);
    CHECK_INT(bench.tally.rejected[CUP_REASON_BAD_FRAME - 1], bad);
}

CASE(the_last_good_frame_counts_and_every_bad_one_is_counted)
{
    static const struct {
        const char *text;
        uint8_t reason;
        int32_t value;
        unsigned bad;
    } rows[] = {{"", CUP_REASON_NO_ANSWER, 0, 0},
                {"K12", CUP_REASON_NO_ANSWER, 0, 0},
                {"K12\r", CUP_REASON_NONE, 12, 0},
                {"K12\rR13\r", CUP_REASON_NONE, 13, 0},
                {"K1x\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"K1x\rR2x\r", CUP_REASON_BAD_FRAME, 0, 2},
                {"K1x\rR13\r", CUP_REASON_NONE, 13, 1},
                {"K12\rR1x\r", CUP_REASON_NONE, 12, 1},
                {"K12\rR1x\rR14\rR1x", CUP_REASON_NONE, 14, 2},
                {"K\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"\r\r12\r", CUP_REASON_NO_ANSWER, 0, 0},
                {"K65535\r", CUP_REASON_NONE, 65535, 0},
                {"K65536\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"K012345\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"A1\r", CUP_REASON_NONE, 1, 0},
                {"Z1\r", CUP_REASON_NONE, 1, 0},
                {"a1\r", CUP_REASON_NONE, 1, 0},
                {"a9\r", CUP_REASON_NONE, 9, 0},
                {"z9\r", CUP_REASON_NONE, 9, 0},
                {"@9\r[9\r`9\r{9\r", CUP_REASON_NO_ANSWER, 0, 0},
                {"K9/\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"K9:\r", CUP_REASON_BAD_FRAME, 0, 1},
                {"K1xR12\rR13\n", CUP_REASON_NONE, 13, 1}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("%s", rows[i].text);
        check_stream(CUP_FORM_RANGE_TEXT, rows[i].text, strlen(rows[i].text),
                     rows[i].reason, rows[i].value, rows[i].bad);
    }
    harness_at(NULL);
    for (const char *text = "K123"; *text; text++) { /* byte by byte */
        harness_at("%s", text);
        check_stream(CUP_FORM_RANGE_TEXT, text, 1, CUP_REASON_NO_ANSWER, 0, 0);
    }
    harness_at(NULL);
    check_stream(CUP_FORM_RANGE_BYTES, "\xFF\x04\xFA\xFD", 4, CUP_REASON_NONE,
                 1274, 0);
    check_stream(CUP_FORM_RANGE_BYTES, "\xFF\x04\xFA\xFE", 4,
                 CUP_REASON_BAD_FRAME, 0, 1);
    check_stream(CUP_FORM_RANGE_BYTES, "\xFF\xFF\xFF\x00\x00\xFF", 6,
                 CUP_REASON_NONE, 0, 2);
}

/* A state that holds a whole frame is not one of ours: it begins anew. */
CASE(a_damaged_stream_begins_anew)
{
    struct cup_stream_state stream = {{0xFF, 0x04, 0xFA, 0xFD}, 4};
    static const uint8_t frame[] = {0xFF, 0x00, 0x26, 0x25};
    for (int i = 0; i < 4; i++) {
        struct cup_heard heard = cup_range_bytes(&stream, frame[i]);
        CHECK_INT(heard.complete, i == 3);
        CHECK_INT(heard.dropped, 0);
        if (heard.complete)
            CHECK_INT(heard.raw, 38);
    }
}
