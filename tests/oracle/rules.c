/* What a controller must do and must not do, as one who only watches can tell.
 * Where such a one cannot know, the controller has the benefit of the doubt. */
#include <stdio.h>
#include <string.h>

#include "oracle.h"

#define BREAKS(when, i, rule)                                                  \
    do {                                                                       \
        if (when) {                                                            \
            printf("%s: %s\n", names[i], rule);                                \
            CHECK(!(when));                                                    \
        }                                                                      \
    } while (0)

enum mode { AUTO, OFF, HAND };

/* What is kept of an output. `since`: its last start or stop, or the boot. */
struct watched {
    bool on;
    bool rests_from_boot;
    uint64_t since;
    enum mode mode;
    enum mode mode_before;
    uint64_t hand_from;
    uint64_t hand_until;
    bool by_hand; /* this run began so */
    bool unsure;  /* the hand run was refused, or waits: nobody can tell */
    bool source_no;
    bool full_no;
    uint64_t ran;
    int starts;
    int trips;
    bool tripped;
    uint64_t tripped_at;
};

/* ... and of a duty. */
struct kept {
    bool on;           /* its latch, where it may be on */
    uint64_t low_from; /* below start without a break; 0: it is not */
    uint64_t past_from;
    int past;
    bool runs;
    uint64_t began;
    uint64_t ended;
    uint64_t given_ms; /* of a flood, and when it began or went on last */
    uint64_t went_on;
    bool owes;
    bool vague; /* how much of a flood was given is not known */
    bool ever;
    int given; /* doses of the session, or */
    int all;   /* of what may be it still */
    int unanswered;
    int base;
    int best;
    bool base_open;
    int calm; /* passes in which nothing kept it from running */
};

static const struct own_site *site;
static const struct driver *driver;
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
static const char *const *names = output_names;

void rules_begin(const struct own_site *of, const struct driver *by)
{
    site = of;
    driver = by;
    memset(outputs, 0, sizeof(outputs));
    memset(duties, 0, sizeof(duties));
    hold = false;
    forgotten = 0;
}

/* What does not survive the power; the rest must. */
void rules_boot(uint64_t now)
{
    for (int i = 0; i < OUTPUTS; i++) {
        struct watched *output = &outputs[i];
        if (output->on)
            output->ran += now - before;
        output->on = false;
        output->rests_from_boot = true;
        output->since = now;
        output->source_no = output->full_no = true;
        if (output->mode == HAND)
            output->mode = output->mode_before;
        failing[i] = false;
    }
    for (int d = 0; d < DUTIES; d++) {
        struct kept *duty = &duties[d];
        if (duty->runs) /* a dose, a flood counts as given */
            duty->ended = now;
        if (duty->runs && site->duties[d].what == FLOODS)
            duty->owes = false;
        duty->runs = duty->on = duty->base_open = false;
        duty->low_from = duty->past_from = 0;
        duty->past = duty->calm = 0;
    }
    for (int i = 0; i < SENSORS; i++)
        good[i] = now;
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
        if (strcmp(who, duty_names[d]) == 0)
            duties[d].given = duties[d].unanswered = duties[d].all = 0;
    for (int i = 0; i < OUTPUTS; i++) {
        struct watched *output = &outputs[i];
        if (strcmp(who, output_names[i]) != 0)
            continue;
        if (strcmp(verb, "clear") == 0) {
            output->trips = 0;
            output->tripped = false;
            continue;
        }
        if (output->mode != HAND)
            output->mode_before = output->mode;
        output->mode = strcmp(verb, "hand") == 0  ? HAND
                       : strcmp(verb, "off") == 0 ? OFF
                                                  : AUTO;
        output->hand_from = now;
        output->hand_until = now + (uint64_t)number * 1000;
        if (output->mode == AUTO)
            look_afresh(i);
    }
}

