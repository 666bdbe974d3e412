/* Sensors by themselves: bytes that end where they end, and checks to the last
 * count and millisecond. */
#include <string.h>

#include "../harness/edge.h"
#include "../harness/harness.h"
#include "cuplatch/sensor.h"
#include "cuplatch/tank.h"

/* A sensor of our own: what it says is the raw value, unless it has a curve. */
static const struct cup_knot straight[] = {{0, 0, 0, 1}, {65535, 0, 65535, 0}};
static const struct cup_curve same = {straight, 2, false};

struct bench {
    struct cup_sensor sensor;
    struct cup_checks checks;
    struct cup_sensor_state state;
    struct cup_tally_state tally;
    struct cup_checks_state memory;
    struct cup_stream_state stream;
    uint16_t cells[3];
    uint8_t order[3];
    struct cup_sensor_use use;
};

static void set_up(struct bench *bench, enum cup_form form)
{
    memset(bench, 0, sizeof(*bench));
    bench->sensor = (struct cup_sensor){
        CUP_SENSOR_ALONE,       .curve = &same,        .every_ms = 1000,
        .lost_after_ms = 60000, .highest = UINT16_MAX, .window = {1, 0},
        .form = (uint8_t)form};
    bench->use = (struct cup_sensor_use){.sensor = &bench->sensor,
                                         .state = &bench->state,
                                         .tally = &bench->tally,
                                         .cells = bench->cells,
                                         .order = bench->order};
    cup_sensor_boot(&bench->sensor, &bench->state, 0);
}

/* The same with checks, which are the caller's to set. */
static struct cup_checks *set_up_checks(struct bench *bench, enum cup_form form)
{
    set_up(bench, form);
    bench->checks.near = INT32_MIN;
    bench->sensor.checks = &bench->checks;
    bench->use.checks = &bench->memory;
    return &bench->checks;
}

static uint8_t hear(struct bench *bench, uint32_t now_ms, int32_t raw)
{
    cup_sensor_hear(&bench->use, now_ms, (struct cup_sample){.raw = raw});
    return bench->state.reading.reason;
}

static void hear_bytes(struct bench *bench, const void *bytes, size_t count)
{
    bool is_stream = bench->sensor.form == CUP_FORM_RANGE_BYTES ||
                     bench->sensor.form == CUP_FORM_RANGE_TEXT;
    cup_sensor_hear_bytes(&bench->use, is_stream ? &bench->stream : NULL, 1000,
                          edge_copy(bytes, count), count);
}

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
                {"R\r", CUP_REASON_BAD_FRAME, 0, 1},
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
    for (const char *text = "R123"; *text; text++) { /* byte by byte */
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

/* Checks */

/* 64 bits and a division say how far it may move. */
CASE(a_jump_is_judged_to_the_last_step)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < 20000 && !harness_failed(); i++) {
        struct bench bench;
        struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
        checks->jump_per_s = (uint32_t)chance_between(&chance, 1, 5000);
        uint32_t ms = (uint32_t)chance_between(&chance, 1, 9000);
        int32_t far = (int32_t)((uint64_t)checks->jump_per_s * ms / 1000);
        int way = chance_of(&chance, 50) ? 1 : -1;
        int32_t from = way > 0 ? 0 : UINT16_MAX;
        harness_at("%u a s, %u ms", checks->jump_per_s, ms);
        CHECK_INT(hear(&bench, 0, from), CUP_REASON_NOT_READY);
        CHECK_INT(hear(&bench, 1, from), CUP_REASON_NONE);
        struct bench other = bench;
        other.use.state = &other.state;
        other.use.checks = &other.memory;
        other.use.cells = other.cells;
        other.use.order = other.order;
        CHECK_INT(hear(&bench, 1 + ms, from + way * far), CUP_REASON_NONE);
        CHECK_INT(hear(&other, 1 + ms, from + way * (far + 1)),
                  CUP_REASON_JUMP);
    }
    harness_at(NULL);
}

