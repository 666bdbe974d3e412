/* Rows in the making, a thing at a time. */
#include "gather.h"

#include <math.h>
#include <stdlib.h>
#include <string.h>

#define HOUR_S 3600
#define MINUTE_S 60
/* Minutes are alike while their means are within this part of a unit's usual
 * span of each other. */
#define ALIKE 0.01

/* Nothing holds for longer than this: then nobody knows. */
#define HOLDS_S (3 * INT64_C(86400))

enum quality { GOOD, HELD, LOST };
static const char *const qualities[] = {"good", "held", "lost"};

/* What one minute, or a row of them, has come to. `seconds` are those in which
 * the level was known. */
struct sums {
    double sum;
    double seconds;
    double least;
    double most;
    uint32_t samples;
    uint32_t rejects;
    enum quality quality;
};

struct thing {
    char *name;
    int64_t number;
    int steps;
    double alike;
    double flow;
    double value;
    enum quality quality;
    bool said;       /* something is known now */
    int64_t at;      /* up to when it is counted */
    int64_t minute;  /* of the one under way */
    struct sums now; /* the minute under way */
    int64_t from;    /* the first minute of the row */
    int minutes;     /* in it so far */
    struct sums row;
    double first; /* the mean of its first minute */
    int64_t run;  /* under way; 0: none */
    uint32_t run_ms;
};

struct gather {
    struct history *history;
    int64_t site;
    struct thing *things;
    size_t count;
};

struct gather *gather_open(struct history *history, int64_t site)
{
    struct gather *gather = calloc(1, sizeof(*gather));
    if (!gather)
        abort();
    gather->history = history;
    gather->site = site;
    return gather;
}

void gather_close(struct gather *gather)
{
    if (!gather)
        return;
    for (size_t i = 0; i < gather->count; i++)
        free(gather->things[i].name);
    free(gather->things);
    free(gather);
}

size_t gather_find(const struct gather *gather, const char *name)
{
    for (size_t i = 0; name && i < gather->count; i++)
        if (strcmp(gather->things[i].name, name) == 0)
            return i;
    return SIZE_MAX;
}

static struct thing *find(const struct gather *gather, const char *name)
{
    size_t at = gather_find(gather, name);
    return at < gather->count ? &gather->things[at] : NULL;
}

/* How far apart two minutes of a unit may be and still be told as one. */
static double alike_in(const char *unit)
{
    static const struct {
        const char *unit;
        double span;
    } spans[] = {{"%", 100},      {"mm", 1000},  {"C", 40},     {"Pa", 500000},
                 {"V", 15},       {"A", 10},     {"L/min", 20}, {"L", 500},
                 {"uS/cm", 2000}, {"mg/kg", 200}};
    for (size_t i = 0; unit && i < sizeof(spans) / sizeof(spans[0]); i++)
        if (strcmp(spans[i].unit, unit) == 0)
            return spans[i].span * ALIKE;
    return 0;
}

bool gather_thing(struct gather *gather, const struct history_thing *thing)
{
    struct thing *known = find(gather, thing->name);
    int64_t number = history_thing(gather->history, gather->site, thing);
    if (number == 0)
        return false;
    if (!known) {
        size_t size = (gather->count + 1) * sizeof(*gather->things);
        gather->things = realloc(gather->things, size);
        if (!gather->things)
            abort();
        known = &gather->things[gather->count++];
        *known = (struct thing){
            .name = strdup(thing->name),
            .minute = history_minute_after(gather->history, number)};
        if (!known->name)
            abort();
    }
    known->number = number;
    known->steps = thing->steps;
    known->alike = alike_in(thing->unit);
    known->flow = thing->flow;
    if (strcmp(thing->kind, "pump") == 0 && known->run == 0)
        known->run = history_run_open(gather->history, number, &known->run_ms);
    return true;
}

/* Levels */

static int32_t in_steps(const struct thing *thing, double value)
{
    double steps = round(value * thing->steps);
    return steps > INT32_MAX   ? INT32_MAX
           : steps < INT32_MIN ? INT32_MIN
                               : (int32_t)steps;
}

