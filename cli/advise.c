/* cuplatch advise SITE LOG|HISTORY [THING...]: what recorded days say of the
 * numbers in the site file, each with its evidence; tried over the same days,
 * and written where a person agrees. */
#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/edit.h"
#include "advise/advice.h"
#include "replay/against.h"

/* Which things */

static bool choose(struct advising *advising)
{
    const struct words *words = advising->words;
    for (cup_index i = 0; i < advising->count; i++)
        advising->things[i].chosen = words->count == 2;
    for (int w = 2; w < words->count; w++) {
        cup_index i = 0;
        while (i < advising->count &&
               strcmp(advised_name(advising, i), words->list[w]) != 0)
            i++;
        if (i == advising->count) {
            fprintf(stderr,
                    "cuplatch: there is no sensor, pump or duty \"%s\" in "
                    "%s\n",
                    words->list[w], words->list[0]);
            return false;
        }
        advising->things[i].chosen = true;
    }
    return true;
}

/* Advice */

static void advise_all(struct advising *advising)
{
    advice_of_sensors(advising);
    advice_of_pumps(advising);
    advice_of_duties(advising);
    if (advising->looser > 0)
        printf("\n%zu of these let more pass than the file does now: see first "
               "whether the\nsensor, its cable or the pump is at fault.\n",
               advising->looser);
    puts(
        "\nOf what these days did not bring, a drought, a full tank, a winter, "
        "nothing is\nknown. Where the marks of a tank or a bed should be, only "
        "its keeper can say.");
}

/* What becomes of it */

static size_t edits_of(const struct advising *advising, struct cup_edit *edits)
{
    size_t count = 0;
    for (cup_index i = 0; i < advising->count; i++)
        for (size_t p = 0;
             advising->things[i].chosen && p < advising->things[i].count; p++) {
            const struct proposal *one = &advising->things[i].proposals[p];
            edits[count++] = (struct cup_edit){advised_name(advising, i),
                                               one->key, one->value};
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
        code = replay_against(&words, path, advising->record, 0);
    unlink(path);
    return code;
}

struct wishes {
    int tries, writes, yes;
    struct report_days days; /* of a history */
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

static bool is_history(const char *path)
{
    static const char begins[] = "SQLite format 3";
    char head[sizeof(begins)] = "";
    FILE *in = fopen(path, "r");
    bool is = in && fread(head, sizeof(head), 1, in) == 1 &&
              memcmp(head, begins, sizeof(begins)) == 0;
    if (in)
        fclose(in);
    return is;
}

static int look(struct advising *advising, struct wishes *wishes)
{
    int code;
    if (!choose(advising))
        return EXIT_USAGE;
    bool history = is_history(advising->record);
    if (history && wishes->tries)
        return wrong_use(advising->words,
                         "--try plays raw samples; %s is a history",
                         advising->record);
    code = history ? advice_recall(advising, &wishes->days)
                   : advice_listen(advising);
    if (code != EXIT_DONE)
        return code;
    advise_all(advising);
    return act(advising, wishes);
}

static int advise(struct words *words, struct wishes *wishes)
{
    struct advising advising = {.words = words, .record = words->list[1]};
    int code = site_open(&advising.site, words);
    if (code != EXIT_DONE) {
        site_close(&advising.site);
        return code;
    }
    const struct cup_plan *plan = advising.site.site.plan;
    advising.count = (cup_index)(cup_duty_thing(plan, 0) + plan->duty_count);
    advising.things = calloc(advising.count + 1u, sizeof(*advising.things));
    if (!advising.things)
        abort();
    code = look(&advising, wishes);
    for (cup_index i = 0; i < advising.count; i++) {
        series_free(&advising.things[i].raw);
        series_free(&advising.things[i].values);
        track_free(&advising.things[i].track);
        runs_free(&advising.things[i].runs);
    }
    free(advising.things);
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
        REPORT_OPTIONS(wishes.days),
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options,
                    "SITE LOG or HISTORY [THING...]", 2, 32))
        code = EXIT_USAGE;
    else
        code = advise(&words, &wishes);
    report_forget(&wishes.days);
    words_free(&words);
    return code;
}
