/* The console: what is said, asked and answered, byte by byte. */
#include "cuplatch/console.h"

#include <stdio.h>
#include <string.h>

#include "../harness/harness.h"
#include "../harness/world.h"

#define SITE                                                                   \
    "[site]\nscan = 1s\n[soil]\nis = sensor\nmeasures = moisture\n"            \
    "form = counts\nport = adc:0\ndry = 1000\nwet = 0\n"                       \
    "plausible = 0..1100\nevery = 1s\nlost_after = 1m\n"                       \
    "[pump]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 1h\nhand_limit "  \
    "= 5m\n"                                                                   \
    "[bed]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\nstop = 60%\n"     \
    "dose = 45s\nsoak = 7m\ndoses = 6\nchange = start stop dose\n"             \
    "[tray]\nis = duty\nrun = pump\nflood = 5m\nevery = 2h\nby = hours\n"      \
    "change = flood every\n"                                                   \
    "[hours]\nis = day\nbetween = 06:00..20:00\n"                              \
    "[dry]\nis = alert\nof = soil\nbelow = 20%\nclear = 25%\nsay = water it\n"

/* Every line of an answer, ended by a bar. */
static char answers[4000];

static void keep(void *self, const char *text)
{
    (void)self;
    size_t used = strlen(answers);
    snprintf(answers + used, sizeof(answers) - used, "%s|", text);
}

static const struct cup_printer printer = {keep, NULL};

static void settle(struct world *world, int32_t raw)
{
    cup_site_hear(&world->site, 0, 0, (struct cup_sample){.raw = raw});
    cup_site_decide(&world->site, 0, NULL);
}

struct talk {
    const char *say;
    const char *answer;
    bool good;
};

static void talk_all(int32_t raw, const struct talk *talks, size_t count)
{
    struct world world;
    world_open(&world, SITE);
    settle(&world, raw);
    for (size_t i = 0; i < count; i++) {
        *answers = '\0';
        harness_at("%s", talks[i].say);
        CHECK_INT(cup_console_line(&world.site, 0, talks[i].say, &printer),
                  talks[i].good);
        CHECK_TEXT(answers, talks[i].answer);
        cup_site_decide(&world.site, 0, NULL);
    }
    harness_at(NULL);
    world_close(&world);
}

CASE(what_is_asked_is_answered)
{
    static const struct talk talks[] = {
        {"ask levels", "soil 15.00 % good|", true},
        {"levels", "soil 15.00 % good|", true},
        {" ask  pumps ",
         "pump running: soil 15.00 % is below start 30.00 %, until above 60.00 "
         "%|",
         true},
        {"duties",
         "bed asks: soil 15.00 % is below start 30.00 %, until above 60.00 "
         "%|tray does not ask: tray waits for day or its time|",
         true},
        {"ask why tray", "tray waits for day or its time|", true},
        {"why nobody", "there is nothing of that name|", false},
        {"days", "hours night|", true},
        {"ask alerts", "dry soil below 20.00 %: water it|", true},
        {"settings",
         "bed.start 30.00 %|bed.stop 60.00 %|bed.dose 45 s|tray.flood "
         "5m|tray.every 2h|",
         true},
        {"ask nonsense",
         "ask levels, pumps, duties, days, alerts, settings or why NAME|",
         false},
        {"", "", true},
    };
    talk_all(850, talks, sizeof(talks) / sizeof(talks[0]));
}

CASE(what_is_told_is_done_or_refused_with_the_reason)
{
    static const struct talk talks[] = {
        {"tell bed.start 40%", "done|", true},
        {"ask settings",
         "bed.start 40.00 %, the file says 30.00 %|bed.stop 60.00 %|bed.dose "
         "45 s|tray.flood 5m|tray.every 2h|",
         true},
        {"bed.start 60%",
         "would meet or cross the other number: change both at once|", false},
        {"bed.start 70% bed.stop 80%", "done|", true},
        {"bed.start 120%", "outside what that setting may be|", false},
        {"bed.start 30", "expected a number with its unit, such as 30%|",
         false},
        {"bed.start", "a setting needs a value, such as: kale.start 30%|",
         false},
        {"bed.soak 1m",
         "no duty may change that: see its change = in the site file|", false},
        {"bed.colour 1m",
         "expected start, stop, dose, soak, for or every after the dot|",
         false},
        {"tray.flood 10m", "done|", true},
        {"tray.every 5m",
         "would meet or cross the other number: change both at once|", false},
        {"bed.dose soon", "expected a time, such as 45s|", false},
        {"bed.start 30% bed.stop 50% bed.dose 1m",
         "at most two settings at a time|", false},
        {"pump hand 10m", "longer than the pump's hand_limit|", false},
        {"pump hand 1m", "done|", true},
        {"bed clear", "done|", true},
        {"bed off", "done|", true},
        {"bed auto", "done|", true},
        {"soil off", "there is no pump or duty of that name|", false},
        {"site clock 2031-04-02T06:00:00", "done|", true},
        {"site clock 2031-02-29T06:00:00",
         "clock needs a time, such as: site clock 2031-04-02T06:00:00|", false},
        {"site clock 2019-12-31T23:59:59",
         "clock needs a time, such as: site clock 2031-04-02T06:00:00|", false},
    };
    talk_all(500, talks, sizeof(talks) / sizeof(talks[0]));
}

CASE(all_is_well_when_nothing_stands)
{
    static const struct talk talks[] = {{"alerts", "all is well|", true}};
    talk_all(500, talks, 1);
}

CASE(bytes_make_lines_and_a_line_too_long_is_refused_whole)
{
    struct world world;
    struct cup_console console = {.used = 0};
    world_open(&world, SITE);
    settle(&world, 500);
    *answers = '\0';
    for (const char *at = "pump off\r\npump auto\nlevels\r"; *at; at++)
        cup_console_take(&console, &world.site, 0, *at, &printer);
    CHECK_TEXT(answers, "done|done|soil 50.00 % good|");
    *answers = '\0';
    for (int i = 0; i < 200; i++)
        cup_console_take(&console, &world.site, 0, 'x', &printer);
    cup_console_take(&console, &world.site, 0, '\n', &printer);
    CHECK_TEXT(answers, "that line is too long|");
    CHECK(!console.looks);
    *answers = '\0';
    for (const char *at = "look\r\n"; *at; at++)
        cup_console_take(&console, &world.site, 0, *at, &printer);
    CHECK_TEXT(answers, "");
    CHECK(console.looks);
    world_close(&world);
}

/* Days since 1970 by the calendar, against a count of one by one. */
CASE(every_date_is_one_day_after_the_one_before)
{
    static const int days[] = {31, 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31};
    static const struct cup_plan nothing;
    uint32_t expected = 1577836800; /* 2020-01-01 */
    for (int year = 2020; year < 2100; year++)
        for (int month = 1; month <= 12; month++) {
            bool leap = year % 4 == 0 && (year % 100 != 0 || year % 400 == 0);
            int last = days[month - 1] + (month == 2 && leap);
            for (int day = 1; day <= last; day++, expected += 86400) {
                char text[60];
                struct cup_word word;
                snprintf(text, sizeof(text),
                         "site clock %04d-%02d-%02dT00:00:00", year, month,
                         day);
                CHECK(!cup_read_word(&nothing, text, &word));
                CHECK_INT(word.number, expected);
            }
        }
}
