/* cuplatch advise SITE LOG [SENSOR...]: what recorded raw values say of the
 * numbers in the site file, each with its evidence; tried over the same days,
 * and written where a person agrees. */
#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../advice/propose.h"
#include "../grammar/edit.h"
#include "../ports/log/log.h"
#include "against.h"
#include "cli.h"
#include "cuplatch/say.h"

/* A day, but for what is lost at its ends. */
#define SPAN_LEAST_MS (UINT64_C(23) * 3600 * 1000)

/* A sensor under advice. */
struct advised {
    struct series series;
    struct proposal proposals[PROPOSALS_MOST];
    size_t count;
    bool chosen;
};

struct advising {
    struct words *words;
    struct site site;
    struct cup_log *log;
    struct cup_onlooker watch;
    struct advised *sensors;
    size_t proposed;
    size_t looser;
};

static const char *name_of(const struct advising *advising, cup_index i)
{
    return cup_thing_name(advising->site.site.plan, i);
}

/* Listening */

static void passed(void *self, uint32_t t_ms)
{
    struct advising *advising = self;
    uint64_t at_ms = cup_log_span_ms(advising->log);
    (void)t_ms;
    for (cup_index i = 0; i < advising->site.site.plan->sensor_count; i++) {
        struct cup_seen *seen = &advising->watch.sensors[i];
        struct series *series = &advising->sensors[i].series;
        if (seen->heard && seen->sample.reject == CUP_REASON_NONE)
            series_add(series, at_ms, seen->sample.raw);
        else if (seen->heard)
            series_miss(series, at_ms);
        seen->heard = false;
    }
}

static int listen(struct advising *advising)
{
    char wrong[240];
    struct cup_sink nobody = {NULL, NULL};
    const volatile int *stop = stop_flag();
    advising->log =
        cup_log_open(advising->words->list[1], advising->site.site.plan, wrong,
                     sizeof(wrong));
    if (!advising->log) {
        fprintf(stderr, "cuplatch: %s\n", wrong);
        return EXIT_USAGE;
    }
    cup_log_watch(advising->log, &advising->watch);
    while (!*stop && cup_log_play(advising->log, &advising->site.site, &nobody))
        ;
    if (cup_log_wrong(advising->log))
        fprintf(stderr, "cuplatch: %s\n", cup_log_wrong(advising->log));
    else if (cup_log_span_ms(advising->log) < SPAN_LEAST_MS)
        fprintf(stderr,
                "cuplatch: %s: %.1f h are too short: a day and a night at "
                "least\n",
                advising->words->list[1],
                (double)cup_log_span_ms(advising->log) / 3.6e6);
    else
        return EXIT_DONE;
    return EXIT_NO;
}

/* Which sensors */

static bool choose(struct advising *advising)
{
    const struct cup_plan *plan = advising->site.site.plan;
    const struct words *words = advising->words;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        advising->sensors[i].chosen = words->count == 2;
    for (int w = 2; w < words->count; w++) {
        cup_index i = 0;
        while (i < plan->sensor_count &&
               strcmp(name_of(advising, i), words->list[w]) != 0)
            i++;
        if (i == plan->sensor_count) {
            fprintf(stderr, "cuplatch: there is no sensor \"%s\" in %s\n",
                    words->list[w], words->list[0]);
            return false;
        }
        advising->sensors[i].chosen = true;
    }
    return true;
}

/* Advice */

static bool whole_of(const struct advising *advising, const char *name,
                     const char *key, int32_t *number)
{
    char *end;
    const char *text = cup_file_value(advising->site.file, name, key);
    if (!text)
        return false;
    *number = (int32_t)strtol(text, &end, 10);
    return end != text && *end == '\0';
}

static struct sensor_now now_of(const struct advising *advising, cup_index i)
{
    const struct cup_sensor *sensor = &advising->site.site.plan->sensors[i];
    const char *name = name_of(advising, i);
    struct sensor_now now = {
        .has_plausible =
            cup_file_value(advising->site.file, name, "plausible") != NULL,
        .window = sensor->window.size,
        .trim = sensor->window.trim,
        .every_ms = sensor->every_ms,
        .lost_ms = sensor->lost_after_ms,
        .stuck_ms = -1};
    now.marked = whole_of(advising, name, "dry", &now.from) &&
                 whole_of(advising, name, "wet", &now.to);
    if (sensor->checks && sensor->checks->stuck_ms > 0)
        now.stuck_ms = sensor->checks->stuck_ms;
    return now;
}