/* Values as far apart as a unit allows, at any rate that can be said: exact up
 * to what 32 bits can hold, and never less than that. */
#define FAR_POINTS 33
#define FAR_STEP (INT32_C(1) << 26)

static void make_far(struct cup_knot *knots)
{
    struct cup_point points[FAR_POINTS];
    for (int32_t i = 0; i < FAR_POINTS; i++)
        points[i] =
            (struct cup_point){(uint16_t)(i * 2000), (i - 16) * FAR_STEP};
    CHECK_INT(cup_curve_make(knots, points, FAR_POINTS, true), CUP_OK);
}

static void check_reach(const struct cup_curve *far, uint32_t per_s,
                        uint32_t ms, uint16_t raw)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_COUNTS)->jump_per_s = per_s;
    bench.sensor.curve = far;
    bench.sensor.lost_after_ms = UINT32_MAX;
    hear(&bench, 0, 0);
    hear(&bench, 0, 0);
    uint64_t gap = (uint64_t)((int64_t)cup_curve_value(far, raw) -
                              cup_curve_value(far, 0));
    bool may = gap <= (uint64_t)per_s * ms / 1000;
    CHECK_INT(hear(&bench, ms, raw), may ? CUP_REASON_NONE : CUP_REASON_JUMP);
}

CASE(a_jump_is_judged_at_any_rate)
{
    struct cup_knot knots[FAR_POINTS];
    const struct cup_curve far = {knots, FAR_POINTS, true};
    struct chance chance = chance_from(harness_seed());
    make_far(knots);
    for (int i = 0; i < 60000 && !harness_failed(); i++) {
        uint32_t per_s = chance_bits(&chance) >> chance_between(&chance, 0, 12);
        uint32_t ms = (uint32_t)chance_between(&chance, 1, 1 << 20) >>
                      chance_between(&chance, 0, 20);
        uint16_t raw = (uint16_t)chance_between(&chance, 0, 64000);
        harness_at("%u a s, %u ms, raw %d", per_s, ms, raw);
        check_reach(&far, per_s + (per_s == 0), ms, raw);
    }
    harness_at(NULL);
    for (uint32_t s = 1; s < 9; s++) /* where it would just come round */
        for (uint32_t rest = 1; rest < 1000; rest += 37) {
            uint32_t ms = s * 1000 + rest;
            uint32_t per_s = (uint32_t)(((uint64_t)1 << 32) * 1000 / ms);
            for (uint32_t by = 0; by < 3; by++)
                check_reach(&far, per_s - 1 + by, ms, 64000);
        }
}

/* As far as the value can go at all, and as fast as can be said. */
CASE(no_rate_is_so_high_that_it_comes_round_to_low)
{
    static const struct {
        uint32_t per_s;
        uint32_t ms;
    } rows[] = {{UINT32_MAX, 1000},        {UINT32_MAX, 1},
                {UINT32_MAX, 999},         {UINT32_MAX / 2, 1000},
                {UINT32_MAX / 2, 1999},    {UINT32_MAX / 2 + 1, 2000},
                {UINT32_MAX / 3, 2999},    {UINT32_MAX / 3 + 1, 2999},
                {UINT32_MAX / 4, 3999},    {UINT32_MAX / 4 + 1, 4000},
                {UINT32_MAX / 5 + 1, 5000}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct bench bench;
        struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
        harness_at("row %zu", i);
        checks->jump_per_s = rows[i].per_s;
        hear(&bench, 0, 0);
        hear(&bench, 1, 0);
        CHECK_INT(hear(&bench, 1 + rows[i].ms, UINT16_MAX), CUP_REASON_NONE);
    }
    harness_at(NULL);
}

