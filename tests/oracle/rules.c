/* What a controller must do and must not do, as one who only watches can tell.
 * Where such a one cannot know, the controller has the benefit of the doubt. */
#include <limits.h>
#include <stdio.h>
#include <string.h>

#include "oracle.h"

/* Says who breaks which rule, when it is broken. */
static void breaks(bool when, const char *who, const char *rule)
{
    if (when)
        printf("%s: %s\n", who, rule);
    check_true(!when, rule, __FILE__, __LINE__);
}

enum mode { AUTO, OFF, HAND };

/* What is kept of an output. `since`: its last start or stop, or the boot. */
struct watched {
    uint64_t since;
    uint64_t hand_from;
    uint64_t hand_until;
    uint64_t ran;
    uint64_t tripped_at;
    enum mode mode;
    enum mode mode_before;
    int starts;
    int trips;
    bool on;
    bool rests_from_boot;
    bool by_hand; /* this run began so */
    bool unsure;  /* the hand run was refused, or waits: nobody can tell */
    bool source_no;
    bool full_no;
    bool tripped;
    uint64_t crowded; /* when another pump ran last */
    bool stood;       /* the meter, and no other pump ran, since it began */
    bool moved;       /* ... it turned meanwhile, or nobody can tell */
};

/* ... and of a duty. */
struct kept {
    uint64_t low_from; /* below start without a break; 0: it is not */
    uint64_t past_from;
    uint64_t began;
    uint64_t ended;
    uint64_t soaks_from; /* the pass after that: a stop may be noted then */
    uint64_t given_ms;   /* of a flood, and when it began or went on last */
    uint64_t went_on;
    uint64_t due; /* when a flood was due last, or began; 0: nobody knows */
    int past;
    int given;    /* doses of the session, or */
    int all;      /* of what may be it still */
    int day;      /* doses since somebody cleared it: no site plays for 24 h */
    int day_most; /* ... at the most */
    int unanswered;
    int base;
    int best;
    uint64_t tripped_at;
    int trips; /* runs to the longest of its pump, with nothing done since */
    int calm;  /* passes in which nothing kept it from running */
    bool on;   /* its latch, where it may be on */
    bool runs;
    bool owes;
    bool dropped; /* a person kept off what was due */
    bool gaps;    /* nobody looked for a while in this run */
    bool unsure;  /* the last may have been the rest of one before */
    bool vague;   /* how much of a flood was given is not known */
    bool ever;
    bool base_open;
    bool tripped;
    bool may_be_tripped; /* nobody can tell whether its job was done since */
};

#define SAMPLES 4000 /* of a site that is played */

/* A leap is 4 % of these tanks; and what noise, a median and a gain add to it.
 */
#define LEAP 400
#define LEAP_MOST 1200
#define LEAP_LEAST 150

/* ... and of what a tank may be: either end, with when its number came and
 * whether it was beyond it. `since`: of the newer of two spans of time, each
 * with its innermost. */
struct end {
    uint64_t came[SAMPLES];
    bool beyond[SAMPLES];
    bool leapt[SAMPLES]; /* it is far from the one before, and no pump ran */
    int last;
    int samples;
    uint64_t free_until;
    uint64_t since;
    int before;
    int most;
    bool known;
};

static const struct own_site *site;
static const struct driver *driver;
static struct end ends[TANKS][2];
static struct watched outputs[OUTPUTS];
static struct kept duties[DUTIES];
static uint64_t good[SENSORS];
static uint64_t before;
static uint64_t booted;
static uint64_t forgotten;
static bool hold;
static bool late;
static bool begun;
static bool failing[OUTPUTS];
static int blame[OUTPUTS]; /* the duty that tripped last; NOBODY: none */

void rules_begin(const struct own_site *of, const struct driver *by)
{
    site = of;
    driver = by;
    memset(outputs, 0, sizeof(outputs));
    memset(duties, 0, sizeof(duties));
    memset(ends, 0, sizeof(ends));
    for (int i = 0; i < OUTPUTS; i++)
        blame[i] = NOBODY;
    hold = false;
    forgotten = 0;
}

