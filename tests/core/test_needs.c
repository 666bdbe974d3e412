/* Several probes of one place, how far an output is driven, buttons. */
#include "cuplatch/button.h"
#include "cuplatch/several.h"
#include "cuplatch/speed.h"

#include "../harness/harness.h"

CASE(what_is_taken_of_several_probes)
{
    static const struct {
        enum cup_takes takes;
        uint8_t count;
        cup_value values[CUP_SEVERAL_MOST];
        cup_value together;
    } rows[] = {
        {CUP_TAKES_MEAN, 1, {-7}, -7},
        {CUP_TAKES_MEAN, 3, {10, 20, 40}, 23},
        {CUP_TAKES_MEAN, 2, {1, 2}, 2},
        {CUP_TAKES_MEAN, 2, {-1, -2}, -2},
        {CUP_TAKES_LOWEST, 3, {30, 10, 20}, 10},
        {CUP_TAKES_HIGHEST, 3, {30, 10, 20}, 30},
        {CUP_TAKES_MIDDLE, 3, {30, 10, 20}, 20},
        {CUP_TAKES_MIDDLE, 4, {40, 10, 30, 20}, 25},
        {CUP_TAKES_MIDDLE, 8, {8, 7, 6, 5, 4, 3, 2, 100}, 6},
        {CUP_TAKES_MEAN,
         8,
         {32767, 32767, 32767, 32767, 32767, 32767, 32767, 32767},
         32767},
        {CUP_TAKES_MEAN, 0, {1}, 0},
        {CUP_TAKES_MEAN, CUP_SEVERAL_MOST + 1, {1}, 0},
    };
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(
            cup_several_take(rows[i].takes, rows[i].values, rows[i].count),
            rows[i].together);
    }
    harness_at(NULL);
}

/* One probe in three may say what it likes: the middle stays among the others.
 */
CASE(no_single_probe_moves_the_middle_past_the_others)
{
    struct chance chance = chance_from(harness_seed());
    for (int i = 0; i < HARNESS_ROUNDS(100000) && !harness_failed(); i++) {
        cup_value a = chance_between(&chance, -5000, 15000);
        cup_value b = chance_between(&chance, -5000, 15000);
        cup_value wild = chance_between(&chance, INT16_MIN, INT16_MAX);
        cup_value values[] = {a, wild, b};
        cup_value middle = cup_several_take(CUP_TAKES_MIDDLE, values, 3);
        CHECK(middle >= (a < b ? a : b) && middle <= (a < b ? b : a));
    }
}

CASE(a_probe_strays_and_is_near_again_within_three_quarters)
{
    static const struct cup_several several = {.apart = 2000};
    static const struct cup_several free = {.apart = 0};
    CHECK(!cup_several_strays(&several, false, 5000, 3000));
    CHECK(cup_several_strays(&several, false, 5001, 3000));
    CHECK(cup_several_strays(&several, true, 4501, 3000));
    CHECK(!cup_several_strays(&several, true, 4500, 3000));
    CHECK(cup_several_strays(&several, false, 999, 3000));
    CHECK(!cup_several_strays(&free, true, 30000, -30000));
}

CASE(an_output_is_driven_on_straight_lines_between_points)
{
    static const struct cup_speed_point falls[] = {{3400, 4000}, {2000, 10000}};
    static const struct cup_speed_point rises[] = {
        {-100, 1}, {0, 2000}, {300, 2000}, {400, 9999}};
    static const struct cup_speed filling = {.points = falls, .count = 2};
    static const struct cup_speed cooling = {.points = rises, .count = 4};
    static const struct {
        const struct cup_speed *speed;
        cup_value value;
        int place;
    } rows[] = {
        {&filling, 9999, 4000},  {&filling, 3400, 4000},
        {&filling, 3399, 4004},  {&filling, 2700, 7000},
        {&filling, 2000, 10000}, {&filling, -32768, 10000},
        {&cooling, -32768, 1},   {&cooling, -50, 1000},
        {&cooling, 150, 2000},   {&cooling, 350, 5999},
        {&cooling, 32767, 9999},
    };
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("row %zu", i);
        CHECK_INT(cup_speed_place(rows[i].speed, rows[i].value), rows[i].place);
    }
    harness_at(NULL);
}

/* A look at the switch: when, whether it is closed, and what that tells. */
struct look {
    uint32_t at_ms;
    bool closed;
    enum cup_press press;
};

static void look_all(const struct look *looks, size_t count, bool holds,
                     uint32_t from_ms)
{
    struct cup_button_state state = {0};
    for (size_t i = 0; i < count; i++) {
        harness_at("at %u from %u", looks[i].at_ms, from_ms);
        CHECK_INT(cup_button_step(&state, from_ms + looks[i].at_ms,
                                  looks[i].closed, holds),
                  looks[i].press);
    }
    harness_at(NULL);
}

#define LOOK_ALL(looks, holds)                                                 \
    do {                                                                       \
        look_all(looks, sizeof(looks) / sizeof((looks)[0]), holds, 1000);      \
        look_all(looks, sizeof(looks) / sizeof((looks)[0]), holds,             \
                 UINT32_MAX - 1000);                                           \
    } while (0)

CASE(a_press_is_told_once_and_bounces_are_not)
{
    static const struct look looks[] = {
        {0, false, CUP_PRESS_NONE},    {100, true, CUP_PRESS_NONE},
        {105, false, CUP_PRESS_NONE},  {110, true, CUP_PRESS_NONE},
        {139, true, CUP_PRESS_NONE},   {140, true, CUP_PRESS_SHORT},
        {5000, true, CUP_PRESS_NONE},  {5010, false, CUP_PRESS_NONE},
        {5015, true, CUP_PRESS_NONE},  {5020, false, CUP_PRESS_NONE},
        {5060, false, CUP_PRESS_NONE}, {5070, true, CUP_PRESS_NONE},
        {5080, false, CUP_PRESS_NONE}, {5200, false, CUP_PRESS_NONE},
        {5300, true, CUP_PRESS_NONE},  {5400, true, CUP_PRESS_SHORT},
    };
    LOOK_ALL(looks, false);
}

CASE(a_long_press_is_told_while_it_lasts_a_short_one_when_it_ends)
{
    static const struct look looks[] = {
        {0, false, CUP_PRESS_NONE},    {100, true, CUP_PRESS_NONE},
        {200, true, CUP_PRESS_NONE},   {300, false, CUP_PRESS_NONE},
        {340, false, CUP_PRESS_SHORT}, {400, false, CUP_PRESS_NONE},
        {1000, true, CUP_PRESS_NONE},  {2499, true, CUP_PRESS_NONE},
        {2500, true, CUP_PRESS_LONG},  {9000, true, CUP_PRESS_NONE},
        {9100, false, CUP_PRESS_NONE}, {9200, false, CUP_PRESS_NONE},
    };
    LOOK_ALL(looks, true);
}

CASE(what_is_closed_from_the_start_says_nothing_until_it_was_open)
{
    static const struct look looks[] = {
        {0, true, CUP_PRESS_NONE},     {5000, true, CUP_PRESS_NONE},
        {6000, false, CUP_PRESS_NONE}, {6100, false, CUP_PRESS_NONE},
        {7000, true, CUP_PRESS_NONE},  {7100, true, CUP_PRESS_SHORT},
    };
    LOOK_ALL(looks, false);
}
