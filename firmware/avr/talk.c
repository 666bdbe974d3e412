/* Talks to a board that has its texts, and so all its sentences, in flash: what
 * it says and answers, and what it knows again after its plug was pulled.
 *
 * Use: talk IMAGE */
#include <stdio.h>
#include <string.h>

#include "bench.h"

/* What is typed, and what is to be said within so many seconds, in this order.
 * Nothing typed: the plug is pulled. */
static const struct {
    const char *typed;
    unsigned seconds;
    const char *said[4];
} steps[] = {
    /* what its tanks hold is believed after two minutes */
    {NULL, 135, {"site boot: the controller started"}},
    {"ask levels\r",
     3,
     {"kale_soil 92.00 % good", "tray_float 1 good", "cistern 51.1",
      "header 50."}},
    {"ask pumps\r",
     3,
     {"lift off: header 50.", "% needs nothing until start 35.00 %",
      "bed_pump off: kale_soil 92.00 % is above stop 58.00 %, until below "
      "50.00 %",
      "tray_pump off: cress_tray comes in 9h 5"}},
    {"why tray_pump\r", 3, {"cress_tray comes in 9h 5"}},
    {"lift hand 1m\r", 3, {"done", "lift mode: lift is by hand"}},
    {"lift hand 25h\r", 3, {"longer than the pump's hand_limit"}},
    {"lift hand 5\r", 3, {"hand needs a time with its unit"}},
    {"kale.start 51%\r", 3, {"no duty may change that"}},
    {"ask days\r", 3, {"outdoors "}},
    {"ask alerts\r", 3, {"all is well"}},
    {"ask settings\r", 3, {"nothing may be changed"}},
    {"look\r", 3, {"look kale_soil 4", "look cistern_echo "}},
    {"hello\r", 3, {"expected a name and a word, such as: lift off"}},
    {"site hold\r", 3, {"done", "site mode: the site is on hold"}},
    {NULL, 95, {"site setting: the journal was read back"}},
    {"lift hand 1m\r", 3, {"the site is on hold: nothing runs by hand"}},
    {"ask pumps\r", 3, {"lift off: "}},
    {"site go\r", 3, {"done", "site mode: the hold is over"}},
};

struct said {
    char text[4000];
    size_t used;
};

static void hear(struct bench *bench)
{
    struct said *said = bench->self;
    size_t room = sizeof(said->text) - said->used;
    int length = snprintf(said->text + said->used, room, "%s\n", bench->line);
    if ((size_t)length < room)
        said->used += (size_t)length;
}

int main(int argc, char **argv)
{
    static struct said said;
    static struct bench bench = {.heard = hear, .self = &said};
    if (argc != 2 || !bench_begin(&bench, "atmega1281", argv[1]))
        return 2;
    for (size_t i = 0; i < sizeof(steps) / sizeof(steps[0]); i++) {
        said.used = 0;
        said.text[0] = '\0';
        if (steps[i].typed)
            bench_type(&bench, steps[i].typed);
        else
            bench_cut(&bench);
        bench_run(&bench, (uint64_t)steps[i].seconds * BENCH_HZ);
        const char *at = said.text;
        for (int t = 0; t < 4 && steps[i].said[t] && at; t++)
            at = strstr(at, steps[i].said[t]);
        if (at)
            continue;
        bench_wrong(&bench, steps[i].typed ? steps[i].typed : "after a cut");
        fputs(said.text, stdout);
    }
    printf("words: %zu steps of a talk, %u wrong\n",
           sizeof(steps) / sizeof(steps[0]), bench.wrong);
    return bench.wrong > 0;
}