static void boot_outputs(uint64_t now)
{
    for (int i = 0; i < OUTPUTS; i++) {
        struct watched *output = &outputs[i];
        if (output->on)
            output->ran += now - before;
        if (output->on && output->moved) /* it may have been proved */
            output->trips = 0;
        output->on = false;
        output->rests_from_boot = true;
        output->since = now;
        output->source_no = output->full_no = true;
        if (output->mode == HAND)
            output->mode = output->mode_before;
        failing[i] = false;
    }
}

/* What does not survive the power; the rest must. */
void rules_boot(uint64_t now)
{
    boot_outputs(now);
    for (int d = 0; d < DUTIES; d++) {
        struct kept *duty = &duties[d];
        if (duty->runs) /* a dose, a flood counts as given */
            duty->ended = now;
        if (duty->runs && site->duties[d].what == FLOODS)
            duty->owes = false;
        duty->runs = duty->on = duty->base_open = false;
        duty->due = 0;
        duty->unsure |= duty->ever;
        duty->low_from = duty->past_from = 0;
        duty->past = duty->calm = 0;
    }
    for (int i = 0; i < SENSORS; i++)
        good[i] = now;
    memset(ends, 0, sizeof(ends)); /* the journal has what was believed */
    for (int i = 0; i < TANKS; i++)
        ends[i][0].free_until = ends[i][1].free_until = now + 60000;
    before = booted = now;
    begun = false;
    forgotten += driver->forgets_ms;
}

static uint64_t most(uint64_t a, uint64_t b)
{
    return a > b ? a : b;
}

static int sensor_of(int level)
{
    return level >= SENSORS ? level - SENSORS : level;
}

static bool is_lost(uint64_t now, int level)
{
    return now - good[sensor_of(level)] >= site->lost_after;
}

/* Words */

static void look_afresh(int pump)
{
    for (int d = 0; d < DUTIES; d++)
        if (site->duties[d].pump == pump) {
            duties[d].on = false;
            duties[d].low_from = 0;
        }
}

static void clear_tries(int d, bool for_sure)
{
    if (for_sure)
        duties[d].may_be_tripped = false;
    duties[d].trips = 0;
    duties[d].tripped = false;
    if (blame[site->duties[d].pump] == d)
        blame[site->duties[d].pump] = NOBODY;
}

/* The switch of an output is turned; or its trips are cleared, those of its
 * duties, too. */
static void turn(uint64_t now, int i, const char *verb, int seconds)
{
    struct watched *output = &outputs[i];
    if (strcmp(verb, "clear") == 0) {
        output->trips = 0;
        output->tripped = false;
        for (int d = 0; d < DUTIES; d++)
            if (site->duties[d].pump == i)
                clear_tries(d, true);
        return;
    }
    if (output->mode != HAND)
        output->mode_before = output->mode;
    output->mode = strcmp(verb, "hand") == 0  ? HAND
                   : strcmp(verb, "off") == 0 ? OFF
                                              : AUTO;
    output->hand_from = now;
    output->hand_until = now + (uint64_t)seconds * 1000;
    if (output->mode == AUTO)
        look_afresh(i);
}

static void look_at_word(uint64_t now, const struct into *into,
                         const struct view *view)
{
    char who[30] = "";
    char verb[30] = "";
    int number = 0;
    if (!into->word || !view->taken)
        return;
    sscanf(into->word, "%29s %29s %d", who, verb, &number);
    if (strcmp(who, "site") == 0)
        hold = strcmp(verb, "hold") == 0;
    for (int d = 0; d < DUTIES; d++)
        if (strcmp(who, duty_names[d]) == 0) {
            clear_tries(d, true);
            duties[d].given = duties[d].unanswered = duties[d].all =
                duties[d].day = duties[d].day_most = 0;
        }
    for (int i = 0; i < OUTPUTS; i++)
        if (strcmp(who, output_names[i]) == 0)
            turn(now, i, verb, number);
}

