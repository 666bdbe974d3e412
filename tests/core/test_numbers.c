/* The console of a board without names: words, numbers, answers. */
#include "../../firmware/common/numbers.h"

#include <stdio.h>
#include <string.h>

#include "../harness/harness.h"
#include "../harness/world.h"

/* Things: soil 0, tank_echo 1, tank 2, pump 3, bed 4. */
#define SITE                                                                   \
    "[site]\nscan = 1s\n[soil]\nis = sensor\nmeasures = moisture\n"            \
    "form = counts\nport = adc:0\ndry = 1000\nwet = 0\n"                       \
    "plausible = 0..1100\nevery = 1s\nlost_after = 1m\n"                       \
    "[tank_echo]\nis = sensor\nmeasures = distance\nform = echo\n"             \
    "port = echo:0\nevery = 1s\nlost_after = 1m\n"                             \
    "[tank]\nis = tank\nsensor = tank_echo\nshape = upright\n"                 \
    "diameter = 500mm\ndepth = 600mm\ngap = 100mm\n"                           \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\nhand_limit "  \
    "= 5m\n"                                                                   \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"     \
    "dose = 45s\nsoak = 7m\ndoses = 6\n"

/* Every number of an answer, lines ended by a bar. */
static char answers[400];

static void keep(void *self, int32_t number, bool last)
{
    (void)self;
    size_t used = strlen(answers);
    snprintf(answers + used, sizeof(answers) - used, "%d%s", (int)number,
             last ? "|" : " ");
}

static const struct numbers_out out = {keep, NULL};

static const char *say(struct numbers *numbers, const struct cup_site *site,
                       const char *text)
{
    *answers = '\0';
    for (; *text; text++)
        numbers_take(numbers, site, 0, *text, &out);
    return answers;
}

static void settle(struct world *world, int32_t raw)
{
    cup_site_hear(&world->site, 0, 0, (struct cup_sample){.raw = raw});
    cup_site_decide(&world->site, 0, NULL);
}

CASE(words_are_taken_by_number)
{
    static const struct {
        const char *say;
        const char *answer;
        const char *mode; /* of the pump, afterwards */
    } rows[] = {{"off 3\n", "0|", "off"},
                {"hand 3 90\r\n", "0|", "hand"},
                {"auto 3\r", "0|", "auto"},
                {"clear 3\n", "0|", "auto"},
                {"clear 4\n", "0|", "auto"},
                {"hold\n", "0|", "auto"},
                {"go\n", "0|", "auto"},
                {"\r\n\r\n", "", "auto"},
                /* no such thing, or not of that kind */
                {"off 2\n", "5|", "auto"},
                {"off 7\n", "5|", "auto"},
                {"clear 5\n", "5|", "auto"},
                {"off\n", "5|", "auto"},
                {"off x\n", "5|", "auto"},
                {"off  3\n", "5|", "auto"},
                {"off 3 4\n", "5|", "auto"},
                {"offer 3\n", "5|", "auto"},
                {"open 3\n", "5|", "auto"},
                {"set 3\n", "5|", "auto"},
                {"clock 3\n", "5|", "auto"},
                {"hold 3\n", "5|", "auto"},
                {"ask 3\n", "5|", "auto"},
                {"off 4294967299\n", "5|", "auto"},
                {"off 3 and no end of it\n", "5|", "auto"},
                /* a time that is none, or too long */
                {"hand 3\n", "3|", "auto"},
                {"hand 3 0\n", "3|", "auto"},
                {"hand 3 301\n", "3|", "auto"},
                {"hand 3 9999999\n", "5|", "auto"},
                {"off 3\n", "0|", "off"}};
    static const char *const modes[] = {"auto", "off", "hand"};
    struct world world;
    struct numbers numbers = {0};
    world_open(&world, SITE);
    settle(&world, 500);
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("%s", rows[i].say);
        CHECK_TEXT(say(&numbers, &world.site, rows[i].say), rows[i].answer);
        cup_site_decide(&world.site, 0, NULL);
        CHECK_TEXT(modes[world.site.pumps[0].mode], rows[i].mode);
    }
    harness_at(NULL);
    world_close(&world);
}

CASE(look_is_heard_and_left_to_who_has_the_values)
{
    struct world world;
    struct numbers numbers = {0};
    world_open(&world, SITE);
    CHECK_TEXT(say(&numbers, &world.site, "looks\nlook 1\n"), "5|5|");
    CHECK(!numbers.looks);
    CHECK_TEXT(say(&numbers, &world.site, "look\r\n"), "");
    CHECK(numbers.looks);
    world_close(&world);
}

CASE(ask_tells_of_sensors_tanks_and_pumps)
{
    struct world world;
    struct numbers numbers = {0};
    char expected[100];
    world_open(&world, SITE);
    settle(&world, 850);
    struct cup_cause why = cup_site_why(&world.site, 0);
    CHECK_INT(why.reason, CUP_REASON_BELOW_START);
    snprintf(expected, sizeof(expected), "0 0 1500|1 1 0|2 1 0|3 1 0 %d %d %d|",
             why.reason, (int)why.value, (int)why.limit);
    CHECK_TEXT(say(&numbers, &world.site, "ask\n"), expected);
    world_close(&world);
}
