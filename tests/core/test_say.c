/* Sentences, codes and steering words. */
#include <string.h>

#include "../harness/harness.h"
#include "cuplatch/say.h"

static const struct cup_sensor sensor = {.unit = CUP_UNIT_PERCENT};
static const struct cup_pump pump = {.hand_limit_ms = 600000};
static const char *const names[] = {"a-name-as-long-as-can-be",
                                    "another_name_as_long_too"};
static const struct cup_plan plan = {.sensors = &sensor,
                                     .sensor_count = 1,
                                     .pumps = &pump,
                                     .pump_count = 1,
                                     .names = names};

static const int32_t numbers[] = {
    0, 1, -1, 9999, INT32_MAX, INT32_MIN, CUP_TIME_MAX_MS};

CASE(every_sentence_fits_a_hundred_characters_with_the_longest_names)
{
    char text[400];
    for (uint8_t reason = 1; reason < CUP_REASON_COUNT; reason++)
        for (size_t i = 0; i < sizeof(numbers) / sizeof(numbers[0]); i++) {
            struct cup_cause cause = {numbers[i], numbers[i], 0, reason};
            for (int over = 0; over < 2; over++) {
                size_t length =
                    cup_say_cause(text, sizeof(text), &plan, 1, &cause, over);
                harness_at("%s: %s", cup_reason_code(reason), text);
                CHECK(length > 0 && length <= CUP_SENTENCE_MAX);
            }
        }
}

CASE(values_are_said_as_people_write_them)
{
    static const struct {
        int32_t value;
        uint8_t unit;
        const char *text;
    } said[] = {
        {3492, CUP_UNIT_PERCENT, "34.92 %"},
        {-5, CUP_UNIT_CELSIUS, "-0.05 C"},
        {12345, CUP_UNIT_MM, "1234.5 mm"},
        {101325, CUP_UNIT_PASCAL, "1.013 bar"},
        {7, CUP_UNIT_NONE, "7"},
        {0, CUP_UNIT_SECOND, "0 s"},
        {350, CUP_UNIT_SECOND, "350 ms"},
        {1500, CUP_UNIT_SECOND, "1.5 s"},
        {42000, CUP_UNIT_SECOND, "42 s"},
        {450000, CUP_UNIT_SECOND, "7m 30s"},
        {9000000, CUP_UNIT_SECOND, "2h 30m"},
        {1036800000, CUP_UNIT_SECOND, "12d"},
        {INT32_MIN, CUP_UNIT_MM, "-214748364.8 mm"},
        {25, CUP_UNIT_LITRE, "25 ml"},
        {0, CUP_UNIT_LITRE, "0 L"},
        {7854, CUP_UNIT_LITRE, "7.9 L"},
        {310499, CUP_UNIT_LITRE, "310 L"},
        {40, CUP_UNIT_FLOW, "40 ml/min"},
        {0, CUP_UNIT_FLOW, "0 L/min"},
        {2150, CUP_UNIT_FLOW, "2.150 L/min"},
        {-150, CUP_UNIT_KELVIN, "-1.50 C"},
    };
    char text[40];
    for (size_t i = 0; i < sizeof(said) / sizeof(said[0]); i++) {
        cup_say_value(text, sizeof(text), NULL, said[i].value, said[i].unit);
        CHECK_TEXT(text, said[i].text);
    }
}

CASE(a_plan_may_ask_for_us_units)
{
    static const struct {
        int32_t value;
        uint8_t unit;
        const char *text;
    } said[] = {
        {254, CUP_UNIT_MM, "1.00 in"},
        {-254, CUP_UNIT_MM, "-1.00 in"},
        {12345, CUP_UNIT_MM, "48.60 in"},
        {0, CUP_UNIT_CELSIUS, "32.0 F"},
        {-4000, CUP_UNIT_CELSIUS, "-40.0 F"},
        {2150, CUP_UNIT_CELSIUS, "70.7 F"},
        {200, CUP_UNIT_KELVIN, "3.6 F"},
        {101325, CUP_UNIT_PASCAL, "14.70 psi"},
        {3785, CUP_UNIT_LITRE, "1.0 gal"},
        {25, CUP_UNIT_LITRE, "0.007 gal"},
        {0, CUP_UNIT_LITRE, "0 gal"},
        {56000, CUP_UNIT_LITRE, "14.8 gal"},
        {560000, CUP_UNIT_LITRE, "148 gal"},
        {9000, CUP_UNIT_FLOW, "2.378 gal/min"},
        {3492, CUP_UNIT_PERCENT, "34.92 %"},
        {INT32_MIN, CUP_UNIT_CELSIUS, "-38654673.7 F"},
        {INT32_MAX, CUP_UNIT_MM, "8454660.03 in"},
    };
    static const struct cup_plan abroad = {.us = 1};
    char text[40];
    for (size_t i = 0; i < sizeof(said) / sizeof(said[0]); i++) {
        cup_say_value(text, sizeof(text), &abroad, said[i].value, said[i].unit);
        CHECK_TEXT(text, said[i].text);
    }
}

