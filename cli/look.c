/* cuplatch look SITE [SENSOR or TANK...]: the bench. What each sensor says, raw
 * and as a value, its age and quality, and what was rejected and why; what each
 * tank makes of it. A live table on a terminal, a line a sample when piped, or
 * JSON Lines. */
#include <curses.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/problems.h"
#include "../ports/common/json.h"
#include "../ports/lines/lines.h"
#include "../ports/log/log.h"
#include "common/cli.h"
#include "cuplatch/say.h"
#include "look/feed.h"
#include "look/live.h"
#include "look/show.h"

static void passed(void *self, uint32_t t_ms)
{
    struct look *look = self;
    uint32_t step = t_ms - look->t_ms;
    if (look->passes++ > 0 && step < CUP_TIME_BACK)
        look->gone_ms += step;
    look->t_ms = t_ms;
    if (look->how == LOOK_ON_SCREEN)
        look_show_screen(look);
    for (cup_index i = 0; i < look_count(look); i++)
        if (look->chosen[i] && look_hears(look, i))
            look_show(look, i);
    for (cup_index i = 0; i < look->site->plan->sensor_count; i++)
        look->watch.sensors[i].heard = false;
    if (look->how != LOOK_ON_SCREEN)
        fflush(stdout);
}

/* Which sensors and tanks */

/* Tells of a name that nothing to look at has, and which there are. */
static bool no_such(const struct look *look, const char *name)
{
    const char *const *names = look->site->plan->names;
    const char **list = calloc(look_count(look) + 1u, sizeof(*list));
    if (!list)
        abort();
    memcpy(list, names, look_count(look) * sizeof(*list));
    const char *near = nearest_word(name, list);
    fprintf(stderr, "cuplatch: there is no sensor or tank \"%s\"; ", name);
    if (near)
        fprintf(stderr, "did you mean %s?", near);
    else
        for (cup_index i = 0; i < look_count(look); i++)
            fprintf(stderr, "%s%s", i ? ", " : "expected some of ", names[i]);
    fputc('\n', stderr);
    free(list);
    return false;
}

static bool choose(struct look *look, const struct words *words)
{
    const struct cup_plan *plan = look->site->plan;
    for (cup_index i = 0; i < look_count(look); i++)
        look->chosen[i] = words->count == 1;
    for (int w = 1; w < words->count; w++) {
        cup_index i = 0;
        while (i < look_count(look) &&
               strcmp(plan->names[i], words->list[w]) != 0)
            i++;
        if (i == look_count(look))
            return no_such(look, words->list[w]);
        look->chosen[i] = true;
    }
    return true;
}

static int play_log(struct look *look, struct words *words, const char *path)
{
    char wrong[240];
    struct cup_sink sink = {NULL, NULL};
    struct cup_log *log =
        cup_log_open(path, look->site->plan, wrong, sizeof(wrong));
    if (!log)
        return wrong_use(words, "%s", wrong);
    const volatile int *stop = stop_flag();
    cup_log_watch(log, &look->watch);
    while (!*stop && cup_log_play(log, look->site, &sink))
        ;
    const char *at_end = cup_log_wrong(log);
    if (at_end)
        fprintf(stderr, "cuplatch: %s\n", at_end);
    cup_log_close(log);
    return at_end ? EXIT_NO : EXIT_DONE;
}

static int play_lines(struct look *look, struct cup_lines_more *more)
{
    stop_flag();
    *more =
        (struct cup_lines_more){.watch = &look->watch, .stop_fd = stop_fd()};
    return cup_lines_run(look->site, stdin, stdout, more) ? EXIT_OUTSIDE
                                                          : EXIT_DONE;
}

static int play(struct look *look, struct words *words, const char *log)
{
    int code = EXIT_DONE;
    SCREEN *screen = NULL;
    struct cup_lines_more more = {.failed = NULL};
    if (look->how == LOOK_ON_SCREEN) {
        screen = newterm(NULL, stdout, stderr);
        if (!screen)
            look->how = LOOK_PLAINLY;
    }
    if (log)
        code = play_log(look, words, log);
    else
        code = play_lines(look, &more);
    if (screen) {
        endwin();
        delscreen(screen);
        look_show_table(look, stdout);
    }
    if (more.failed)
        tell_failure(more.failed, more.why);
    return code;
}

static int look_at(struct words *words, const char *log,
                   const struct feed_from *from, bool json)
{
    struct site site;
    int code = site_open(&site, words);
    if (code == EXIT_DONE && feed_is_wanted(from)) {
        code = feed_begin(words, from);
        site.site.plan = feed_plan(site.site.plan);
    }
    if (code != EXIT_DONE) {
        site_close(&site);
        return code;
    }
    struct look look = {.site = &site.site, .how = LOOK_PLAINLY};
    size_t count = site.site.plan->sensor_count;
    look.watch.sensors = calloc(count + 1, sizeof(*look.watch.sensors));
    look.chosen = calloc(look_count(&look) + 1u, sizeof(*look.chosen));
    look.watch.passed = passed;
    look.watch.self = &look;
    if (!look.watch.sensors || !look.chosen)
        abort();
    if (json)
        look.how = LOOK_JSON;
    else if (isatty(STDOUT_FILENO))
        look.how = LOOK_ON_SCREEN;
    if (!choose(&look, words))
        code = EXIT_USAGE;
    else
        code = play(&look, words, log);
    free(look.watch.sensors);
    free(look.chosen);
    site_close(&site);
    return code;
}

int look_main(int argc, const char **argv)
{
    int json = 0;
    int live = 0;
    int once = 0;
    char *log = NULL;
    struct feed_from from = {NULL, NULL};
    char *socket = NULL;
    struct poptOption options[] = {
        {"log", 'l', POPT_ARG_STRING, &log, 0,
         "look at a recorded log; else at JSON lines on stdin", "LOG"},
        FEED_OPTIONS(from),
        {"json", 'j', POPT_ARG_NONE, &json, 0, "JSON Lines, one a sample",
         NULL},
        {"live", 0, POPT_ARG_NONE, &live, 0,
         "instead: all of a controller that runs; needs no SITE", NULL},
        {"once", 0, POPT_ARG_NONE, &once, 0,
         "with --live: print it once, and end", NULL},
        {"socket", 's', POPT_ARG_STRING, &socket, 0,
         "with --live: where the controller listens, if more than one runs",
         "PATH"},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "SITE [SENSOR or TANK...]", 0,
                    32))
        code = EXIT_USAGE;
    else if (live)
        code = live_look(socket, once);
    else if (once || socket)
        wrong_use(&words, "--once and --socket go with --live%s", "");
    else if (words.count == 0)
        wrong_use(&words, "expected %s", words.usage);
    else if ((log != NULL) + (from.pins != NULL) + (from.board != NULL) > 1)
        wrong_use(&words, "--log, --pins and --board are each for itself%s",
                  "");
    else
        code = look_at(&words, log, &from, json);
    free(log);
    feed_forget(&from);
    free(socket);
    words_free(&words);
    return code;
}
