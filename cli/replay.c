/* cuplatch replay SITE LOG: a recorded day through the site. */
#include <inttypes.h>
#include <stdlib.h>
#include <unistd.h>

#include "../ports/common/json.h"
#include "../ports/log/log.h"
#include "common/cli.h"
#include "cuplatch/say.h"
#include "replay/against.h"
#include "replay/story.h"

/* A replay under way: where its events go. */
struct replay {
    const struct cup_site *site;
    struct cup_log *log;
    struct story *story;
    bool json;
    uint32_t first_ms;
    uint32_t seen_ms;
    uint64_t at_ms;
    bool begun;
};

static void take(void *self, const struct cup_event *event)
{
    struct replay *replay = self;
    uint32_t step = event->t_ms - replay->seen_ms;
    if (replay->begun && step < CUP_TIME_BACK)
        replay->at_ms += step;
    replay->begun = true;
    replay->seen_ms = event->t_ms;
    if (replay->json)
        cup_json_line(stdout, cup_json_event(replay->site->plan, event));
    story_event(replay->story, replay->at_ms, event);
}

/* Whether a duty asks for its pump only where there is a clock. */
static bool goes_by_clock(const struct cup_plan *plan,
                          const struct cup_duty *duty)
{
    const struct cup_turn *turn = duty->turn;
    if (duty->from != duty->to)
        return true;
    if (!turn)
        return false;
    return turn->at_count > 0 ||
           (turn->day != CUP_NONE && plan->days[turn->day].light == CUP_NONE);
}

/* What a log without a clock cannot show. */
static void tell_left_out(const struct cup_plan *plan, FILE *out)
{
    cup_index left_out = 0;
    for (cup_index i = 0; i < plan->duty_count; i++)
        if (goes_by_clock(plan, &plan->duties[i]))
            fprintf(out, "%s%s", left_out++ ? ", " : "Left out, by the clock: ",
                    cup_thing_name(plan, cup_duty_thing(plan, i)));
    if (left_out)
        fprintf(out,
                ". This log has no clock; --from 2031-05-10T06:00:00\nsays "
                "when its first row was.\n");
}

static int play(struct replay *replay)
{
    struct cup_sink sink = {take, replay};
    bool progress = isatty(STDERR_FILENO) && !isatty(STDOUT_FILENO);
    while (cup_log_play(replay->log, replay->site, &sink)) {
        story_look(replay->story);
        if (progress && cup_log_rows(replay->log) % 100000 == 0)
            fprintf(stderr, "\r%zu rows ", cup_log_rows(replay->log));
    }
    const char *wrong = cup_log_wrong(replay->log);
    if (wrong)
        fprintf(stderr, "cuplatch: %s\n", wrong);
    else if (!replay->json)
        story_totals(replay->story, cup_log_span_ms(replay->log), stdout);
    return wrong ? EXIT_NO : EXIT_DONE;
}

static int replay(struct words *words, uint32_t clock_s, bool json)
{
    const char *log_path = words->list[1];
    char wrong[240];
    struct site site;
    int code = site_open(&site, words);
    if (code != EXIT_DONE) {
        site_close(&site);
        return code;
    }
    struct replay replay = {.site = &site.site, .json = json};
    replay.log = cup_log_open(log_path, site.site.plan, wrong, sizeof(wrong));
    if (!replay.log) {
        fprintf(stderr, "cuplatch: %s\n", wrong);
        site_close(&site);
        return EXIT_USAGE;
    }
    if (!json)
        printf("%s: %s\nTimes are since the first row.\n",
               cup_file_name(site.file), log_path);
    if (clock_s == 0 && !cup_log_has_clock(replay.log))
        tell_left_out(site.site.plan, json ? stderr : stdout);
    cup_log_clock(replay.log, clock_s);
    if (!json)
        putchar('\n');
    replay.story = story_open(&site.site, json ? NULL : stdout);
    code = play(&replay);
    story_close(replay.story);
    cup_log_close(replay.log);
    site_close(&site);
    return code;
}

int replay_main(int argc, const char **argv)
{
    int json = 0;
    char *from = NULL;
    char *other = NULL;
    struct poptOption options[] = {
        {"json", 'j', POPT_ARG_NONE, &json, 0,
         "events as JSON Lines instead of the story", NULL},
        {"from", 0, POPT_ARG_STRING, &from, 0,
         "when the first row was, by the clock: a date, or one with a time",
         "TIME"},
        {"against", 0, POPT_ARG_STRING, &other, 0,
         "by another site file, too: where they part, and what each would do",
         "OTHER"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "SITE LOG", 2, 2))
        code = EXIT_USAGE;
    else if (from && moment_read(from) == 0)
        code = wrong_use(&words,
                         "--from %s: expected a date such as 2031-05-10, or "
                         "one with a time: 2031-05-10T06:00:00",
                         from);
    else if (other && json)
        wrong_use(&words, "--against tells a story: leave out --json%s", "");
    else if (other)
        code = replay_against(&words, other, words.list[1],
                              from ? moment_read(from) : 0);
    else
        code = replay(&words, from ? moment_read(from) : 0, json);
    free(from);
    free(other);
    words_free(&words);
    return code;
}
