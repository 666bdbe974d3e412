/* Which site, which days and which things of a history. */
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../report/period.h"
#include "../common/cli.h"
#include "forms.h"

struct report_show {
    int (*show)(void *self, struct history *history,
                const struct report *report);
    void *self;
};

/* The site that is reported. */
struct found {
    const char *wanted; /* its id, or null */
    struct history_site_row row;
    char id[64], name[100], zone[64], ids[200];
    unsigned count;
};

static void take_site(void *self, const struct history_site_row *row)
{
    struct found *found = self;
    size_t used = strlen(found->ids);
    snprintf(found->ids + used, sizeof(found->ids) - used, "%s%s",
             used ? ", " : "", row->id);
    if (found->wanted && strcmp(found->wanted, row->id) != 0)
        return;
    found->count++;
    found->row = *row;
    snprintf(found->id, sizeof(found->id), "%s", row->id);
    snprintf(found->name, sizeof(found->name), "%s", row->name);
    snprintf(found->zone, sizeof(found->zone), "%s",
             row->zone ? row->zone : "");
    found->row.id = found->id;
    found->row.name = found->name;
    found->row.zone = *found->zone ? found->zone : NULL;
}

static bool find_site(struct words *words, struct history *history,
                      struct found *found)
{
    if (!history_sites(history, take_site, found)) {
        fprintf(stderr, "cuplatch: %s: %s\n", words->list[0],
                history_wrong(history));
        return false;
    }
    if (found->count == 1)
        return true;
    if (found->wanted)
        fprintf(stderr, "cuplatch: %s: no site %s; there are %s\n",
                words->list[0], found->wanted, found->ids);
    else
        fprintf(stderr, "cuplatch: %s: say which with --site; there are %s\n",
                words->list[0], *found->ids ? found->ids : "none");
    return false;
}

/* Which days */

static bool wrong_moment(struct words *words, const char *option,
                         const char *text)
{
    char message[160];
    snprintf(message, sizeof(message),
             "%s %.40s: expected a date such as 2031-05-10, one with a time: "
             "2031-05-10T06:00, today, yesterday or \"last week\"",
             option, text);
    wrong_use(words, "%s", message);
    return false;
}

/* The last seven days, or from one moment to another; a day or a week by its
 * name is whole. */
static bool read_span(struct words *words, const struct report_days *days,
                      struct history_span whole, struct history_span *span)
{
    int64_t now = time(NULL);
    *span = whole;
    if (!days->from && !days->to)
        *span = period_week(whole.to);
    if (days->from && !period_named(days->from, now, span)) {
        span->to = whole.to;
        if (!period_moment(days->from, &span->from))
            return wrong_moment(words, "--from", days->from);
    }
    struct history_span end;
    if (days->to && period_named(days->to, now, &end))
        span->to = end.to;
    else if (days->to && !period_moment(days->to, &span->to))
        return wrong_moment(words, "--to", days->to);
    return true;
}

/* Within what there is; false, told, when there is nothing. */
static bool cut_span(const char *path, struct history_span whole,
                     struct history_span *span)
{
    char from[40];
    char to[40];
    span->from = span->from > whole.from ? span->from : whole.from;
    span->to = span->to < whole.to ? span->to : whole.to;
    if (span->from < span->to)
        return true;
    period_say(whole.from, from, sizeof(from));
    period_say(whole.to, to, sizeof(to));
    if (whole.to == 0)
        fprintf(stderr, "cuplatch: %s: nothing is in it yet\n", path);
    else
        fprintf(
            stderr,
            "cuplatch: %s: nothing of these days; it begins %s, and ends %s\n",
            path, from, to);
    return false;
}

/* Only what was named: a thing, and what belongs to a duty. */

static bool is_named(const struct words *words, const char *name)
{
    for (int i = 1; i < words->count; i++)
        if (strcmp(words->list[i], name) == 0)
            return true;
    return false;
}

#define KEEP_NAMED(list, count, is_kept)                                       \
    do {                                                                       \
        size_t kept = 0;                                                       \
        for (size_t i = 0; i < (count); i++)                                   \
            if (is_kept)                                                       \
                (list)[kept++] = (list)[i];                                    \
        (count) = kept;                                                        \
    } while (0)

static bool is_any_named(const struct report *report, const char *name)
{
    for (size_t i = 0; i < report->duty_count; i++)
        if (strcmp(report->duties[i].pump, name) == 0 ||
            strcmp(report->duties[i].keep, name) == 0)
            return true;
    return false;
}

static bool is_thing(const struct report *report, const char *name)
{
    for (size_t i = 0; i < report->duty_count; i++)
        if (strcmp(report->duties[i].name, name) == 0)
            return true;
    return report_pump_of(report, name) || report_level_of(report, name);
}

static bool choose(struct words *words, struct report *report)
{
    if (words->count == 1)
        return true;
    for (int i = 1; i < words->count; i++)
        if (!is_thing(report, words->list[i])) {
            fprintf(stderr,
                    "cuplatch: %s: there is nothing of the name %s in it\n",
                    words->list[0], words->list[i]);
            return false;
        }
    KEEP_NAMED(report->duties, report->duty_count,
               is_named(words, report->duties[i].name));
    KEEP_NAMED(report->pumps, report->pump_count,
               is_named(words, report->pumps[i].name) ||
                   is_any_named(report, report->pumps[i].name));
    KEEP_NAMED(report->levels, report->level_count,
               is_named(words, report->levels[i].name) ||
                   is_any_named(report, report->levels[i].name));
    return true;
}

static int report_site(struct words *words, const struct report_days *days,
                       struct history *history, const struct found *found,
                       const struct report_show *show)
{
    struct history_span whole;
    struct history_span span;
    struct report report = {.site = 0};
    if (found->row.zone) {
        setenv("TZ", found->row.zone, 1);
        tzset();
    }
    if (!history_whole(history, found->row.site, &whole))
        return EXIT_OUTSIDE;
    if (!read_span(words, days, whole, &span))
        return EXIT_USAGE;
    if (!cut_span(words->list[0], whole, &span))
        return EXIT_NO;
    int code = EXIT_OUTSIDE;
    if (!report_make(&report, history, &found->row, span))
        fprintf(stderr, "cuplatch: %s: %s\n", words->list[0],
                history_wrong(history));
    else if (!choose(words, &report))
        code = EXIT_NO;
    else
        code = show->show(show->self, history, &report);
    report_free(&report);
    return code;
}

int report_of(struct words *words, const struct report_days *days,
              int (*take)(void *self, struct history *history,
                          const struct report *report),
              void *self)
{
    char said[4400];
    struct found found = {.wanted = days->site};
    const struct report_show show = {take, self};
    if (days->week && (days->from || days->to))
        return wrong_use(words, "--week takes no --from and no --to%s", "");
    struct history *history =
        history_open(words->list[0], HISTORY_READ, said, sizeof(said));
    int code = EXIT_NO;
    if (!history)
        fprintf(stderr, "cuplatch: %s: %s\n", words->list[0], said);
    else if (find_site(words, history, &found))
        code = report_site(words, days, history, &found, &show);
    history_close(history);
    return code;
}

void report_forget(struct report_days *days)
{
    free(days->from);
    free(days->to);
    free(days->site);
}