/* Two that agree make the first reference; one that was lost is forgotten. */
CASE(a_first_sample_needs_a_second_that_agrees)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->jump_per_s = 10;
    CHECK_INT(hear(&bench, 0, 5000), CUP_REASON_NOT_READY); /* a ghost */
    CHECK_INT(hear(&bench, 1000, 100), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 2000, 110), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 3000, 5000), CUP_REASON_JUMP);
    CHECK_INT(hear(&bench, 4000, 5000), CUP_REASON_JUMP);
    CHECK_INT(hear(&bench, 5000, 120), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 65000, 4000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 66000, 4000), CUP_REASON_NONE);
    set_up_checks(&bench, CUP_FORM_COUNTS)->jump_per_s = 10;
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NOT_READY); /* no reference yet */
}

CASE(what_does_not_move_by_one_count_is_stuck_at_its_time)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->stuck_ms = 500;
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 499, 0), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 500, 0), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 501, 0), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 600, 1), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1099, 1), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1100, 1), CUP_REASON_STUCK);
    /* it stays stuck, though the clock goes all the way round */
    uint32_t half = UINT32_C(1) << 31;
    bench.sensor.lost_after_ms = UINT32_MAX;
    CHECK_INT(hear(&bench, 1100 + half, 1), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 1100, 1), CUP_REASON_STUCK);
    CHECK_INT(hear(&bench, 1700, 1), CUP_REASON_STUCK);
    checks->stuck_ms = 1;
    CHECK_INT(hear(&bench, 1701, 2), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1701, 2), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 1702, 2), CUP_REASON_STUCK);
    checks->stuck_ms = 0;
    CHECK_INT(hear(&bench, 9000, 2), CUP_REASON_NONE);
}

/* Checks that are asked for together do not see each other's notes. */
CASE(checks_together_work_as_each_alone)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->jump_per_s = 10;
    checks->stuck_ms = 100000;
    checks->band = 5;
    checks->steady_ms = 5000;
    CHECK_INT(hear(&bench, 0, 5000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 1000, 100), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 2000, 110), CUP_REASON_NONE);
    CHECK_INT(bench.memory.shown, 110);
    CHECK_INT(hear(&bench, 3000, 111), CUP_REASON_NONE);
    CHECK_INT(bench.memory.shown, 110);
}

CASE(what_is_too_near_is_not_measured)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_COUNTS)->near = 200;
    CHECK_INT(hear(&bench, 0, 199), CUP_REASON_NEAR);
    CHECK_INT(hear(&bench, 0, 200), CUP_REASON_NONE);
}

CASE(a_switch_has_changed_once_it_stayed_changed)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_SWITCH);
    checks->debounce_ms = 50;
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t value;
    } rows[] = {{0, 1, 1},   {10, 0, 1},  {20, 1, 1},  {30, 0, 1},
                {79, 0, 1},  {80, 0, 0},  {100, 1, 0}, {149, 1, 0},
                {150, 1, 1}, {151, 0, 1}, {200, 0, 1}, {201, 0, 0}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(hear(&bench, rows[i].at_ms, rows[i].raw), CUP_REASON_NONE);
        CHECK_INT(bench.state.reading.value, rows[i].value);
        CHECK_INT(cup_sensor_value(&bench.sensor, &bench.state), rows[i].value);
    }
    harness_at(NULL);
    set_up_checks(&bench, CUP_FORM_SWITCH)->debounce_ms = 50;
    hear(&bench, 0, 0); /* the first is known as it is */
    CHECK_INT(hear(&bench, 1, 1), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 0);
}

CASE(pulses_are_counted_between_two_answers)
{
    struct bench bench;
    set_up_checks(&bench, CUP_FORM_PULSES);
    CHECK_INT(hear(&bench, 0, 65000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 0, 65000), CUP_REASON_NOT_READY);
    CHECK_INT(hear(&bench, 1000, 65100), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 100);
    CHECK_INT(hear(&bench, 2000, 64), CUP_REASON_NONE); /* round the end */
    CHECK_INT(bench.state.reading.value, 500);
    CHECK_INT(hear(&bench, 4000, 64 + 300), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 150);
    CHECK_INT(hear(&bench, 4001, 64 + 301), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 1000);
    CHECK_INT(hear(&bench, 4002, 64 + 301 + 65), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 65000);
    CHECK_INT(hear(&bench, 4003, 64 + 301 + 65 + 66), CUP_REASON_NONE);
    CHECK_INT(bench.state.reading.value, 65535);
}