/* Whatever a duty had of its pump meanwhile is not known. */
static void forget_duties(int pump)
{
    for (int d = 0; d < DUTIES; d++) {
        struct kept *duty = &duties[d];
        if (site->duties[d].pump != pump)
            continue;
        duty->ever = duty->owes = duty->runs = false;
        duty->due = 0;
        duty->vague = true;
        duty->all += 100;
        duty->day_most += 100;
    }
}

static void end_hands(uint64_t now)
{
    for (int i = 0; i < OUTPUTS; i++) {
        struct watched *output = &outputs[i];
        if (output->mode == HAND && !output->on && now > output->hand_from)
            output->unsure = true;
        if (output->mode == HAND && now < output->hand_until)
            continue;
        if (output->mode == HAND)
            output->mode = output->mode_before;
        if (output->unsure)
            forget_duties(i);
        output->unsure = false;
    }
}

/* Pumps */

/* What is believed */

/* Whether something moves a tank: nobody told how much, so that it may be
 * anything. */
static bool is_moved(int tank, const struct view *view)
{
    for (int i = 0; i < PUMPS; i++) {
        const struct pump *pump = &site->pumps[i];
        if ((pump->into == tank || pump->from == tank) &&
            (outputs[i].on || view->on[i] || failing[i]))
            return true;
    }
    return false;
}

/* The innermost that an end was in the last while. */
static int innermost(uint64_t now, struct end *end)
{
    if (now - end->since > site->believe) {
        end->before = end->most;
        end->most = INT_MIN;
        end->since = now;
    }
    return end->most > end->before ? end->most : end->before;
}

static void keep_innermost(struct end *end, int is, bool known)
{
    end->known = known;
    if (!known)
        end->before = end->most = INT_MIN;
    else if (is > end->most)
        end->most = is;
}

static void count_beyond(uint64_t now, struct end *end, int number, bool beyond)
{
    if (end->samples == SAMPLES)
        return;
    int away = number - end->last;
    end->came[end->samples] = now;
    end->leapt[end->samples] =
        (away > LEAP || away < -LEAP) && now > end->free_until;
    end->beyond[end->samples++] = beyond;
    end->last = number;
}

/* Whether, for as long as it takes to be believed, it crept and did not leap.
 */
static bool has_crept(uint64_t now, const struct end *end)
{
    int i = end->samples - 1;
    while (i > 0 && !end->leapt[i])
        i--;
    return i >= 0 && now + 5000 - end->came[i] >= site->believe;
}

/* Whether there was a time, as long as it takes to be believed, in which its
 * number was beyond it nine times in ten. */
static bool has_stayed(uint64_t now, const struct end *end)
{
    int beyond = 0;
    int all = 0;
    for (int i = end->samples - 1; i >= 0; i--) {
        all++;
        beyond += end->beyond[i];
        if (now + 5000 - end->came[i] >= site->believe &&
            beyond * 10 + 20 >= all * 9)
            return true;
    }
    return false;
}

/* What is beyond one end may drift, and closes both. */
static bool may_close(uint64_t now, int tank, bool up)
{
    const struct end *end = &ends[tank][up];
    return now <= end->free_until || has_crept(now, end) ||
           has_stayed(now, end) || has_stayed(now, &ends[tank][!up]);
}

/* The lower end of a tank rises, but for what a pump gave it and to where it
 * was a while ago, only to where its number was for a while; the upper one
 * falls so. */
static void look_at_end(uint64_t now, int tank, bool up,
                        const struct view *view)
{
    struct end *end = &ends[tank][up];
    int level = TANK(tank);
    int is = up ? view->low[level] : -view->high[level];
    int number = view->level[level] * (up ? 1 : -1);
    if (!view->sound[level] || is_moved(tank, view))
        end->free_until = now + 60000;
    bool leaps = end->known && is > innermost(now, end) + LEAP_MOST;
    breaks(leaps && !may_close(now, tank, up), level_names[level],
           "believes at once what leapt");
    if (good[tank] == now)
        count_beyond(now, end, number,
                     !view->known[level] || number > is + LEAP_LEAST);
    keep_innermost(end, is, view->sound[level]);
}

