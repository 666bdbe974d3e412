/* A history: means of minutes and runs, but no raw samples. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../../history/read.h"
#include "advice.h"

/* A minute without a change has no row of its own; and whatever a mean says is
 * half of its minute late. */
#define OLD_S 7200
#define LAG_S 60

struct recalling {
    struct advising *advising;
    struct history *history;
    struct history_span span;
    int64_t *numbers; /* of each thing there; 0: it is not in it */
    cup_index at;
};

static cup_index thing_of(const struct advising *advising, const char *name)
{
    cup_index i = 0;
    while (i < advising->count && strcmp(advised_name(advising, i), name) != 0)
        i++;
    return i;
}

static void take_thing(void *self, int64_t number,
                       const struct history_thing *thing)
{
    struct recalling *recalling = self;
    cup_index at = thing_of(recalling->advising, thing->name);
    if (at < recalling->advising->count)
        recalling->numbers[at] = number;
}

static uint32_t since(const struct recalling *recalling, int64_t at)
{
    return at > recalling->span.from ? (uint32_t)(at - recalling->span.from)
                                     : 0;
}

static void take_level(void *self, const struct history_level *row)
{
    struct recalling *recalling = self;
    const struct cup_plan *plan = recalling->advising->site.site.plan;
    uint8_t unit = cup_thing_unit(plan, recalling->at);
    if (isnan(row->mean) || row->seconds > 60)
        return;
    track_add(&recalling->advising->things[recalling->at].track,
              since(recalling, row->at),
              (int32_t)lround(row->mean * pow(10, cup_unit_decimals(unit))));
}

/* By the number of a thing in the history; -1: of none that the file has. */
static int duty_of(const struct recalling *recalling, int64_t number)
{
    for (cup_index i = 0; number > 0 && i < recalling->advising->count; i++)
        if (recalling->numbers[i] == number)
            return i;
    return -1;
}

static void take_run(void *self, const struct history_run_row *row)
{
    struct recalling *recalling = self;
    struct runs *runs = &recalling->advising->things[recalling->at].runs;
    if (row->ended == 0)
        return;
    runs_begin(runs, since(recalling, row->began),
               duty_of(recalling, row->duty));
    runs_end(runs, since(recalling, row->ended));
}

static bool recall_thing(struct recalling *recalling, cup_index i)
{
    const struct cup_plan *plan = recalling->advising->site.site.plan;
    recalling->at = i;
    if (recalling->numbers[i] == 0)
        return true;
    if (recalling->at < cup_pump_thing(plan, 0))
        return history_levels(recalling->history, recalling->numbers[i],
                              recalling->span, take_level, recalling);
    if (recalling->at < cup_duty_thing(plan, 0))
        return history_runs(recalling->history, recalling->numbers[i],
                            recalling->span, take_run, recalling);
    return true;
}

static int recall(void *self, struct history *history,
                  const struct report *report)
{
    struct advising *advising = self;
    struct recalling recalling = {
        .advising = advising,
        .history = history,
        .span = report->span,
        .numbers = calloc(advising->count + 1u, sizeof(int64_t))};
    if (!recalling.numbers)
        abort();
    bool done = history_things(history, report->site, take_thing, &recalling);
    for (cup_index i = 0; done && i < advising->count; i++)
        done = recall_thing(&recalling, i);
    free(recalling.numbers);
    if (done)
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: %s: %s\n", advising->record,
            history_wrong(history));
    return EXIT_OUTSIDE;
}

/* All that there is, where no days were named. */
int advice_recall(struct advising *advising, struct report_days *days)
{
    struct words words = *advising->words;
    words.list[0] = advising->record;
    words.count = 1;
    advising->from_history = true;
    advising->old_s = OLD_S;
    advising->lag_s = LAG_S;
    if (!days->from && !days->to && !days->week)
        days->from = strdup("1970-01-01");
    return report_of(&words, days, recall, advising);
}