/* What is shown follows once the value stayed within its band. */
CASE(what_is_shown_moves_when_the_value_is_steady)
{
    struct bench bench;
    struct cup_checks *checks = set_up_checks(&bench, CUP_FORM_COUNTS);
    checks->band = 10;
    checks->steady_ms = 100;
    static const struct {
        uint32_t at_ms;
        int32_t raw;
        int32_t shown;
    } rows[] = {{0, 500, 500},   {10, 505, 500},   {99, 510, 500},
                {100, 510, 510}, {199, 520, 510},  {200, 520, 520},
                {210, 531, 520}, {309, 541, 520},  {310, 521, 521},
                {320, 510, 521}, {330, 499, 521},  {429, 499, 521},
                {430, 489, 489}, {70000, 700, 700}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(hear(&bench, rows[i].at_ms, rows[i].raw), CUP_REASON_NONE);
        CHECK_INT(bench.memory.shown, rows[i].shown);
    }
    harness_at(NULL);
    checks->steady_ms = 1;
    hear(&bench, 70010, 705);
    CHECK_INT(bench.memory.shown, 705);
    checks->steady_ms = 0;
    hear(&bench, 70011, 900);
    CHECK_INT(bench.memory.shown, 900);
}

/* Readings */

CASE(a_raw_value_is_plausible_from_its_lowest_to_its_highest)
{
    struct bench bench;
    static const struct {
        int32_t raw;
        uint8_t reason;
    } rows[] = {{-31, CUP_REASON_IMPLAUSIBLE},  {-30, CUP_REASON_IMPLAUSIBLE},
                {-21, CUP_REASON_IMPLAUSIBLE},  {-20, CUP_REASON_NONE},
                {70, CUP_REASON_NONE},          {71, CUP_REASON_IMPLAUSIBLE},
                {70000, CUP_REASON_IMPLAUSIBLE}};
    set_up(&bench, CUP_FORM_COUNTS);
    bench.sensor.offset = -30;
    bench.sensor.lowest = 10;
    bench.sensor.highest = 100;
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("%d", (int)rows[i].raw);
        CHECK_INT(hear(&bench, 0, rows[i].raw), rows[i].reason);
    }
    harness_at(NULL);
    CHECK_INT(bench.tally.rejected[CUP_REASON_IMPLAUSIBLE - 1], 5);
    CHECK_INT(bench.state.latest, 100);
    bench.sensor.offset = INT32_MAX; /* what would come round to 1 */
    bench.sensor.lowest = 0;
    CHECK_INT(hear(&bench, 0, INT32_MIN), CUP_REASON_IMPLAUSIBLE);
    set_up(&bench, CUP_FORM_ECHO);
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NO_ANSWER);
    CHECK_INT(hear(&bench, 0, 1), CUP_REASON_NONE);
    set_up(&bench, CUP_FORM_LOOP);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_LOW_UA - 1), CUP_REASON_FAULT);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_LOW_UA), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_HIGH_UA), CUP_REASON_NONE);
    CHECK_INT(hear(&bench, 0, CUP_LOOP_HIGH_UA + 1), CUP_REASON_FAULT);
    set_up(&bench, CUP_FORM_COUNTS);
    CHECK_INT(hear(&bench, 0, 0), CUP_REASON_NONE);
}

