/* The controller under test, reached in two ways: by the calls of the library,
 * with its journal in memory; and by the command's lines, with its journal in a
 * file and the program killed where the power fails. */
#include <jansson.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../harness/flash.h"
#include "../harness/world.h"
#include "cuplatch/say.h"
#include "oracle.h"

/* By calls */

static struct world world;
static struct flash flash;
static struct cup_store store;
static struct cup_journal journal;

static cup_index thing_named(const char *name)
{
    const struct cup_plan *plan = world.site.plan;
    for (cup_index i = 0; i < cup_things(plan); i++)
        if (strcmp(plan->names[i], name) == 0)
            return i;
    abort();
}

static cup_index output(int i)
{
    return (cup_index)(thing_named(output_names[i]) -
                       cup_pump_thing(world.site.plan, 0));
}

/* The journal is opened with the first pass. */
static void boot_calls(const struct own_site *site, bool anew)
{
    journal.store = NULL;
    if (anew) {
        if (world.file)
            world_close(&world);
        world_open(&world, site->text);
        store = flash_begin(&flash);
        store.ages_ms = 1000;
    } else
        CHECK_INT(cup_site_bind(&world.site, world.site.plan, world.state,
                                cup_site_size(world.site.plan)),
                  CUP_OK);
}

static void hear(const struct into *into)
{
    struct cup_want want;
    while (cup_site_ask(&world.site, into->t_ms, &want)) {
        struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
        for (int i = 0; i < SENSORS; i++)
            if (thing_named(level_names[i]) == want.index && into->raw[i] >= 0)
                sample = (struct cup_sample){.raw = into->raw[i]};
        cup_site_hear(&world.site, want.index, into->t_ms, sample);
    }
}

static void steer(const struct into *into, struct view *view)
{
    struct cup_word word;
    view->taken = into->word &&
                  !cup_read_word(world.site.plan, into->word, &word) &&
                  cup_site_steer(&world.site, into->t_ms, &word) == CUP_OK;
}

/* From empty to full: then nothing is believed. */
static void note_sound(struct view *view, int i)
{
    view->sound[i] =
        view->known[i] && !(view->low[i] == 0 && view->high[i] == 10000);
}

static void look(struct view *view)
{
    for (int i = 0; i < OUTPUTS; i++)
        view->on[i] = cup_site_runs(&world.site, output(i));
    for (int i = 0; i < LEVELS; i++) {
        struct cup_reading reading =
            cup_site_reading(&world.site, thing_named(level_names[i]));
        view->known[i] = cup_usable(reading);
        view->level[i] = reading.value;
        cup_site_span(&world.site, thing_named(level_names[i]), &view->low[i],
                      &view->high[i]);
        note_sound(view, i);
    }
}

static void step_calls(const struct into *into, struct view *view)
{
    static const struct cup_sink nobody;
    if (!journal.store)
        CHECK_INT(cup_journal_open(&journal, &world.site, into->t_ms, &store,
                                   &nobody),
                  CUP_OK);
    hear(into);
    steer(into, view);
    cup_site_decide(&world.site, into->t_ms, &nobody);
    CHECK_INT(cup_journal_step(&journal, &world.site), CUP_OK);
    for (int i = 0; i < OUTPUTS; i++)
        cup_site_drove(&world.site, output(i), into->failing[i]);
    look(view);
}

static void cut_calls(void)
{
}

static void end_calls(struct view *view)
{
    static const struct cup_sink nobody;
    cup_site_shut_down(&world.site, &nobody);
    look(view);
}

const struct driver by_calls = {"calls",    true,      1000,     boot_calls,
                                step_calls, cut_calls, end_calls};

/* By lines */

static struct {
    pid_t process;
    FILE *to;
    FILE *from;
    char *line;
    size_t size;
    char folder[40];
} lines;

static char *path_of(const char *name)
{
    static char path[80];
    snprintf(path, sizeof(path), "%s/%s", lines.folder, name);
    return path;
}

