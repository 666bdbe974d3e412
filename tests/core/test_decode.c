/* Decoders against frames that were worked out by hand, and against noise. */
#include <math.h>
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/decode.h"
#include "cuplatch/echo.h"

static const uint8_t digits[] = "123456789";

CASE(sums_of_nine_digits_are_those_of_their_definition)
{
    CHECK_INT(cup_crc16(digits, 9), 0x4B37);
    CHECK_INT(cup_crc8(digits, 9), 0xA1);
}

/* A register counts sixteenths of a degree, in two's complement. */
CASE(nine_bytes_give_their_temperature)
{
    static const struct {
        uint16_t word;
        int32_t sixteenths;
    } known[] = {{0x0137, 311},  {0xFFC6, -58}, {0x0000, 0},   {0x0550, 1360},
                 {0x0001, 1},    {0xFFFF, -1},  {0x029C, 668}, {0xFEE8, -280},
                 {0x03F5, 1013}, {0xFD80, -640}};
    for (size_t i = 0; i < sizeof(known) / sizeof(known[0]); i++) {
        uint8_t pad[9] = {(uint8_t)known[i].word,
                          (uint8_t)(known[i].word >> 8),
                          0xC3,
                          0x5A,
                          0x11,
                          0xE7,
                          0x2D,
                          0x94,
                          0};
        pad[8] = cup_crc8(pad, 8);
        struct cup_sample sample = cup_temp9(pad, 9, false);
        CHECK_INT(sample.reject, CUP_REASON_NONE);
        CHECK_INT(sample.raw, known[i].sixteenths);
        for (int bit = 0; bit < 72; bit++) {
            pad[bit / 8] ^= (uint8_t)(1 << bit % 8);
            CHECK_INT(cup_temp9(pad, 9, false).reject, CUP_REASON_BAD_FRAME);
            pad[bit / 8] ^= (uint8_t)(1 << bit % 8);
        }
        CHECK_INT(cup_temp9(pad, 8, false).reject, CUP_REASON_BAD_FRAME);
    }
}

CASE(eighty_five_straight_after_power_up_is_not_ready)
{
    uint8_t pad[9] = {0x50, 0x05, 0xC3, 0x5A, 0x11, 0xE7, 0x2D, 0x94, 0x08};
    CHECK_INT(cup_crc8(pad, 8), 0x08);
    CHECK_INT(cup_temp9(pad, 9, true).reject, CUP_REASON_NOT_READY);
    CHECK_INT(cup_temp9(pad, 9, false).raw, 1360);
    memset(pad, 0, sizeof(pad));
    CHECK_INT(cup_temp9(pad, 9, false).reject, CUP_REASON_BAD_FRAME);
}

CASE(forty_bits_in_both_scalings)
{
    static const uint8_t tenths[] = {0x02, 0x47, 0x00, 0xD9, 0x22};
    static const uint8_t frost[] = {0x02, 0xCC, 0x80, 0x31, 0x7F};
    static const uint8_t whole[] = {0x3D, 0x00, 0x13, 0x07, 0x57};
    static const uint8_t whole_frost[] = {0x3D, 0x00, 0x06, 0x82, 0xC5};
    static const struct {
        const uint8_t *frame;
        enum cup_pulse40_scale scale;
        int32_t humidity;
        int32_t temperature;
    } known[] = {{tenths, CUP_PULSE40_TENTHS, 583, 217},
                 {frost, CUP_PULSE40_TENTHS, 716, -49},
                 {whole, CUP_PULSE40_WHOLE, 610, 197},
                 {whole_frost, CUP_PULSE40_WHOLE, 610, -62}};
    for (size_t i = 0; i < sizeof(known) / sizeof(known[0]); i++) {
        uint8_t frame[5];
        memcpy(frame, known[i].frame, 5);
        CHECK_INT(
            cup_pulse40(frame, 5, CUP_PULSE40_HUMIDITY, known[i].scale).raw,
            known[i].humidity);
        CHECK_INT(
            cup_pulse40(frame, 5, CUP_PULSE40_TEMPERATURE, known[i].scale).raw,
            known[i].temperature);
        frame[4]++;
        CHECK_INT(
            cup_pulse40(frame, 5, CUP_PULSE40_HUMIDITY, known[i].scale).reject,
            CUP_REASON_BAD_FRAME);
    }
}

