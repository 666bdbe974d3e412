/* What the site says after each pass, taken in. */
#include "chronicle.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../history/gather.h"
#include "../../history/units.h"
#include "../../socket/view.h"
#include "../common/cli.h"
#include "cuplatch/say.h"

/* So much is on the disk at a time. */
#define COMMIT_S 86400
/* What does not change is told once a minute. */
#define AGAIN_S 60

/* What was told last of a sensor or tank, and what came since. */
struct told {
    struct cup_reading reading;
    uint32_t samples;
    uint32_t rejects; /* all, by the site's own count */
};

struct chronicle {
    const char *path;
    const struct cup_site *site;
    struct history *history;
    struct gather *gather;
    struct cup_onlooker watch;
    struct cup_onlooker *next;
    struct cup_seen *own;
    struct told *told;
    int64_t from_s;
    uint64_t passes;
    int64_t committed_s;
    bool failed;
};

static double in_unit(int32_t value, uint8_t unit)
{
    return *cup_unit_symbol(unit) ? (double)value / history_steps_of(unit)
                                  : value;
}

/* Things */

static const char *kind_of(const struct cup_plan *plan, cup_index i)
{
    if (i < plan->sensor_count)
        return "sensor";
    if (i < cup_pump_thing(plan, 0))
        return "tank";
    if (i < cup_duty_thing(plan, 0))
        return "pump";
    return "duty";
}

static void describe_duty(const struct cup_site *site, cup_index duty,
                          struct history_thing *thing)
{
    const struct cup_plan *plan = site->plan;
    const struct cup_duty *of = &plan->duties[duty];
    thing->pump = cup_thing_name(plan, cup_pump_thing(plan, of->pump));
    if (of->turn)
        return;
    uint8_t unit = cup_thing_unit(plan, of->keep);
    thing->keep = cup_thing_name(plan, of->keep);
    thing->start = in_unit(cup_site_mark(site, duty, false), unit);
    thing->stop = in_unit(cup_site_mark(site, duty, true), unit);
}

static bool describe(const struct chronicle *chronicle,
                     const struct cup_file *file)
{
    const struct cup_plan *plan = chronicle->site->plan;
    cup_index end = (cup_index)(cup_duty_thing(plan, 0) + plan->duty_count);
    bool done = true;
    for (cup_index i = 0; done && i < end; i++) {
        struct history_thing thing = {.name = cup_thing_name(plan, i),
                                      .kind = kind_of(plan, i),
                                      .start = NAN,
                                      .stop = NAN,
                                      .steps = 1};
        if (i < cup_pump_thing(plan, 0)) {
            thing.unit = cup_unit_symbol(cup_thing_unit(plan, i));
            thing.steps = history_steps_of(cup_thing_unit(plan, i));
        } else if (i < cup_duty_thing(plan, 0))
            thing.flow = in_unit(site_flow(file, thing.name), CUP_UNIT_FLOW);
        else
            describe_duty(chronicle->site,
                          (cup_index)(i - cup_duty_thing(plan, 0)), &thing);
        done = gather_thing(chronicle->gather, &thing);
    }
    return done;
}

/* Passes */

static int64_t now_of(const struct chronicle *chronicle)
{
    return chronicle->from_s +
           (int64_t)(chronicle->passes * chronicle->site->plan->scan_ms / 1000);
}

/* What of a sensor was rejected since; a start begins to count anew. */
static uint32_t rejects_since(const struct chronicle *chronicle, cup_index i)
{
    struct told *told = &chronicle->told[i];
    uint32_t rejects = 0;
    if (i >= chronicle->site->plan->sensor_count)
        return 0;
    for (int r = 0; r < CUP_REJECTS; r++)
        rejects += chronicle->site->tallies[i].rejected[r];
    uint32_t since =
        rejects >= told->rejects ? rejects - told->rejects : rejects;
    told->rejects = rejects;
    return since;
}

static bool take_level(const struct chronicle *chronicle, cup_index i,
                       int64_t at)
{
    struct told *told = &chronicle->told[i];
    struct cup_reading reading = cup_site_reading(chronicle->site, i);
    if (reading.value == told->reading.value &&
        reading.quality == told->reading.quality && at % AGAIN_S != 0)
        return true;
    bool known = cup_usable(reading);
    const struct gather_level level = {
        .value = known
                     ? in_unit(cup_site_shown(chronicle->site, i), reading.unit)
                     : NAN,
        .quality = cup_quality_code(reading.quality),
        .samples = told->samples,
        .rejects = rejects_since(chronicle, i)};
    told->reading = reading;
    told->samples = 0;
    return gather_level(chronicle->gather, i, at, &level);
}

