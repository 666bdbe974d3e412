/* Two sites in step, a row at a time. */
#include "against.h"

#include <stdlib.h>
#include <string.h>

#include "../../ports/log/log.h"
#include "cuplatch/say.h"
#include "story.h"

/* What one did in a row, as lines; more than so much is not shown. */
#define TEXT_MOST 2000

/* One of the two. */
struct side {
    const char *path;
    struct site site;
    struct cup_log *log;
    struct story *story;
    uint64_t at_ms;
    uint32_t seen_ms;
    bool begun;
    char did[TEXT_MOST]; /* in the row under way */
};

static void add_line(struct side *side, const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    const struct cup_plan *plan = side->site.site.plan;
    size_t used = strlen(side->did);
    cup_say_event(why, sizeof(why), plan, event);
    snprintf(side->did + used, sizeof(side->did) - used, "    %s %s: %s\n",
             cup_thing_name(plan, event->of), story_phrase(event), why);
}

static void take(void *self, const struct cup_event *event)
{
    struct side *side = self;
    uint32_t step = event->t_ms - side->seen_ms;
    if (side->begun && step < CUP_TIME_BACK)
        side->at_ms += step;
    side->begun = true;
    side->seen_ms = event->t_ms;
    story_event(side->story, side->at_ms, event);
    if (event->kind != CUP_KIND_SETTING && event->kind != CUP_KIND_BOOT)
        add_line(side, event);
}

static int open_side(struct side *side, struct words *words, const char *path,
                     const char *log, uint32_t clock_s)
{
    char wrong[240];
    struct words own = *words;
    own.list[0] = path;
    own.count = 1;
    side->path = path;
    int code = site_open(&side->site, &own);
    if (code != EXIT_DONE)
        return code;
    cup_file_moved_by_others(side->site.file);
    side->story = story_open(&side->site.site, NULL);
    side->log = cup_log_open(log, side->site.site.plan, wrong, sizeof(wrong));
    if (!side->log) {
        fprintf(stderr, "cuplatch: by %s: %s\n", path, wrong);
        return EXIT_NO;
    }
    if (clock_s > 0)
        cup_log_clock(side->log, clock_s);
    return EXIT_DONE;
}

static void close_side(struct side *side)
{
    if (side->story)
        story_close(side->story);
    cup_log_close(side->log);
    site_close(&side->site);
}

/* Playing */

static bool play_row(struct side *side)
{
    struct cup_sink sink = {take, side};
    side->did[0] = '\0';
    return cup_log_play(side->log, &side->site.site, &sink);
}

static void tell_side(const struct side *side)
{
    printf("  by %s\n%s", side->path, *side->did ? side->did : "    nothing\n");
}

/* Up to the end; tells where they part first. False when a row is wrong. */
static bool play_both(struct side sides[2], bool *parted)
{
    const volatile int *stop = stop_flag();
    while (!*stop && play_row(&sides[0]) && play_row(&sides[1])) {
        if (*parted || strcmp(sides[0].did, sides[1].did) == 0)
            continue;
        *parted = true;
        printf("They part at ");
        story_time(stdout, *sides[0].did ? sides[0].at_ms : sides[1].at_ms);
        puts(":");
        tell_side(&sides[0]);
        tell_side(&sides[1]);
    }
    for (int i = 0; i < 2; i++)
        if (cup_log_wrong(sides[i].log)) {
            fprintf(stderr, "cuplatch: %s\n", cup_log_wrong(sides[i].log));
            return false;
        }
    return true;
}

/* The number of a pump of a name; CUP_NONE: there is none. */
static cup_index pump_of(const struct side *side, const char *name)
{
    const struct cup_plan *plan = side->site.site.plan;
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (strcmp(cup_thing_name(plan, cup_pump_thing(plan, i)), name) == 0)
            return i;
    return CUP_NONE;
}

static void sum_up(const struct side *side, const char *name, char *text,
                   size_t size)
{
    cup_index pump = pump_of(side, name);
    if (pump == CUP_NONE)
        snprintf(text, size, "has none of this name");
    else
        story_pump(side->story, pump, cup_log_span_ms(side->log), text, size);
}

/* What a pump came to by each, where that differs. */
static bool tell_pump(const struct side sides[2], const char *name)
{
    char text[2][200];
    sum_up(&sides[0], name, text[0], sizeof(text[0]));
    sum_up(&sides[1], name, text[1], sizeof(text[1]));
    if (strcmp(text[0], text[1]) == 0)
        return false;
    printf("  %s\n    by %s: %s\n    by %s: %s\n", name, sides[0].path, text[0],
           sides[1].path, text[1]);
    return true;
}

static void tell_pumps(const struct side sides[2])
{
    unsigned same = 0;
    puts("\nIn all");
    for (int s = 0; s < 2; s++) {
        const struct cup_plan *plan = sides[s].site.site.plan;
        for (cup_index i = 0; i < plan->pump_count; i++) {
            const char *name = cup_thing_name(plan, cup_pump_thing(plan, i));
            bool again = s == 1 && pump_of(&sides[0], name) != CUP_NONE;
            if (!again && !tell_pump(sides, name))
                same++;
        }
    }
    if (same > 0)
        printf("  the other %u did the same by both\n", same);
    puts("\nWhat was recorded does not change by what the other would have "
         "done: past the\nfirst moment they are what each would do, not what "
         "would come of it.");
}

int replay_against(struct words *words, const char *other, const char *log,
                   uint32_t clock_s)
{
    struct side *sides = calloc(2, sizeof(*sides));
    bool parted = false;
    if (!sides)
        abort();
    int code = open_side(&sides[0], words, words->list[0], log, clock_s);
    if (code == EXIT_DONE)
        code = open_side(&sides[1], words, other, log, clock_s);
    if (code == EXIT_DONE) {
        printf("%s by two site files. Times are since the first row.\n\n", log);
        code = play_both(sides, &parted) ? EXIT_DONE : EXIT_NO;
    }
    if (code == EXIT_DONE && !parted)
        puts("They do the same from the first row to the last.");
    else if (code == EXIT_DONE)
        tell_pumps(sides);
    close_side(&sides[0]);
    close_side(&sides[1]);
    free(sides);
    return code;
}