static void look_at_belief(uint64_t now, const struct view *view)
{
    for (int tank = 0; tank < TANKS; tank++) {
        breaks(view->low[TANK(tank)] > view->high[TANK(tank)],
               level_names[TANK(tank)], "may be less than it may be");
        look_at_end(now, tank, true, view);
        look_at_end(now, tank, false, view);
    }
}

/* A tank's own memory of a mark that says no until another is passed. */
static bool says_no(bool was, const struct view *view, int level, int sign,
                    int mark, int clear)
{
    int value = (sign > 0 ? view->low[level] : view->high[level]) * sign;
    if (view->sound[level] && value < mark * sign)
        return true;
    return was && !(view->sound[level] && value > clear * sign);
}

static bool cannot_tell(uint64_t now, const struct view *view, int level)
{
    return !view->sound[level] || is_lost(now, level);
}

static void look_at_guards(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    int from = TANK(pump->from);
    int into = TANK(pump->into);
    bool on = view->on[i];
    output->source_no = says_no(output->source_no, view, from, 1,
                                pump->dry_below, pump->dry_clear);
    breaks(on && cannot_tell(now, view, from), output_names[i],
           "runs though its source is lost");
    breaks(on && output->source_no, output_names[i],
           "runs though its source is low");
    output->full_no =
        pump->into != NOBODY && says_no(output->full_no, view, into, -1,
                                        pump->full_at, pump->full_at - 100);
    breaks(on && pump->into != NOBODY && cannot_tell(now, view, into),
           output_names[i], "runs though its destination is lost");
    breaks(on && output->full_no, output_names[i],
           "runs though its destination is full");
}

/* Whether something other than its own limits stops it in this pass. */
static bool is_stopped(int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    const struct watched *output = &outputs[i];
    for (int k = 0; k < OUTPUTS; k++)
        if (failing[k]) /* it may share a tank */
            return true;
    return late || hold || output->mode == OFF || output->source_no ||
           output->full_no || !view->sound[TANK(pump->from)] ||
           (pump->into != NOBODY && !view->sound[TANK(pump->into)]);
}

/* What a run to the longest says: of a hand run, that the pump failed; of a
 * duty's, that the duty did, and of its pump only where another did before. */
static bool trips_pump(uint64_t now, int i)
{
    int before_it = blame[i];
    if (outputs[i].mode != AUTO)
        return true;
    for (int d = 0; d < DUTIES; d++) {
        if (site->duties[d].pump != i || !duties[d].runs)
            continue;
        duties[d].trips++;
        duties[d].tripped = duties[d].may_be_tripped = true;
        duties[d].tripped_at = now;
        blame[i] = d;
        return before_it != NOBODY && before_it != d;
    }
    return false; /* nobody can tell whose it was */
}

static void trip(uint64_t now, struct watched *output)
{
    output->tripped = true;
    output->tripped_at = now;
    output->trips++;
}

/* Whether a run of its duty may be over by itself. */
static bool may_be_over(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    uint64_t ran = now - outputs[plan->pump].since;
    if (plan->valve != NOBODY && outputs[plan->valve].mode != AUTO)
        return true;
    if (plan->what == KEEPS)
        return !duties[d].on || duties[d].past > 0;
    return ran >= (plan->what == DOSES ? plan->dose : plan->flood) ||
           duties[d].given_ms > 0;
}

/* Whether the meter stood over all of the run that ends now, for as long as the
 * pump's proof takes, and nothing else can have ended it. */
static bool has_failed(uint64_t now, int i)
{
    const struct pump *pump = &site->pumps[i];
    if (!pump->proof || !outputs[i].stood || outputs[i].mode != AUTO ||
        now - outputs[i].since < pump->proof)
        return false;
    for (int d = 0; d < DUTIES; d++)
        if (site->duties[d].pump == i && duties[d].runs)
            return !may_be_over(now, d) && !pump->per_day;
    return false;
}