static void commit(struct chronicle *chronicle, int64_t at)
{
    if (at - chronicle->committed_s < COMMIT_S)
        return;
    chronicle->committed_s = at;
    if (!history_commit(chronicle->history) ||
        !history_begin(chronicle->history))
        chronicle->failed = true;
}

static void passed(void *self, uint32_t t_ms)
{
    struct chronicle *chronicle = self;
    const struct cup_plan *plan = chronicle->site->plan;
    struct cup_seen *seen = chronicle->watch.sensors;
    int64_t at = now_of(chronicle);
    for (cup_index i = 0; i < plan->sensor_count; i++)
        chronicle->told[i].samples += seen[i].heard;
    for (cup_index i = 0; i < cup_pump_thing(plan, 0); i++)
        if (!take_level(chronicle, i, at))
            chronicle->failed = true;
    commit(chronicle, at);
    chronicle->passes++;
    if (chronicle->next)
        chronicle->next->passed(chronicle->next->self, t_ms);
    else
        memset(seen, 0, plan->sensor_count * sizeof(*seen));
}

void chronicle_event(struct chronicle *chronicle, const struct cup_event *event)
{
    const struct cup_plan *plan = chronicle->site->plan;
    const struct cup_cause *cause = &event->cause;
    char why[CUP_SENTENCE_SIZE];
    uint8_t unit = cup_cause_unit(plan, cause);
    bool value = cup_event_shows(event, 'v');
    bool limit = cup_event_shows(event, 'l');
    cup_say_event(why, sizeof(why), plan, event);
    const struct gather_event told = {
        .at = now_of(chronicle),
        .ms = event->t_ms,
        .kind = cup_kind_code(event->kind),
        .of = cup_thing_name(plan, event->of),
        .duty = view_duty(chronicle->site, event),
        .reason = cup_reason_code(cause->reason),
        .value = value ? in_unit(cause->value, unit) : NAN,
        .mark = limit ? in_unit(cause->limit, unit) : NAN,
        .unit = value || limit ? cup_unit_symbol(unit) : NULL,
        .why = why};
    if (!gather_event(chronicle->gather, &told))
        chronicle->failed = true;
}

struct cup_onlooker *chronicle_onlooker(struct chronicle *chronicle)
{
    return &chronicle->watch;
}

/* Opening */

static bool begin(struct chronicle *chronicle, const char *id,
                  const struct cup_file *file)
{
    char said[4400];
    chronicle->history =
        history_open(chronicle->path, HISTORY_WRITE, said, sizeof(said));
    if (*said)
        fprintf(stderr, "cuplatch: %s: %s\n", chronicle->path, said);
    if (!chronicle->history || !history_begin(chronicle->history))
        return false;
    int64_t site = history_site(chronicle->history, id, cup_file_name(file),
                                "UTC", chronicle->site->plan->us);
    if (site == 0)
        return false;
    chronicle->gather = gather_open(chronicle->history, site);
    return describe(chronicle, file);
}

struct chronicle *chronicle_open(const char *path, const char *id,
                                 const struct cup_file *file,
                                 const struct cup_site *site, uint32_t from_s,
                                 struct cup_onlooker *next)
{
    struct chronicle *chronicle = calloc(1, sizeof(*chronicle));
    size_t levels = cup_pump_thing(site->plan, 0) + 1u;
    if (!chronicle ||
        !(chronicle->own = calloc(levels, sizeof(*chronicle->own))) ||
        !(chronicle->told = calloc(levels, sizeof(*chronicle->told))))
        abort();
    chronicle->path = path;
    chronicle->site = site;
    chronicle->from_s = chronicle->committed_s = from_s;
    chronicle->next = next;
    chronicle->watch =
        (struct cup_onlooker){.sensors = next ? next->sensors : chronicle->own,
                              .passed = passed,
                              .self = chronicle};
    if (begin(chronicle, id, file))
        return chronicle;
    chronicle->failed = true;
    chronicle_close(chronicle);
    return NULL;
}

bool chronicle_close(struct chronicle *chronicle)
{
    struct history *history = chronicle->history;
    bool done = !chronicle->failed &&
                gather_until(chronicle->gather, now_of(chronicle)) &&
                gather_gap(chronicle->gather) && history_commit(history);
    if (!done && history)
        fprintf(stderr, "cuplatch: %s: %s\n", chronicle->path,
                history_wrong(history));
    gather_close(chronicle->gather);
    history_close(history);
    free(chronicle->own);
    free(chronicle->told);
    free(chronicle);
    return done;
}