/* The row as it is now; it may be written again, with more minutes. */
static bool save_row(const struct gather *gather, const struct thing *thing)
{
    const struct sums *row = &thing->row;
    if (thing->minutes == 0)
        return true;
    struct history_minutes minutes = {.thing = thing->number,
                                      .minute = thing->from,
                                      .minutes = thing->minutes,
                                      .known = row->seconds > 0,
                                      .quality = qualities[row->quality],
                                      .samples = row->samples,
                                      .rejects = row->rejects};
    if (row->seconds > 0) {
        minutes.least = in_steps(thing, row->least);
        minutes.mean = in_steps(thing, row->sum / row->seconds);
        minutes.most = in_steps(thing, row->most);
    }
    return history_minutes(gather->history, &minutes);
}

static bool write_row(const struct gather *gather, struct thing *thing)
{
    bool done = save_row(gather, thing);
    thing->minutes = 0;
    thing->row = (struct sums){.sum = 0};
    return done;
}

bool gather_save(const struct gather *gather)
{
    bool done = true;
    for (size_t i = 0; i < gather->count; i++)
        done = save_row(gather, &gather->things[i]) && done;
    return done;
}

static void add_sums(struct sums *to, const struct sums *more)
{
    if (more->seconds > 0) {
        to->least =
            to->seconds > 0 ? fmin(to->least, more->least) : more->least;
        to->most = to->seconds > 0 ? fmax(to->most, more->most) : more->most;
    }
    to->sum += more->sum;
    to->seconds += more->seconds;
    to->samples += more->samples;
    to->rejects += more->rejects;
    to->quality = more->quality;
}

/* Whether the minute that is over goes on with the row before it. */
static bool goes_on(const struct thing *thing)
{
    const struct sums *now = &thing->now;
    if (thing->minutes == 0 || thing->from + thing->minutes != thing->minute ||
        thing->minute % (HOUR_S / MINUTE_S) == 0 ||
        now->quality != thing->row.quality ||
        (now->seconds > 0) != (thing->row.seconds > 0))
        return false;
    return now->seconds <= 0 ||
           fabs(now->sum / now->seconds - thing->first) <= thing->alike;
}

static bool end_minute(const struct gather *gather, struct thing *thing)
{
    bool done = true;
    if (!goes_on(thing)) {
        done = write_row(gather, thing);
        thing->from = thing->minute;
        thing->first =
            thing->now.seconds > 0 ? thing->now.sum / thing->now.seconds : 0;
    }
    add_sums(&thing->row, &thing->now);
    thing->minutes++;
    thing->now = (struct sums){.quality = thing->quality};
    thing->minute++;
    return done;
}

static void hold(struct thing *thing, double seconds)
{
    struct sums more = {.sum = thing->value * seconds,
                        .seconds = seconds,
                        .least = thing->value,
                        .most = thing->value,
                        .quality = thing->quality};
    if (thing->quality == LOST)
        more = (struct sums){.quality = LOST};
    if (seconds > 0)
        add_sums(&thing->now, &more);
}

/* Nothing is known of it from now on; a minute that has begun counts, and what
 * came at its very beginning is of the one before. */
static bool leave(const struct gather *gather, struct thing *thing)
{
    bool done = true;
    if (thing->said && thing->now.seconds > 0)
        done = end_minute(gather, thing);
    else if (thing->minutes > 0) {
        thing->row.samples += thing->now.samples;
        thing->row.rejects += thing->now.rejects;
    }
    thing->said = false;
    return write_row(gather, thing) && done;
}

/* What was said last holds until then; a clock that went back is not
 * followed. */
static bool go_to(const struct gather *gather, struct thing *thing, int64_t at)
{
    bool done = true;
    if (thing->said && at - thing->at > HOLDS_S)
        done = leave(gather, thing);
    while (thing->said && thing->at < at) {
        int64_t end = (thing->minute + 1) * MINUTE_S;
        int64_t to = at < end ? at : end;
        hold(thing, (double)(to - thing->at));
        thing->at = to;
        if (to == end)
            done = end_minute(gather, thing) && done;
    }
    return done;
}