static void look_at_stop(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    bool long_enough = pump->longest && now - output->since >= pump->longest;
    if (pump->proof && output->moved) /* it may have been proved */
        output->trips = 0;
    if (is_stopped(i, view))
        return;
    if (has_failed(now, i)) {
        trip(now, output);
        return;
    }
    if (long_enough) {
        if (trips_pump(now, i))
            trip(now, output);
        return;
    }
    if (!pump->proof)
        output->trips = 0;
    blame[i] = NOBODY;
}

static void look_at_start(uint64_t now, int i)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    uint64_t wait = pump->rest;
    if (output->rests_from_boot)
        wait = most(wait, site->boot_wait);
    breaks(now - output->since < wait, output_names[i],
           "starts before its rest is over");
    breaks(output->tripped && output->trips > pump->tries, output_names[i],
           "starts though it is locked");
    breaks(output->tripped && now - output->tripped_at < pump->retry,
           output_names[i], "starts before its retry");
    breaks(pump->day_starts && output->starts >= pump->day_starts,
           output_names[i], "starts too often in a day");
    output->tripped = false;
    output->rests_from_boot = false;
    output->by_hand = output->mode == HAND;
    output->starts++;
}

/* A meter that two pumps share is late by its smoothing: so long after the
 * other it tells of one alone. */
#define CALM_MS 15000

static void look_at_others(uint64_t now, const struct view *view)
{
    for (int i = 0; i < PUMPS; i++)
        for (int k = 0; k < PUMPS; k++)
            if (k != i && (view->on[k] || outputs[k].on || failing[k]))
                outputs[i].crowded = now;
}

/* Whether the meter stands, and would tell of this pump alone. */
static bool meter_stands(uint64_t now, int i, const struct view *view)
{
    return now - outputs[i].crowded > CALM_MS && view->known[METER] &&
           view->level[METER] < METER_LEAST;
}

/* The meter, while a pump runs that it should prove. */
static void look_at_meter(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    bool tells = meter_stands(now, i, view);
    output->stood = (output->stood || !output->on) && tells;
    output->moved = (output->moved && output->on) || !tells;
    bool long_enough =
        now - output->since >= 3 * pump->proof + 2000 && now - before <= 2000;
    if (pump->proof && output->on)
        breaks(output->stood && long_enough, output_names[i],
               "runs on though nothing proves it");
}

/* What no running output may be. */
static void look_at_running(uint64_t now, int i)
{
    const struct pump *pump = &site->pumps[i];
    const struct watched *output = &outputs[i];
    const char *name = output_names[i];
    breaks(output->mode == OFF, name, "runs though it is off");
    breaks(hold, name, "runs though the site is on hold");
    breaks(late, name, "runs in a late pass");
    breaks(failing[i], name, "is wanted though it does not obey");
    breaks(pump->per_day && output->ran >= pump->per_day, name,
           "runs longer than a day's limit");
    breaks(output->on && pump->longest && now - output->since >= pump->longest,
           name, "runs longer than its longest");
}

static void look_at_pump(uint64_t now, int i, const struct view *view)
{
    struct watched *output = &outputs[i];
    bool on = view->on[i];
    if (output->on)
        output->ran += now - before;
    look_at_guards(now, i, view);
    if (on)
        look_at_running(now, i);
    if (on)
        look_at_meter(now, i, view);
    if (output->on && !on)
        look_at_stop(now, i, view);
    if (!output->on && on)
        look_at_start(now, i);
    if (output->on != on)
        output->since = now;
    output->on = on;
}

/* Whether two pumps move the same tank. */
static bool share(int i, int k)
{
    const struct pump *one = &site->pumps[i];
    const struct pump *two = &site->pumps[k];
    return one->from == two->from || one->from == two->into ||
           one->into == two->from;
}

static void look_at_all(const struct view *view)
{
    int running = 0;
    for (int i = 0; i < PUMPS; i++)
        running += view->on[i] || failing[i];
    for (int i = 0; i < PUMPS; i++) {
        bool started = view->on[i] && outputs[i].since == before;
        breaks(started && running > site->at_once, output_names[i],
               "too many run at once");
        for (int k = 0; k < PUMPS; k++)
            breaks(view->on[i] && failing[k] && share(i, k), output_names[i],
                   "runs at a tank with a pump that does not obey");
    }
}

