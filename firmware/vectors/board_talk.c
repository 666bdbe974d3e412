/* A board's console, asked in each of three moments: all is well, the tanks
 * are low, and they fill again. Raw values are those of examples/board. */
#include <stdio.h>
#include <string.h>

#include "cuplatch/console.h"
#include "cuplatch/say.h"

extern const struct cup_site baked;

/* Each moment: so many seconds of these. */
static const struct {
    unsigned seconds;
    int32_t soil, cistern_us, header_us;
} moments[] = {
    {120, 700, 4200, 2000}, {90, 880, 9300, 4600}, {60, 880, 7900, 3000}};

static const char *const questions[] = {"ask levels", "ask pumps", "ask alerts",
                                        "ask why lift", "ask why bed_pump"};

static void say(void *self, const char *text)
{
    (void)self;
    printf("  %s\n", text);
}

static void tell(void *self, const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    (void)self;
    cup_say_event(why, sizeof(why), baked.plan, event);
    printf("%u s %s %s: %s\n", (unsigned)(event->t_ms / 1000),
           cup_thing_name(baked.plan, event->of), cup_kind_code(event->kind),
           why);
}

/* A little to and fro, so that nothing passes for stuck. */
static int32_t raw_of(const char *name, size_t moment, uint32_t now_ms)
{
    int32_t sway = (int32_t)(now_ms / 1000 % 3);
    if (strstr(name, "soil"))
        return moments[moment].soil + sway;
    if (strcmp(name, "cistern_echo") == 0)
        return moments[moment].cistern_us + sway;
    if (strcmp(name, "header_echo") == 0)
        return moments[moment].header_us + sway;
    return strcmp(name, "sky") == 0 ? 600 + sway : 0;
}

static void pass(size_t moment, uint32_t now_ms)
{
    static const struct cup_sink sink = {tell, NULL};
    for (cup_index i = 0; i < baked.plan->sensor_count; i++)
        cup_site_hear(&baked, i, now_ms,
                      (struct cup_sample){
                          .raw = raw_of(baked.plan->names[i], moment, now_ms)});
    cup_site_decide(&baked, now_ms, &sink);
}

int main(void)
{
    static const struct cup_printer printer = {say, NULL};
    uint32_t now_ms = 0;
    for (size_t m = 0; m < sizeof(moments) / sizeof(moments[0]); m++) {
        for (unsigned s = 0; s < moments[m].seconds; s++, now_ms += 1000)
            pass(m, now_ms);
        for (size_t q = 0; q < sizeof(questions) / sizeof(questions[0]); q++) {
            printf("%s\n", questions[q]);
            cup_console_line(&baked, now_ms, questions[q], &printer);
        }
    }
    return 0;
}