/* The first word, or the first after a gap. A minute that a row has already is
 * not begun again. */
static void begin(struct thing *thing, int64_t at)
{
    thing->said = true;
    thing->at = at;
    if (thing->minute == at / MINUTE_S + 1)
        thing->at = thing->minute * MINUTE_S;
    thing->minute = thing->at / MINUTE_S;
    thing->now = (struct sums){.quality = thing->quality};
}

static enum quality quality_of(const char *text)
{
    for (int i = 0; i < 3; i++)
        if (strcmp(qualities[i], text) == 0)
            return (enum quality)i;
    return LOST;
}

bool gather_level(struct gather *gather, size_t which, int64_t at,
                  const struct gather_level *level)
{
    struct thing *thing = &gather->things[which];
    bool done = go_to(gather, thing, at);
    thing->value = level->value;
    thing->quality = isnan(level->value) ? LOST : quality_of(level->quality);
    if (!thing->said)
        begin(thing, at);
    thing->now.samples += level->samples;
    thing->now.rejects += level->rejects;
    thing->now.quality = thing->quality;
    return done;
}

bool gather_until(struct gather *gather, int64_t at)
{
    bool done = true;
    for (size_t i = 0; i < gather->count; i++)
        done = go_to(gather, &gather->things[i], at) && done;
    return done;
}

bool gather_gap(struct gather *gather)
{
    bool done = true;
    for (size_t i = 0; i < gather->count; i++)
        done = leave(gather, &gather->things[i]) && done;
    return done;
}

/* Events */

static bool begin_run(const struct gather *gather, struct thing *thing,
                      const struct gather_event *event)
{
    const struct thing *duty = find(gather, event->duty);
    const struct history_begun run = {.pump = thing->number,
                                      .duty = duty ? duty->number : 0,
                                      .at = event->at,
                                      .ms = event->ms,
                                      .reason = event->reason,
                                      .why = event->why};
    thing->run = history_run(gather->history, &run);
    thing->run_ms = event->ms;
    return thing->run != 0;
}

static bool end_run(const struct gather *gather, struct thing *thing,
                    const struct gather_event *event)
{
    double seconds = (event->ms - thing->run_ms) / 1000.0;
    double litres = thing->flow > 0 ? seconds / 60 * thing->flow : NAN;
    int64_t run = thing->run;
    thing->run = 0;
    return run == 0 || history_run_end(gather->history, run, event->at, seconds,
                                       litres, event->reason, event->why);
}

/* Nothing runs after a start of the controller; when it stopped is not known.
 */
static void forget_runs(const struct gather *gather)
{
    for (size_t i = 0; i < gather->count; i++)
        gather->things[i].run = 0;
}

static bool take_kind(const struct gather *gather, struct thing *thing,
                      const struct gather_event *event)
{
    if (strcmp(event->kind, "boot") == 0)
        forget_runs(gather);
    if (!thing)
        return true;
    if (strcmp(event->kind, "start") == 0)
        return begin_run(gather, thing, event);
    if (strcmp(event->kind, "stop") == 0)
        return end_run(gather, thing, event);
    if (strcmp(event->kind, "setting") == 0)
        return history_change(gather->history, thing->number, event->at,
                              event->why ? event->why : event->reason,
                              event->by);
    return true;
}

bool gather_event(struct gather *gather, const struct gather_event *event)
{
    struct thing *thing = find(gather, event->of);
    const struct history_event row = {.site = gather->site,
                                      .thing = thing ? thing->number : 0,
                                      .at = event->at,
                                      .kind = event->kind,
                                      .reason = event->reason,
                                      .value = event->value,
                                      .mark = event->mark,
                                      .unit = event->unit,
                                      .why = event->why,
                                      .by = event->by};
    return take_kind(gather, thing, event) &&
           history_event(gather->history, &row);
}