static void tell_facts(const char *name, const struct series *series,
                       const struct series_facts *facts)
{
    printf("%s: %zu samples, scatters by %.1f counts, %" PRIu64 " spikes", name,
           series->count, facts->noise, facts->spikes);
    if (facts->spikes > 0)
        printf(", %u in a row at most", facts->in_a_row);
    printf("; %.1f %% without an answer.\n", 100 * facts->unanswered);
}

static void tell_proposals(struct advising *advising, cup_index i)
{
    const struct advised *advised = &advising->sensors[i];
    for (size_t p = 0; p < advised->count; p++) {
        const struct proposal *proposal = &advised->proposals[p];
        const char *was = cup_file_value(advising->site.file,
                                         name_of(advising, i), proposal->key);
        printf("  %s = %s (%s%s%s)\n", proposal->key, proposal->value,
               was ? "was " : "new", was ? was : "",
               proposal->looser ? "; LOOSER than the file" : "");
        print_wrapped(stdout, "      ", proposal->why);
        advising->looser += proposal->looser;
    }
    advising->proposed += advised->count;
}

/* What of its kind has no raw values that could be looked at; null: it has. */
static const char *why_none(const struct cup_sensor *sensor)
{
    if (sensor->form == CUP_FORM_SWITCH)
        return "is open or closed";
    if (sensor->form == CUP_FORM_PULSES)
        return "counts pulses";
    if (sensor->several || sensor->source != CUP_NONE ||
        cup_form_is_bytes(sensor->form))
        return "says no raw numbers of its own";
    return NULL;
}

static void advise_one(struct advising *advising, cup_index i)
{
    const struct cup_sensor *sensor = &advising->site.site.plan->sensors[i];
    struct advised *advised = &advising->sensors[i];
    struct series_facts facts;
    const char *name = name_of(advising, i);
    const char *none = why_none(sensor);
    if (none) {
        printf("%s: %s; nothing is advised.\n", name, none);
        return;
    }
    if (!series_look(&advised->series, &facts)) {
        printf("%s: %zu samples are too few; expected %d.\n", name,
               advised->series.count, SERIES_LEAST);
        return;
    }
    struct sensor_now now = now_of(advising, i);
    tell_facts(name, &advised->series, &facts);
    advised->count = propose(&now, &facts, advised->proposals);
    if (advised->count == 0)
        puts("  nothing to change.");
    tell_proposals(advising, i);
}

static void advise_all(struct advising *advising)
{
    const struct cup_plan *plan = advising->site.site.plan;
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (advising->sensors[i].chosen)
            advise_one(advising, i);
    if (advising->looser > 0)
        printf("\n%zu of these let more pass than the file does now: see first "
               "whether the\nsensor or its cable is at fault.\n",
               advising->looser);
    puts(
        "\nOf what these days did not bring, a drought, a full tank, a winter, "
        "nothing is\nknown. Marks, doses and proofs are not looked at.");
}

/* What becomes of it */

static size_t edits_of(const struct advising *advising, struct cup_edit *edits)
{
    size_t count = 0;
    for (cup_index i = 0; i < advising->site.site.plan->sensor_count; i++)
        for (size_t p = 0; p < advising->sensors[i].count; p++) {
            const struct proposal *one = &advising->sensors[i].proposals[p];
            edits[count++] =
                (struct cup_edit){name_of(advising, i), one->key, one->value};
        }
    return count;
}

static int tell_edit(enum cup_edit_result result, const char *path,
                     const char *why)
{
    if (result == CUP_EDIT_DONE)
        return EXIT_DONE;
    if (result == CUP_EDIT_UNFIT)
        fprintf(stderr, "cuplatch: %s would have errors; nothing was changed\n",
                path);
    else
        fprintf(stderr, "cuplatch: %s: %s; nothing was changed\n", path, why);
    return result == CUP_EDIT_UNFIT ? EXIT_NO : EXIT_OUTSIDE;
}

static int edit(const char *path, const struct cup_edit *edits, size_t count)
{
    char why[200] = "";
    return tell_edit(
        cup_file_edit(path, edits, count, site_text_holds, why, sizeof(why)),
        path, why);
}