/* Duties */

/* Since when something has been so, without a break; 0: it is not. */
static uint64_t since(uint64_t from, bool is_so, uint64_t now)
{
    if (!is_so)
        return 0;
    return from ? from : now;
}

/* Whether a latch that was on has gone off: past stop for long enough. */
static bool is_over(uint64_t now, const struct duty *plan,
                    const struct kept *duty)
{
    int least = plan->confirm ? 2 : 0;
    return duty->past_from && duty->past > least &&
           now - duty->past_from >= plan->confirm;
}

static void look_at_latch(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    int level = view->high[plan->level];
    bool known = view->sound[plan->level];
    bool low = known && level < plan->start;
    bool past = known && level > plan->stop;
    int sampled = good[sensor_of(plan->level)] == now;
    duty->past = past ? duty->past + sampled : 0;
    duty->low_from = since(duty->low_from, low, now);
    duty->past_from = since(duty->past_from, past, now);
    if (low && now - duty->low_from >= plan->confirm)
        duty->on = true;
    if (!known || is_over(now, plan, duty))
        duty->on = false;
}

static void look_at_session(int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    int level = view->level[plan->level];
    if (duty->past > 0)
        clear_tries(d, false);
    if (duty->past > 1)
        duty->given = duty->unanswered = 0;
    if (duty->past > 30)
        duty->all = 0;
    if (level > duty->best)
        duty->best = level;
    if (duty->base_open && level < duty->base)
        duty->base = level;
    duty->base_open = false;
}

static void begin_dose(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    if (duty->vague) { /* it may have begun before */
        duty->all++;
        duty->day_most++;
        duty->vague = false;
        duty->base_open = true;
        duty->base = 0;
        return;
    }
    if (duty->given > 0 &&
        (duty->best - duty->base) * 10 < plan->stop - plan->start)
        duty->unanswered++;
    /* a run that goes on to the shortest of its pump is no dose any more */
    uint32_t shortest = site->pumps[plan->pump].shortest;
    uint32_t more = shortest > plan->dose ? shortest - plan->dose + 1000 : 0;
    breaks(duty->day > 0 && now + more - duty->ended < plan->soak,
           duty_names[d], "is given a dose before the last has soaked in");
    breaks(plan->doses && duty->day >= 4 * plan->doses, duty_names[d],
           "is given more than four times its doses in a day");
    breaks(plan->doses && duty->unanswered >= plan->doses, duty_names[d],
           "is given more doses that bring nothing");
    breaks(plan->doses && duty->given >= 4 * plan->doses, duty_names[d],
           "is given more than four times its doses");
    duty->given++;
    duty->all++;
    duty->day++;
    duty->day_most++;
    duty->base = duty->best = view->level[plan->level];
    duty->base_open = true;
}

/* A new one comes when it is due, and no later than it is owed, unless the last
 * is too long ago. */
static void look_at_due(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    const struct kept *duty = &duties[d];
    uint64_t least = plan->least ? plan->least : plan->every / 2;
    if (!duty->ever || duty->vague || duty->owes || duty->unsure)
        return;
    breaks(now - duty->began < least, duty_names[d],
           "floods too soon after the last");
    breaks(now - duty->began < plan->every, duty_names[d],
           "floods before it is due");
    breaks(duty->due && now - duty->due > plan->every / 2 + 2000 &&
               now - duty->began < plan->apart,
           duty_names[d], "floods though it was owed for too long");
    breaks(duty->due && duty->dropped && now - duty->began < plan->apart,
           duty_names[d], "floods though a person had kept that one off");
}

static void begin_flood(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    look_at_due(now, d);
    /* the next one came due while the rest of the last was owed: it is given
     * instead */
    if (duty->ever && (duty->unsure || now - duty->began >= plan->every))
        duty->owes = false;
    if (!duty->owes) {
        duty->given_ms = 0;
        duty->began = duty->vague ? 0 : now; /* it may have begun before */
        duty->due = duty->began;
        duty->dropped = false;
        duty->unsure |= duty->vague;
    }
    duty->went_on = now;
    duty->gaps = false;
    duty->ever = true;
    duty->owes = true;
}