/* Unit 42, registers 310 to 312. */
CASE(a_modbus_request_and_its_answer)
{
    static const uint8_t request[] = {0x2A, 0x03, 0x01, 0x36,
                                      0x00, 0x03, 0xE2, 0x22};
    uint8_t built[CUP_MODBUS_REQUEST];
    CHECK_INT(cup_modbus_request(built, 42, CUP_MODBUS_HOLDING, 310, 3),
              CUP_OK);
    CHECK_INT(memcmp(built, request, sizeof(request)), 0);
    static const uint8_t answer[] = {0x2A, 0x03, 0x06, 0x13, 0x8A, 0x27,
                                     0xF0, 0x5C, 0x01, 0xA2, 0xBF};
    CHECK_INT(cup_modbus_answer(answer, 11, 42, CUP_MODBUS_HOLDING, 3),
              CUP_REASON_NONE);
    CHECK_INT(cup_modbus_register(answer, 0), 0x138A);
    CHECK_INT(cup_modbus_register(answer, 2), 0x5C01);
    CHECK_INT(cup_modbus_answer(answer, 11, 41, CUP_MODBUS_HOLDING, 3),
              CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_modbus_answer(answer, 11, 42, CUP_MODBUS_INPUT, 3),
              CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_modbus_answer(answer, 11, 42, CUP_MODBUS_HOLDING, 2),
              CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_modbus_answer(answer, 10, 42, CUP_MODBUS_HOLDING, 3),
              CUP_REASON_BAD_FRAME);
}

CASE(a_modbus_exception_is_a_fault_of_the_unit)
{
    uint8_t answer[] = {0x37, 0x83, 0x02, 0, 0};
    uint16_t crc = cup_crc16(answer, 3);
    answer[3] = (uint8_t)crc;
    answer[4] = (uint8_t)(crc >> 8);
    CHECK_INT(cup_modbus_answer(answer, 5, 55, CUP_MODBUS_HOLDING, 7),
              CUP_REASON_FAULT);
    answer[4] ^= 1;
    CHECK_INT(cup_modbus_answer(answer, 5, 55, CUP_MODBUS_HOLDING, 7),
              CUP_REASON_BAD_FRAME);
}

CASE(modbus_requests_out_of_range_are_refused)
{
    uint8_t built[CUP_MODBUS_REQUEST];
    CHECK_INT(cup_modbus_request(built, 0, CUP_MODBUS_INPUT, 0, 1),
              CUP_ERROR_RANGE);
    CHECK_INT(cup_modbus_request(built, 1, (enum cup_modbus_function)6, 0, 1),
              CUP_ERROR_RANGE);
    CHECK_INT(cup_modbus_request(built, 248, CUP_MODBUS_INPUT, 0, 1),
              CUP_ERROR_RANGE);
    CHECK_INT(cup_modbus_request(built, 1, CUP_MODBUS_INPUT, 0, 126),
              CUP_ERROR_RANGE);
    CHECK_INT(cup_modbus_request(built, 1, CUP_MODBUS_INPUT, 65535, 2),
              CUP_ERROR_RANGE);
    CHECK_INT(cup_modbus_request(built, 1, CUP_MODBUS_INPUT, 65535, 1), CUP_OK);
}

struct counted {
    unsigned values;
    unsigned dropped;
    int32_t last;
};

static struct counted feed(struct cup_heard (*decode)(struct cup_stream_state *,
                                                      uint8_t),
                           const void *bytes, size_t count)
{
    struct cup_stream_state state = {{0}, 0};
    struct counted counted = {0, 0, -1};
    for (size_t i = 0; i < count; i++) {
        struct cup_heard heard = decode(&state, ((const uint8_t *)bytes)[i]);
        counted.dropped += heard.dropped;
        counted.values += heard.complete;
        if (heard.complete)
            counted.last = heard.raw;
    }
    return counted;
}