/* A person says yes to each; `edits` become those, so many. */
static size_t agree(struct cup_edit *edits, size_t count)
{
    char answer[20];
    size_t kept = 0;
    for (size_t i = 0; i < count; i++) {
        printf("[%s] %s = %s? (y/n) ", edits[i].thing, edits[i].key,
               edits[i].value);
        fflush(stdout);
        if (!fgets(answer, sizeof(answer), stdin))
            break;
        if (answer[0] == 'y')
            edits[kept++] = edits[i];
    }
    return kept;
}

static int write_advice(const struct advising *advising, struct cup_edit *edits,
                        size_t count, bool yes)
{
    const char *path = advising->words->list[0];
    putchar('\n');
    if (!yes)
        count = agree(edits, count);
    if (count == 0) {
        puts("Nothing was changed.");
        return EXIT_DONE;
    }
    int code = edit(path, edits, count);
    if (code == EXIT_DONE)
        printf("%zu written to %s.\n", count, path);
    return code;
}

/* The same days with the proposals, by a copy of the file. */
static int try_advice(const struct advising *advising,
                      const struct cup_edit *edits, size_t count)
{
    char path[] = "/tmp/cuplatch-advised-XXXXXX";
    struct words words = *advising->words;
    char *text = cup_file_text(words.list[0]);
    int fd = mkstemp(path);
    FILE *out = fd >= 0 ? fdopen(fd, "w") : NULL;
    int code = EXIT_OUTSIDE;
    bool written = text && out && fputs(text, out) >= 0;
    written = out && fclose(out) == 0 && written;
    free(text);
    putchar('\n');
    if (!written)
        tell_failure("the advice cannot be tried", errno);
    else
        code = edit(path, edits, count);
    if (code == EXIT_DONE)
        code = replay_against(&words, path, words.list[1], 0);
    unlink(path);
    return code;
}

struct wishes {
    int tries, writes, yes;
};

static int act(const struct advising *advising, const struct wishes *wishes)
{
    int code = EXIT_DONE;
    struct cup_edit *edits = calloc(advising->proposed + 1, sizeof(*edits));
    if (!edits)
        abort();
    size_t count = edits_of(advising, edits);
    if (count > 0 && wishes->tries)
        code = try_advice(advising, edits, count);
    if (count > 0 && wishes->writes && code == EXIT_DONE)
        code = write_advice(advising, edits, count, wishes->yes);
    free(edits);
    return code;
}

static int advise(struct words *words, const struct wishes *wishes)
{
    struct advising advising = {.words = words};
    int code = site_open(&advising.site, words);
    if (code != EXIT_DONE) {
        site_close(&advising.site);
        return code;
    }
    size_t count = advising.site.site.plan->sensor_count + 1u;
    advising.sensors = calloc(count, sizeof(*advising.sensors));
    advising.watch =
        (struct cup_onlooker){.sensors = calloc(count, sizeof(struct cup_seen)),
                              .passed = passed,
                              .self = &advising};
    if (!advising.sensors || !advising.watch.sensors)
        abort();
    code = choose(&advising) ? listen(&advising) : EXIT_USAGE;
    if (code == EXIT_DONE) {
        advise_all(&advising);
        code = act(&advising, wishes);
    }
    for (size_t i = 0; i < count; i++)
        series_free(&advising.sensors[i].series);
    cup_log_close(advising.log);
    free(advising.sensors);
    free(advising.watch.sensors);
    site_close(&advising.site);
    return code;
}

int advise_main(int argc, const char **argv)
{
    struct wishes wishes = {.yes = 0};
    struct poptOption options[] = {
        {"try", 0, POPT_ARG_NONE, &wishes.tries, 0,
         "play the same days with the proposals, and tell what differs", NULL},
        {"write", 0, POPT_ARG_NONE, &wishes.writes, 0,
         "put those that you agree to into the site file", NULL},
        {"yes", 'y', POPT_ARG_NONE, &wishes.yes, 0,
         "with --write: ask nothing, write all", NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "SITE LOG [SENSOR...]", 2, 32))
        code = EXIT_USAGE;
    else
        code = advise(&words, &wishes);
    words_free(&words);
    return code;
}