CASE(rejects_are_counted_by_their_reason_and_no_further_than_they_can)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_COUNTS);
    for (unsigned reason = 1; reason < 256; reason++) {
        struct cup_sample sample = {.reject = (uint8_t)reason};
        unsigned counted =
            reason <= CUP_REJECTS ? reason : (unsigned)CUP_REASON_NO_ANSWER;
        uint16_t before = bench.tally.rejected[counted - 1];
        harness_at("reason %u", reason);
        cup_sensor_hear(&bench.use, 0, sample);
        CHECK_INT(bench.tally.rejected[counted - 1], before + 1);
        CHECK_INT(bench.state.reading.reason, counted);
    }
    harness_at(NULL);
    bench.tally.rejected[0] = UINT16_MAX - 1;
    cup_sensor_hear(&bench.use, 0, (struct cup_sample){.reject = 1});
    CHECK_INT(bench.tally.rejected[0], UINT16_MAX);
    cup_sensor_hear(&bench.use, 0, (struct cup_sample){.reject = 1});
    CHECK_INT(bench.tally.rejected[0], UINT16_MAX);
}

CASE(a_reading_is_good_then_held_then_lost)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_COUNTS);
    bench.sensor.window = (struct cup_window){1, 0};
    bench.sensor.lost_after_ms = 100;
    const struct cup_reading *reading = &bench.state.reading;
    CHECK_INT(reading->quality, CUP_QUALITY_HELD);
    CHECK_INT(cup_sensor_age(&bench.sensor, &bench.state, 40), 60);
    CHECK(!cup_usable(*reading));
    hear(&bench, 50, 7);
    CHECK_INT(reading->quality, CUP_QUALITY_GOOD);
    CHECK(cup_usable(*reading) && cup_fresh(*reading));
    cup_sensor_hear(&bench.use, 60, (struct cup_sample){.reject = 1});
    CHECK_INT(reading->quality, CUP_QUALITY_HELD);
    CHECK(cup_usable(*reading) && cup_fresh(*reading));
    CHECK_INT(cup_sensor_age(&bench.sensor, &bench.state, 149), 1);
    CHECK(cup_usable(*reading));
    CHECK(cup_sensor_age(&bench.sensor, &bench.state, 150) == UINT32_MAX);
    CHECK_INT(reading->quality, CUP_QUALITY_LOST);
    CHECK(!cup_usable(*reading) && !cup_fresh(*reading));
    CHECK_INT(bench.state.window.count, 0);
    CHECK(cup_sensor_age(&bench.sensor, &bench.state, 70) == UINT32_MAX);
    cup_sensor_hear(&bench.use, 160, (struct cup_sample){.reject = 1});
    CHECK_INT(reading->quality, CUP_QUALITY_LOST);
}

/* With a thermometer an echo's own law counts, not its curve. */
CASE(an_echo_is_corrected_by_the_air_where_its_warmth_is_known)
{
    struct bench bench;
    set_up(&bench, CUP_FORM_ECHO);
    bench.use.air_cdeg = 4000;
    hear(&bench, 0, 10000);
    CHECK_INT(bench.state.reading.value, 10000);
    bench.sensor.air = 0;
    hear(&bench, 0, 10000);
    CHECK_INT(bench.state.reading.value, 17777); /* 355.54 m/s */
    CHECK_INT(cup_sensor_convert(&bench.use, 5000), 8889);
}

/* What was in the window is too old once the reading would be lost. */
CASE(a_window_is_emptied_by_a_silence_of_just_that_long)
{
    for (uint32_t gap = 99; gap <= 101; gap++) {
        struct bench bench;
        set_up(&bench, CUP_FORM_COUNTS);
        bench.sensor.window = (struct cup_window){3, 1};
        bench.sensor.lost_after_ms = 100;
        harness_at("%u ms", (unsigned)gap);
        hear(&bench, 10, 4);
        hear(&bench, 10 + gap, 8);
        CHECK_INT(bench.state.window.count, gap < 100 ? 2 : 1);
        CHECK_INT(bench.state.reading.value, gap < 100 ? 6 : 8);
    }
    harness_at(NULL);
}