static void start(void)
{
    int in[2];
    int out[2];
    char site[80];
    snprintf(site, sizeof(site), "%s", path_of("site.ini"));
    if (pipe(in) != 0 || pipe(out) != 0)
        abort();
    fflush(NULL);
    lines.process = fork();
    if (lines.process == 0) {
        dup2(in[0], 0);
        dup2(out[1], 1);
        for (int i = 0; i < 2; i++) {
            close(in[i]);
            close(out[i]);
        }
        execl(CUPLATCH, "cuplatch", "run", site, "--port", "lines", "--journal",
              path_of("journal"), (char *)NULL);
        _exit(127);
    }
    close(in[0]);
    close(out[1]);
    lines.to = fdopen(in[1], "w");
    lines.from = fdopen(out[0], "r");
    if (lines.process < 0 || !lines.to || !lines.from)
        abort();
}

static void wait_for_end(void)
{
    waitpid(lines.process, NULL, 0);
    fclose(lines.from);
    lines.process = 0;
}

static void boot_lines(const struct own_site *site, bool anew)
{
    signal(SIGPIPE, SIG_IGN);
    if (anew) {
        snprintf(lines.folder, sizeof(lines.folder), "/tmp/oracle-XXXXXX");
        if (!mkdtemp(lines.folder))
            abort();
        FILE *file = fopen(path_of("site.ini"), "w");
        if (!file || fputs(site->text, file) < 0 || fclose(file) != 0)
            abort();
    }
    start();
}

static int hundredths(const json_t *value, int otherwise)
{
    return value ? (int)(json_number_value(value) * 100 + 0.5) : otherwise;
}

static void read_view(const json_t *json, struct view *view)
{
    for (int i = 0; i < OUTPUTS; i++)
        view->on[i] = json_integer_value(json_object_get(
                          json_object_get(json, "out"), output_names[i])) == 1;
    for (int i = 0; i < LEVELS; i++) {
        json_t *level =
            json_object_get(json_object_get(json, "levels"), level_names[i]);
        json_t *value = json_object_get(level, "value");
        view->known[i] = json_is_number(value);
        view->level[i] = hundredths(value, 0);
        view->low[i] =
            hundredths(json_object_get(level, "low"), view->level[i]);
        view->high[i] =
            hundredths(json_object_get(level, "high"), view->level[i]);
        note_sound(view, i);
    }
}

/* The next line that is no error. */
static bool read_answer(struct view *view)
{
    if (getline(&lines.line, &lines.size, lines.from) <= 0)
        return false;
    json_t *json = json_loads(lines.line, 0, NULL);
    bool good = json && !json_object_get(json, "error");
    if (good)
        read_view(json, view);
    json_decref(json);
    return good;
}

static void send(const struct into *into, const char *word)
{
    fprintf(lines.to, "{\"t_ms\":%u,\"raw\":{", (unsigned)into->t_ms);
    for (int i = 0; i < SENSORS; i++) {
        fprintf(lines.to, "%s\"%s\":", i ? "," : "", level_names[i]);
        if (into->raw[i] < 0)
            fprintf(lines.to, "null");
        else
            fprintf(lines.to, "%d", into->raw[i]);
    }
    fprintf(lines.to, "}");
    if (word)
        fprintf(lines.to, ",\"tell\":[\"%s\"]", word);
    fprintf(lines.to, "}\n");
    fflush(lines.to);
}

/* A word that is refused is refused with its line, which is sent anew. */
static void step_lines(const struct into *into, struct view *view)
{
    view->taken = into->word != NULL;
    send(into, into->word);
    if (read_answer(view))
        return;
    view->taken = false;
    send(into, NULL);
    CHECK(read_answer(view));
}

static void cut_lines(void)
{
    kill(lines.process, SIGKILL);
    fclose(lines.to);
    wait_for_end();
}

static void end_lines(struct view *view)
{
    fclose(lines.to);
    CHECK(read_answer(view));
    wait_for_end();
    unlink(path_of("site.ini"));
    unlink(path_of("journal"));
    rmdir(lines.folder);
}

const struct driver by_lines = {"lines",    false,     300000,   boot_lines,
                                step_lines, cut_lines, end_lines};
