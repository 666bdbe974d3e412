/* cuplatch replay SITE LOG: a recorded day through the site. */
#include <inttypes.h>
#include <unistd.h>

#include "../ports/common/json.h"
#include "../ports/log/log.h"
#include "cli.h"
#include "story.h"

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

static int replay(struct words *words, bool json)
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
        printf("%s: %s\nTimes are since the first row.\n\n",
               cup_file_name(site.file), log_path);
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
    struct poptOption options[] = {{"json", 'j', POPT_ARG_NONE, &json, 0,
                                    "events as JSON Lines instead of the story",
                                    NULL},
                                   POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, "SITE LOG", 2, 2))
        code = replay(&words, json);
    words_free(&words);
    return code;
}