CASE(range_bytes_begin_anywhere_and_may_be_torn)
{
    static const struct {
        const char *what;
        uint8_t bytes[12];
        uint8_t count;
        unsigned values;
        unsigned dropped;
        int32_t last;
    } streams[] = {
        {"a frame", {0xFF, 0x04, 0xFA, 0xFD}, 4, 1, 0, 1274},
        {"two frames",
         {0xFF, 0x04, 0xFA, 0xFD, 0xFF, 0x00, 0x26, 0x25},
         8,
         2,
         0,
         38},
        {"the end of one first",
         {0xFA, 0xFD, 0xFF, 0x04, 0xFA, 0xFD},
         6,
         1,
         0,
         1274},
        {"a wrong sum", {0xFF, 0x04, 0xFA, 0xFE}, 4, 0, 1, -1},
        {"a wrong sum, then a frame",
         {0xFF, 0x04, 0xFA, 0xFE, 0xFF, 0x04, 0xFA, 0xFD},
         8,
         1,
         1,
         1274},
        {"a torn frame, then a frame",
         {0xFF, 0x04, 0xFF, 0x04, 0xFA, 0xFD},
         6,
         1,
         1,
         1274},
        {"headers in the distance", {0xFF, 0xFF, 0xFF, 0xFD}, 4, 1, 0, 65535},
        {"noise before",
         {0x00, 0x12, 0xFF, 0xFF, 0x00, 0x26, 0x25},
         7,
         1,
         1,
         38},
    };
    for (size_t i = 0; i < sizeof(streams) / sizeof(streams[0]); i++) {
        struct counted got =
            feed(cup_range_bytes, streams[i].bytes, streams[i].count);
        harness_at("%s", streams[i].what);
        CHECK_INT(got.values, streams[i].values);
        CHECK_INT(got.dropped, streams[i].dropped);
        CHECK_INT(got.last, streams[i].last);
    }
}

CASE(range_text_takes_a_letter_and_digits_to_the_end_of_a_line)
{
    static const struct {
        const char *text;
        unsigned values;
        unsigned dropped;
        int32_t last;
    } lines[] = {
        {"K0123\r", 1, 0, 123},
        {"K123\n", 1, 0, 123},
        {"K123\r\nK0456\r\n", 2, 0, 456},
        {"23\rK0456\r", 1, 0, 456},
        {"K\r", 0, 1, -1},
        {"K12x4\r", 0, 1, -1},
        {"K65535\r", 1, 0, 65535},
        {"K65536\r", 0, 1, -1},
        {"K123456\r", 0, 1, -1},
        {"KK012\r", 0, 1, -1},
        {"K 12\r", 0, 1, -1},
        {"\r\n\r\n", 0, 0, -1},
        {"K0123", 0, 0, -1},
    };
    for (size_t i = 0; i < sizeof(lines) / sizeof(lines[0]); i++) {
        struct counted got =
            feed(cup_range_text, lines[i].text, strlen(lines[i].text));
        harness_at("%s", lines[i].text);
        CHECK_INT(got.values, lines[i].values);
        CHECK_INT(got.dropped, lines[i].dropped);
        CHECK_INT(got.last, lines[i].last);
    }
}

CASE(a_range_word_has_two_bytes)
{
    static const uint8_t word[] = {0x12, 0x34, 0x56};
    CHECK_INT(cup_range_word(word, 2).raw, 0x1234);
    CHECK_INT(cup_range_word(word, 1).reject, CUP_REASON_BAD_FRAME);
    CHECK_INT(cup_range_word(word, 3).reject, CUP_REASON_BAD_FRAME);
}

CASE(a_word_of_twelve_bits_tells_how_it_is)
{
    static const uint8_t well[] = {0x7B, 0x20};
    CHECK_INT(cup_word12(well, 2).reject, CUP_REASON_NONE);
    CHECK_INT(cup_word12(well, 2).raw, 0x7B2);
    CHECK_INT(cup_word12(well, 1).reject, CUP_REASON_BAD_FRAME);
    for (uint8_t status = 1; status < 16; status++) {
        const uint8_t ill[] = {0x7B, (uint8_t)(0x20 | status)};
        CHECK_INT(cup_word12(ill, 2).reject, CUP_REASON_FAULT);
    }
}