/* Floods fall due one after the other, given or not; and what a person keeps
 * off is not owed. */
static void look_at_floods(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    if (duty->due && now - duty->due >= plan->every) {
        duty->due = now;
        duty->dropped = false;
        if (duty->runs) /* the rest of the last is given instead */
            duty->began = now;
        duty->owes = duty->runs;
    }
    if (outputs[plan->pump].mode == HAND) /* it may take a flood over */
        duty->unsure = true;
    if (!hold && outputs[plan->pump].mode != OFF)
        return;
    duty->dropped = duty->due > duty->began;
    if (!duty->runs)
        duty->owes = false;
}

/* Whether the run under way is over its time by itself. */
static void look_at_length(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    const struct kept *duty = &duties[d];
    uint64_t ran = now - outputs[plan->pump].since;
    bool may_go_on = ran < site->pumps[plan->pump].shortest;
    breaks(plan->what == DOSES && !may_go_on && now - duty->began >= plan->dose,
           duty_names[d], "has a dose that is too long");
    breaks(plan->what == FLOODS && !may_go_on && duty->given_ms >= plan->flood,
           duty_names[d], "floods too long");
    breaks(plan->what != FLOODS && !may_go_on && !duty->on, duty_names[d],
           "runs though nothing asks for it");
}

/* A flood of which it is not known how much was given is over when nothing else
 * stopped it. */
static void end_run(uint64_t now, int d, const struct view *view)
{
    int pump = site->duties[d].pump;
    struct kept *duty = &duties[d];
    duty->ended = duty->soaks_from = now;
    if (!duty->gaps && now - duty->went_on >= site->duties[d].flood &&
        site->pumps[pump].shortest < site->duties[d].flood)
        duty->unsure = false; /* it was a whole one */
    if (duty->vague || duty->given_ms >= site->duties[d].flood)
        duty->owes = false;
    if (outputs[pump].mode == AUTO && !is_stopped(pump, view) &&
        !site->pumps[pump].per_day)
        duty->vague = false;
}

/* Whether a duty has its pump; not while a hand run goes on to the shortest. */
static bool has_pump(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    const struct watched *output = &outputs[plan->pump];
    bool lingers = output->by_hand &&
                   now - output->since < site->pumps[plan->pump].shortest;
    bool open = plan->valve == NOBODY || view->on[plan->valve];
    return view->on[plan->pump] && output->mode == AUTO && !lingers && open;
}

static void begin_duty(uint64_t now, int d, const struct view *view)
{
    enum what what = site->duties[d].what;
    struct kept *duty = &duties[d];
    const struct pump *pump = &site->pumps[site->duties[d].pump];
    breaks(duty->tripped && duty->trips > pump->tries, duty_names[d],
           "is served though it is locked");
    breaks(duty->tripped && now - duty->tripped_at < pump->retry, duty_names[d],
           "is served before its retry");
    duty->tripped = duty->may_be_tripped = false;
    if (what == DOSES)
        begin_dose(now, d, view);
    if (what == FLOODS)
        begin_flood(now, d);
    else
        duties[d].began = now;
}

static void look_at_run(uint64_t now, int d, const struct view *view)
{
    struct kept *duty = &duties[d];
    bool runs = has_pump(now, d, view);
    if (duty->runs)
        duty->given_ms += now - before;
    duty->gaps |= now - before > 2000;
    if (!duty->runs && duty->ended == before)
        duty->soaks_from = now;
    if (runs && !duty->runs)
        begin_duty(now, d, view);
    if (!runs && duty->runs)
        end_run(now, d, view);
    if (runs)
        look_at_length(now, d);
    duty->runs = runs;
}

static void look_at_route(const struct view *view)
{
    breaks(view->on[1] && outputs[1].mode == AUTO && !view->on[PUMPS] &&
               !view->on[PUMPS + 1],
           output_names[1], "runs with every valve shut");
}