CASE(a_text_that_does_not_fit_is_cut_and_ended)
{
    char text[4] = "xxx";
    CHECK_INT(cup_say_value(text, sizeof(text), NULL, 3492, CUP_UNIT_PERCENT),
              3);
    CHECK_TEXT(text, "34.");
    CHECK_INT(cup_say_value(text, 0, NULL, 3492, CUP_UNIT_PERCENT), 0);
}

CASE(codes_differ_and_numbers_beyond_the_lists_have_none)
{
    for (uint8_t i = 0; i < CUP_REASON_COUNT; i++)
        for (uint8_t j = 0; j < i; j++)
            CHECK(strcmp(cup_reason_code(i), cup_reason_code(j)) != 0);
    CHECK_TEXT(cup_reason_code(CUP_REASON_COUNT), "");
    CHECK_TEXT(cup_kind_code(CUP_KIND_COUNT), "");
    CHECK_TEXT(cup_quality_code(CUP_QUALITY_LOST), "lost");
    CHECK_TEXT(cup_pump_code(CUP_PUMP_TRIPPED), "tripped");
    CHECK_TEXT(cup_mode_code(CUP_MODE_HAND), "hand");
    CHECK_TEXT(cup_error_text(CUP_ERROR_COUNT), "");
    CHECK_TEXT(cup_thing_name(&plan, CUP_NONE), "site");
    CHECK_TEXT(cup_thing_name(&plan, 9), "?");
}

static const struct cup_sensor no_sensor;
static const char *const pump_names[] = {"soil", "lift"};
static const struct cup_plan words_plan = {.sensors = &no_sensor,
                                           .sensor_count = 1,
                                           .pumps = &pump,
                                           .pump_count = 1,
                                           .names = pump_names};

CASE(steering_words_are_read)
{
    static const struct {
        const char *text;
        uint8_t verb;
        uint32_t ms;
    } right[] = {
        {"lift off", CUP_VERB_OFF, 0},
        {"  lift   auto ", CUP_VERB_AUTO, 0},
        {"lift hand 5m", CUP_VERB_HAND, 300000},
        {"lift hand 1h30m10s5ms", CUP_VERB_HAND, 5410005},
        {"lift clear", CUP_VERB_CLEAR, 0},
        {"lift off 2d", CUP_VERB_OFF, 172800000},
        {"site hold", CUP_VERB_HOLD, 0},
        {"site hold 12h", CUP_VERB_HOLD, 43200000},
        {"site go", CUP_VERB_GO, 0},
    };
    struct cup_word word;
    for (size_t i = 0; i < sizeof(right) / sizeof(right[0]); i++) {
        harness_at("%s", right[i].text);
        CHECK(cup_read_word(&words_plan, right[i].text, &word) == NULL);
        CHECK_INT(word.verb, right[i].verb);
        CHECK_INT(word.number, right[i].ms);
    }
}

CASE(wrong_words_are_told_what_is_wrong)
{
    static const char *const wrong[][2] = {
        {"", "expected a name and a word, such as: lift off"},
        {"lift", "expected a name and a word, such as: lift off"},
        {"lift jump",
         "expected hand, off, auto, clear, skip, hold, go, quiet, clock or "
         "is"},
        {"soil off", "there is no pump or duty of that name"},
        {"lift hold", "a pump or a duty takes hand, off, auto or clear, and "
                      "one that is timed skip"},
        {"lift skip", "only a flood or a timed duty has a next to skip"},
        {"lift off 99d",
         "expected for how long, 24d at most, such as: kale off 2d"},
        {"site hold off",
         "expected for how long, 24d at most, such as: kale off 2d"},
        {"site off", "the site takes hold, go, quiet or clock"},
        {"lift off now",
         "expected for how long, 24d at most, such as: kale off 2d"},
        {"lift off 2d now", "there are words left over"},
        {"lift hand", "hand needs a time with its unit, such as: lift hand 5m"},
        {"lift hand 5",
         "hand needs a time with its unit, such as: lift hand 5m"},
        {"lift hand 99999999999d",
         "hand needs a time with its unit, such as: lift hand 5m"},
        {"lift hand 5m 6m", "there are words left over"},
    };
    struct cup_word word;
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++)
        CHECK_TEXT(cup_read_word(&words_plan, wrong[i][0], &word), wrong[i][1]);
}