/* Whatever a duty had of its pump meanwhile is not known. */
static void forget_duties(int pump)
{
    for (int d = 0; d < DUTIES; d++) {
        struct kept *duty = &duties[d];
        if (site->duties[d].pump != pump)
            continue;
        duty->ever = duty->owes = duty->runs = false;
        duty->vague = true;
        duty->all += 100;
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

static void look_at_guards(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    int from = TANK(pump->from);
    if (view->known[from] && view->level[from] < pump->dry_below)
        output->source_no = true;
    if (view->known[from] && view->level[from] > pump->dry_clear)
        output->source_no = false;
    BREAKS(view->on[i] && (!view->known[from] || is_lost(now, from)), i,
           "runs though its source is lost");
    BREAKS(view->on[i] && output->source_no, i,
           "runs though its source is low");
    if (pump->into == NOBODY) {
        output->full_no = false;
        return;
    }
    int into = TANK(pump->into);
    if (view->known[into] && view->level[into] > pump->full_at)
        output->full_no = true;
    if (view->known[into] && view->level[into] < pump->full_at - 100)
        output->full_no = false;
    BREAKS(view->on[i] && (!view->known[into] || is_lost(now, into)), i,
           "runs though its destination is lost");
    BREAKS(view->on[i] && output->full_no, i,
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
           output->full_no || !view->known[TANK(pump->from)] ||
           (pump->into != NOBODY && !view->known[TANK(pump->into)]);
}

static void look_at_stop(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    bool long_enough = pump->longest && now - output->since >= pump->longest;
    if (is_stopped(i, view))
        return;
    if (long_enough) {
        output->tripped = true;
        output->tripped_at = now;
        output->trips++;
        return;
    }
    output->trips = 0;
}

static void look_at_start(uint64_t now, int i)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    uint64_t wait = pump->rest;
    if (output->rests_from_boot)
        wait = most(wait, site->boot_wait);
    BREAKS(now - output->since < wait, i, "starts before its rest is over");
    BREAKS(output->tripped && output->trips > pump->tries, i,
           "starts though it is locked");
    BREAKS(output->tripped && now - output->tripped_at < pump->retry, i,
           "starts before its retry");
    BREAKS(pump->day_starts && output->starts >= pump->day_starts, i,
           "starts too often in a day");
    output->tripped = false;
    output->rests_from_boot = false;
    output->by_hand = output->mode == HAND;
    output->starts++;
}

static void look_at_pump(uint64_t now, int i, const struct view *view)
{
    const struct pump *pump = &site->pumps[i];
    struct watched *output = &outputs[i];
    if (output->on)
        output->ran += now - before;
    look_at_guards(now, i, view);
    BREAKS(view->on[i] && output->mode == OFF, i, "runs though it is off");
    BREAKS(view->on[i] && hold, i, "runs though the site is on hold");
    BREAKS(view->on[i] && late, i, "runs in a late pass");
    BREAKS(view->on[i] && failing[i], i, "is wanted though it does not obey");
    BREAKS(view->on[i] && pump->per_day && output->ran >= pump->per_day, i,
           "runs longer than a day's limit");
    if (output->on && !view->on[i])
        look_at_stop(now, i, view);
    if (!output->on && view->on[i])
        look_at_start(now, i);
    BREAKS(output->on && view->on[i] && pump->longest &&
               now - output->since >= pump->longest,
           i, "runs longer than its longest");
    if (output->on != view->on[i])
        output->since = now;
    output->on = view->on[i];
}

static void look_at_all(const struct view *view)
{
    int running = 0;
    for (int i = 0; i < PUMPS; i++)
        running += view->on[i] || failing[i];
    for (int i = 0; i < PUMPS; i++) {
        BREAKS(view->on[i] && running > site->at_once && !failing[i] &&
                   outputs[i].since == before,
               i, "too many run at once");
        for (int k = 0; k < PUMPS; k++) {
            const struct pump *one = &site->pumps[i];
            const struct pump *two = &site->pumps[k];
            bool shares = one->from == two->from || one->from == two->into ||
                          one->into == two->from;
            BREAKS(view->on[i] && failing[k] && shares, i,
                   "runs at a tank with a pump that does not obey");
        }
    }
}

/* Duties */

static void look_at_latch(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    int level = view->level[plan->level];
    bool known = view->known[plan->level];
    bool low = known && level < plan->start;
    bool past = known && level > plan->stop;
    duty->past = past ? duty->past + (good[sensor_of(plan->level)] == now) : 0;
    if (!low)
        duty->low_from = 0;
    else if (!duty->low_from)
        duty->low_from = now;
    if (!past)
        duty->past_from = 0;
    else if (!duty->past_from)
        duty->past_from = now;
    if (low && now - duty->low_from >= plan->confirm)
        duty->on = true;
    if (!known || (past && duty->past > (plan->confirm ? 2 : 0) &&
                   now - duty->past_from >= plan->confirm))
        duty->on = false;
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
        duty->vague = false;
        duty->base_open = true;
        duty->base = 0;
        return;
    }
    names = duty_names;
    if (duty->given > 0 &&
        (duty->best - duty->base) * 10 < plan->stop - plan->start)
        duty->unanswered++;
    BREAKS(duty->given > 0 && now - duty->ended < plan->soak, d,
           "is given a dose before the last has soaked in");
    BREAKS(plan->doses && duty->unanswered >= plan->doses, d,
           "is given more doses that bring nothing");
    BREAKS(plan->doses && duty->given >= 4 * plan->doses, d,
           "is given more than four times its doses");
    names = output_names;
    duty->given++;
    duty->all++;
    duty->base = duty->best = view->level[plan->level];
    duty->base_open = true;
}

static void begin_flood(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    uint64_t least = plan->least ? plan->least : plan->every / 2;
    names = duty_names;
    BREAKS(duty->ever && !duty->vague && !duty->owes &&
               now - duty->began < least,
           d, "floods too soon after the last");
    names = output_names;
    if (!duty->owes) {
        duty->given_ms = 0;
        duty->began = now;
    }
    duty->went_on = now;
    duty->ever = true;
    duty->owes = true;
}

/* Whether the run under way is over its time by itself. */
static void look_at_length(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    const struct kept *duty = &duties[d];
    uint64_t ran = now - outputs[plan->pump].since;
    bool may_go_on = ran < site->pumps[plan->pump].shortest;
    names = duty_names;
    BREAKS(plan->what == DOSES && !may_go_on && now - duty->began >= plan->dose,
           d, "has a dose that is too long");
    BREAKS(plan->what == FLOODS && !may_go_on && duty->given_ms >= plan->flood,
           d, "floods too long");
    BREAKS(plan->what != FLOODS && !may_go_on && !duty->on, d,
           "runs though nothing asks for it");
    names = output_names;
}

/* A flood of which it is not known how much was given is over when nothing else
 * stopped it. */
static void end_run(uint64_t now, int d, const struct view *view)
{
    int pump = site->duties[d].pump;
    struct kept *duty = &duties[d];
    duty->ended = now;
    if (duty->vague || duty->given_ms >= site->duties[d].flood)
        duty->owes = false;
    if (outputs[pump].mode == AUTO && !is_stopped(pump, view) &&
        !site->pumps[pump].per_day)
        duty->vague = false;
}

static void look_at_run(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    const struct watched *output = &outputs[plan->pump];
    bool lingers = output->by_hand &&
                   now - output->since < site->pumps[plan->pump].shortest;
    bool runs = view->on[plan->pump] && output->mode == AUTO && !lingers &&
                (plan->valve == NOBODY || view->on[plan->valve]);
    if (duty->runs)
        duty->given_ms += now - before;
    if (runs && !duty->runs && plan->what == DOSES)
        begin_dose(now, d, view);
    if (runs && !duty->runs && plan->what == FLOODS)
        begin_flood(now, d);
    if (runs && !duty->runs && plan->what != FLOODS)
        duty->began = now;
    if (!runs && duty->runs)
        end_run(now, d, view);
    if (runs)
        look_at_length(now, d);
    duty->runs = runs;
}

static void look_at_route(const struct view *view)
{
    BREAKS(view->on[1] && outputs[1].mode == AUTO && !view->on[PUMPS] &&
               !view->on[PUMPS + 1],
           1, "runs with every valve shut");
}

/* What must run */

static bool asks_for_sure(uint64_t now, int d)
{
    const struct duty *plan = &site->duties[d];
    const struct kept *duty = &duties[d];
    if (plan->what == FLOODS)
        return duty->ever && !hold &&
               now - duty->went_on >= plan->every + forgotten + 2000;
    if (!duty->on || !duty->low_from ||
        now - duty->low_from < plan->confirm + 3000)
        return false;
    return plan->what == KEEPS ||
           ((plan->doses == 0 || duty->all < plan->doses) &&
            now - most(most(duty->ended, booted), outputs[plan->pump].since) >=
                plan->soak + 1000);
}

static bool is_free(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    const struct pump *pump = &site->pumps[plan->pump];
    const struct watched *output = &outputs[plan->pump];
    bool fine = !is_stopped(plan->pump, view) && output->mode == AUTO &&
                output->trips == 0 && site->at_once >= PUMPS &&
                !pump->per_day && !pump->day_starts &&
                view->level[TANK(pump->from)] > pump->dry_clear &&
                now - output->since >= most(pump->rest, site->boot_wait) + 1000;
    for (int i = 0; i < SENSORS; i++)
        fine = fine && good[i] == now;
    for (int i = 0; i < OUTPUTS; i++)
        fine = fine && !failing[i];
    for (int i = PUMPS; i < OUTPUTS; i++)
        fine = fine && outputs[i].mode == AUTO;
    return fine;
}

static void look_at_calm(uint64_t now, int d, const struct view *view)
{
    const struct duty *plan = &site->duties[d];
    struct kept *duty = &duties[d];
    bool idle = !view->on[plan->pump];
    duty->calm = idle && asks_for_sure(now, d) && is_free(now, d, view)
                     ? duty->calm + 1
                     : 0;
    names = duty_names;
    BREAKS(duty->calm > 5, d, "asks, nothing is in the way, and it waits");
    names = output_names;
}

void rules_look(uint64_t now, const struct into *into, const struct view *view)
{
    late = false;
    for (int i = 0; i < OUTPUTS; i++)
        late |= begun && outputs[i].on && now - before > site->late;
    for (int i = 0; i < SENSORS; i++)
        if (into->raw[i] >= 0 && into->raw[i] <= 1000)
            good[i] = now;
    end_hands(now);
    look_at_word(now, into, view);
    for (int d = 0; d < DUTIES; d++)
        if (site->duties[d].what != FLOODS)
            look_at_latch(now, d, view);
    for (int i = 0; i < PUMPS; i++)
        look_at_pump(now, i, view);
    for (int i = PUMPS; i < OUTPUTS; i++)
        outputs[i].on = view->on[i];
    look_at_route(view);
    for (int d = 0; d < DUTIES; d++) {
        look_at_run(now, d, view);
        look_at_calm(now, d, view);
    }
    before = now;
    look_at_all(view);
    begun = true;
    for (int i = 0; i < OUTPUTS; i++)
        failing[i] = into->failing[i];
}