/* What must run */

/* It has doses left, whatever may have been given that nobody saw. */
static bool has_doses(const struct duty *plan, const struct kept *duty)
{
    return plan->doses == 0 ||
           (duty->all < plan->doses && duty->day_most < 4 * plan->doses);
}

/* The last is too long ago; or one is due, and not for too long. */
static bool floods_for_sure(uint64_t now, const struct duty *plan,
                            const struct kept *duty)
{
    return duty->ever && !hold &&
           (now - duty->went_on >= plan->apart + forgotten + 2000 ||
            (duty->due > duty->began && !duty->dropped && !duty->unsure &&
             now - duty->due >= 2000 &&
             now - duty->due + 4000 < plan->every / 2));
}

static bool asks_for_sure(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    const struct kept *duty = &duties[d];
    if (plan->what == FLOODS)
        return floods_for_sure(now, plan, duty);
    if (!duty->on || !duty->low_from ||
        now - duty->low_from < plan->confirm + 3000)
        return false;
    return plan->what == KEEPS ||
           (has_doses(plan, duty) && now - most(most(duty->soaks_from, booted),
                                                outputs[plan->pump].since) >=
                                         plan->soak + 1000);
}

/* Everything answers, obeys, and is at auto. */
static bool is_well(uint64_t now)
{
    for (int i = 0; i < SENSORS; i++)
        if (good[i] != now)
            return false;
    for (int i = PUMPS; i < OUTPUTS; i++)
        if (outputs[i].mode != AUTO)
            return false;
    return true;
}

static bool is_limited(const struct pump *pump)
{
    return pump->per_day || pump->day_starts || pump->proof ||
           site->at_once < PUMPS;
}

static bool is_free(uint64_t now, int d, const struct view *view)
{
    int i = site->duties[d].pump;
    const struct pump *pump = &site->pumps[i];
    const struct watched *output = &outputs[i];
    uint64_t rest = most(pump->rest, site->boot_wait) + 1000;
    return is_well(now) && !is_stopped(i, view) && output->mode == AUTO &&
           output->trips == 0 && !duties[d].may_be_tripped &&
           !is_limited(pump) && view->low[TANK(pump->from)] > pump->dry_clear &&
           now - output->since >= rest;
}

static void look_at_calm(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    bool idle = !view->on[plan->pump];
    duty->calm = idle && asks_for_sure(now, d) && is_free(now, d, view)
                     ? duty->calm + 1
                     : 0;
    breaks(duty->calm > 5, duty_names[d],
           "asks, nothing is in the way, and it waits");
}

/* What came in with this pass. */
static void look_at_input(uint64_t now, const struct into *into,
                          const struct view *view)
{
    late = false;
    for (int i = 0; i < OUTPUTS; i++)
        late |= begun && outputs[i].on && now - before > site->late;
    for (int i = 0; i < SENSORS; i++)
        if (into->raw[i] >= 0 && into->raw[i] <= 1000)
            good[i] = now;
    end_hands(now);
    look_at_word(now, into, view);
}

void rules_look(uint64_t now, const struct into *into, const struct view *view)
{
    look_at_input(now, into, view);
    look_at_belief(now, view);
    for (int d = 0; d < DUTIES; d++)
        if (site->duties[d].what != FLOODS) {
            look_at_latch(now, d, view);
            look_at_session(d, view);
        }
    look_at_others(now, view);
    for (int i = 0; i < PUMPS; i++)
        look_at_pump(now, i, view);
    for (int i = PUMPS; i < OUTPUTS; i++)
        outputs[i].on = view->on[i];
    look_at_route(view);
    for (int d = 0; d < DUTIES; d++) {
        if (site->duties[d].what == FLOODS)
            look_at_floods(now, d);
        look_at_run(now, d, view);
        look_at_calm(now, d, view);
    }
    before = now;
    look_at_all(view);
    begun = true;
    memcpy(failing, into->failing, sizeof(failing));
}