CASE(a_loop_outside_ne43_is_a_fault)
{
    CHECK_INT(cup_loop(3599).reject, CUP_REASON_FAULT);
    CHECK_INT(cup_loop(3600).raw, 3600);
    CHECK_INT(cup_loop(21000).raw, 21000);
    CHECK_INT(cup_loop(21001).reject, CUP_REASON_FAULT);
    CHECK_INT(cup_loop(-5).reject, CUP_REASON_FAULT);
}

/* Dry air: 331.3 sqrt(1 + T / 273.15) m/s, as the tables have it. */
CASE(the_speed_of_sound_is_near_the_law_for_dry_air)
{
    for (int t = -10; t <= 40; t++) {
        double us = 20000;
        double table = 331.3 * sqrt(1 + t / 273.15) * us * 1e-6 / 2 * 1e4;
        double got = cup_echo_mm10((struct cup_mean){20000, 1}, t * 100, 0);
        harness_at("%d C", t);
        CHECK(fabs(got - table) < table * (t <= 25 ? 0.001 : 0.0025));
    }
}

CASE(echoes_are_exact_at_every_temperature)
{
    struct chance chance = chance_from(harness_seed());
    for (int32_t i = 0;
         i < HARNESS_ROUNDS(INT32_C(500000)) && !harness_failed(); i++) {
        uint8_t count = (uint8_t)chance_between(&chance, 1, 31);
        uint32_t sum = (uint32_t)chance_between(&chance, 0, 65535 * count);
        int32_t cdeg = chance_between(&chance, -5000, 8000);
        int64_t parts = INT64_C(10000000) * count;
        int64_t top = (int64_t)sum * (16565000 + 303 * cdeg);
        CHECK_INT(cup_echo_mm10((struct cup_mean){sum, count}, cdeg, 0),
                  (2 * top + parts) / (2 * parts));
        uint16_t lean = (uint16_t)chance_between(&chance, 0, 19195);
        double part = (1 - lean / 65536.0) * (double)top / (double)parts;
        harness_at("%d of 65536", lean);
        CHECK(fabs(cup_echo_mm10((struct cup_mean){sum, count}, cdeg, lean) -
                   part) < 0.51);
    }
}

/* Just past a whole tenth of a millimetre, where an estimate of the speed that
 * is a trifle high would be one step too far. */
CASE(echoes_just_past_a_step_are_exact)
{
    CHECK_INT(cup_echo_mm10((struct cup_mean){54007, 1}, 2719, 0), 93912);
    CHECK_INT(cup_echo_mm10((struct cup_mean){1024123, 16}, -3290, 0), 99648);
}

CASE(echoes_beyond_any_weather_are_taken_at_its_ends)
{
    struct cup_mean mean = {10000, 1};
    CHECK_INT(cup_echo_mm10(mean, INT32_MIN, 0), cup_echo_mm10(mean, -5000, 0));
    CHECK_INT(cup_echo_mm10(mean, INT32_MAX, 0), cup_echo_mm10(mean, 8000, 0));
}

/* Random bytes: whatever comes out of a stream had its frame in the stream. */
CASE(noise_never_makes_a_value_without_its_frame)
{
    struct chance chance = chance_from(harness_seed());
    struct cup_stream_state state = {{0}, 0};
    uint8_t last[4] = {0};
    unsigned values = 0;
    for (int32_t i = 0; i < HARNESS_ROUNDS(INT32_C(2000000)); i++) {
        uint8_t byte = (uint8_t)chance_bits(&chance);
        if (chance_of(&chance, 30))
            byte = 0xFF;
        memmove(last, last + 1, 3);
        last[3] = byte;
        struct cup_heard heard = cup_range_bytes(&state, byte);
        if (!heard.complete)
            continue;
        values++;
        CHECK_INT(last[0], 0xFF);
        CHECK_INT(heard.raw, last[1] * INT32_C(256) + last[2]);
        CHECK_INT((uint8_t)(last[0] + last[1] + last[2]), last[3]);
    }
    CHECK(values > HARNESS_ROUNDS(1000));
}
