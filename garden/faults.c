/* What goes wrong, and when: told, or at random from the seed. */
#include <stdlib.h>
#include <string.h>

#include "../grammar/quantity.h"
#include "../grammar/text.h"
#include "inside.h"

enum kind {
    F_STUCK,
    F_LOST,
    F_SHORTED,
    F_DRIFT,
    F_TORN,
    F_BOUNCE,
    F_DIPS,
    F_LEAK,
    F_DEAD,
    F_AIR,
    F_BLOCKED,
    F_HOSE,
    F_RELAY_ON,
    F_RELAY_OFF,
    F_REBOOT,
    F_WRAP,
    F_RUNG,
    F_LEAP,
    F_SPIDER,
    F_FOAM,
    F_FLOOR,
    F_PUDDLE,
    F_KINDS
};

enum target {
    T_SENSOR,
    T_FLOAT,
    T_RANGER,
    T_PROBE,
    T_VESSEL,
    T_OUTPUT,
    T_CONTROLLER
};

static const struct {
    const char *name;
    enum target target;
} kinds[F_KINDS] = {
    [F_STUCK] = {"stuck", T_SENSOR},
    [F_LOST] = {"lost", T_SENSOR},
    [F_SHORTED] = {"shorted", T_SENSOR},
    [F_DRIFT] = {"drift", T_SENSOR},
    [F_TORN] = {"torn", T_SENSOR},
    [F_BOUNCE] = {"bounce", T_FLOAT},
    [F_DIPS] = {"dips", T_SENSOR},
    [F_LEAK] = {"leak", T_VESSEL},
    [F_DEAD] = {"dead", T_OUTPUT},
    [F_AIR] = {"air-lock", T_OUTPUT},
    [F_BLOCKED] = {"blocked", T_OUTPUT},
    [F_HOSE] = {"hose-off", T_OUTPUT},
    [F_RELAY_ON] = {"relay-on", T_OUTPUT},
    [F_RELAY_OFF] = {"relay-off", T_OUTPUT},
    [F_REBOOT] = {"reboot", T_CONTROLLER},
    [F_WRAP] = {"wrap", T_CONTROLLER},
    [F_RUNG] = {"rung", T_RANGER},
    [F_LEAP] = {"leap", T_RANGER},
    [F_SPIDER] = {"spider", T_RANGER},
    [F_FOAM] = {"foam", T_RANGER},
    [F_FLOOR] = {"floor", T_RANGER},
    [F_PUDDLE] = {"puddle", T_PROBE},
};

/* What each can happen to, where it is not there. */
static const char *const no_target[] = {
    [T_SENSOR] = "this happens to a sensor; the garden has none of the name "
                 "\"%s\"",
    [T_FLOAT] = "this happens to a float; the garden has none of the name "
                "\"%s\"",
    [T_RANGER] = "this happens to a ranger; the garden has none of the name "
                 "\"%s\"",
    [T_PROBE] = "this happens to a probe in a bed; the garden has none of the "
                "name \"%s\"",
    [T_VESSEL] = "this happens to a vessel; the garden has none of the name "
                 "\"%s\"",
    [T_OUTPUT] = "this happens to a pump, valve or other output; the garden "
                 "has none of the name \"%s\"",
    [T_CONTROLLER] = "this happens to the controller, not to \"%s\"",
};

static bool suits(const struct sensor *sensor, enum target target)
{
    switch (target) {
    case T_FLOAT:
        return sensor->kind == S_FLOAT;
    case T_RANGER:
        return sensor->kind == S_ECHO || sensor->kind == S_WORD;
    case T_PROBE:
        return sensor->kind == S_PROBE;
    default:
        return true;
    }
}

static int find_target(const struct garden *garden, enum target target,
                       const char *name)
{
    int sensor = garden_sensor(garden, name);
    if (target == T_SENSOR)
        return sensor;
    if (target == T_FLOAT || target == T_RANGER || target == T_PROBE)
        return sensor >= 0 && suits(&garden->sensors[sensor], target) ? sensor
                                                                      : -1;
    if (target == T_VESSEL)
        return garden_find(garden, VESSEL, name);
    if (target == T_OUTPUT)
        return garden_output(garden, name);
    return strcmp(name, "controller") == 0 ? 0 : -1;
}

double garden_seconds(const char *text)
{
    double s;
    return quantity_read_time(text, &s) ? -1 : s;
}

/* How fast a leak is, in L/s; 1 L/min when it is not said. */
static double amount_of(const char *text)
{
    int32_t ml_min = 1000;
    if (*text && quantity_read(text, CUP_UNIT_FLOW, &ml_min))
        return -1;
    return ml_min / 60000.0;
}

static const char *wrong(const char *form, const char *what)
{
    static char message[240];
    snprintf(message, sizeof(message), form, what);
    return text_mend(message);
}

/* What is wrong with a fault that was read; null when nothing is. */
static const char *judge(const struct garden *garden, const struct fault *fault,
                         const char *what, double days)
{
    if (fault->index < 0)
        return wrong(no_target[kinds[fault->kind].target], what);
    if (fault->at_s < 0 || fault->for_s <= 0 || fault->amount < 0)
        return wrong("expected times such as 1d2h and 5h, and of a leak how "
                     "fast, such as 2L/min%s",
                     "");
    if (fault->at_s >= days * 86400)
        return wrong("%s would begin after the last day",
                     kinds[fault->kind].name);
    return garden->fault_count == FAULTS_MOST ? wrong("too many faults%s", "")
                                              : NULL;
}

const char *garden_fault(struct garden *garden, const char *text, double days)
{
    char kind[20];
    char what[NAME_SIZE];
    char at[24];
    char span[24];
    char amount[24] = "";
    struct fault fault = {.kind = 0};
    if (sscanf(text, "%19s of %31s at %23s for %23s %23s", kind, what, at, span,
               amount) < 4)
        return wrong("expected KIND of WHAT at TIME for TIME, such as leak of "
                     "header at 1d2h for 5h%s",
                     "");
    while (fault.kind < F_KINDS && strcmp(kinds[fault.kind].name, kind) != 0)
        fault.kind++;
    if (fault.kind == F_KINDS)
        return wrong("\"%s\" is no fault; expected stuck, lost, shorted, "
                     "drift, torn, bounce, dips, leak, dead, air-lock, "
                     "blocked, hose-off, relay-on, relay-off, reboot, wrap, "
                     "rung, leap, spider, foam, floor or puddle",
                     kind);
    fault.index = find_target(garden, kinds[fault.kind].target, what);
    fault.at_s = garden_seconds(at);
    fault.for_s = garden_seconds(span);
    fault.amount = amount_of(amount);
    const char *message = judge(garden, &fault, what, days);
    if (!message)
        garden->faults[garden->fault_count++] = fault;
    return message;
}

static int count_of(const struct garden *garden, enum target target)
{
    if (target < T_VESSEL)
        return garden->sensor_count;
    if (target == T_VESSEL)
        return garden->vessel_count;
    return target == T_OUTPUT ? garden->output_count : 1;
}

void garden_random_faults(struct garden *garden, int count, double days)
{
    while (count-- > 0 && garden->fault_count < FAULTS_MOST) {
        struct fault fault = {
            .kind = (int)(garden_chance(&garden->fault_chance) * F_KINDS)};
        enum target target = kinds[fault.kind].target;
        fault.index = (int)(garden_chance(&garden->fault_chance) *
                            count_of(garden, target));
        fault.at_s = garden_chance(&garden->fault_chance) * days * 86400;
        fault.for_s = 600 + garden_chance(&garden->fault_chance) * 6 * 3600;
        fault.amount = 0.005 + 0.03 * garden_chance(&garden->fault_chance);
        bool fits = target >= T_VESSEL || target == T_FLOAT ||
                    suits(&garden->sensors[fault.index], target);
        if (fits &&
            (target != T_OUTPUT || garden->outputs[fault.index].is_pump))
            garden->faults[garden->fault_count++] = fault;
    }
}

/* What a sensor says that is not so. */
static void set_lie(struct sensor *sensor, const struct fault *fault, bool on)
{
    if (fault->kind == F_RUNG)
        sensor->is_rung = on;
    else if (fault->kind == F_LEAP)
        sensor->is_leap = on;
    else if (fault->kind == F_SPIDER)
        sensor->is_spider = on;
    else if (fault->kind == F_FLOOR)
        sensor->is_floor = on;
    else if (fault->kind == F_PUDDLE)
        sensor->is_puddle = on;
}

static void set_sensor(struct sensor *sensor, const struct fault *fault,
                       bool on)
{
    if (fault->kind == F_STUCK)
        sensor->is_stuck = on;
    else if (fault->kind == F_LOST)
        sensor->is_lost = on;
    else if (fault->kind == F_SHORTED)
        sensor->is_shorted = on;
    else if (fault->kind == F_TORN)
        sensor->is_torn = on;
    else if (fault->kind == F_BOUNCE)
        sensor->is_bouncing = on;
    else if (fault->kind == F_DIPS)
        sensor->dips = on;
    else
        set_lie(sensor, fault, on);
}

/* A sensor that drifts is off by a tenth of its scale in the end. */
static double drift_of(const struct garden *garden, const struct fault *fault)
{
    const struct sensor *sensor = &garden->sensors[fault->index];
    double gone = garden->now_s - fault->at_s;
    return 0.1 * (sensor->high - sensor->low) * least(1, gone / fault->for_s);
}

static void set_output(struct output *output, const struct fault *fault,
                       bool on)
{
    if (fault->kind == F_DEAD)
        output->dead = on;
    else if (fault->kind == F_AIR)
        output->air = on;
    else if (fault->kind == F_BLOCKED)
        output->blocked = on;
    else if (fault->kind == F_HOSE)
        output->hose_off = on;
    else if (fault->kind == F_RELAY_ON)
        output->stuck_on = on;
    else
        output->stuck_off = on;
    if (fault->kind == F_RELAY_ON || fault->kind == F_RELAY_OFF)
        output->truth.faulty = true;
}

/* Whether another of the same kind, at the same thing, is still on; and what
 * leaks by all of these together. */
static bool is_still_on(const struct garden *garden, const struct fault *fault,
                        double *amount)
{
    bool on = false;
    *amount = 0;
    for (int i = 0; i < garden->fault_count; i++) {
        const struct fault *other = &garden->faults[i];
        if (!other->on || other->kind != fault->kind ||
            other->index != fault->index)
            continue;
        on = true;
        *amount += other->amount;
    }
    return on;
}

static void set(struct garden *garden, struct fault *fault, bool begins)
{
    double amount;
    fault->on = begins;
    bool on = is_still_on(garden, fault, &amount);
    switch (kinds[fault->kind].target) {
    case T_SENSOR:
    case T_FLOAT:
    case T_RANGER:
    case T_PROBE:
        set_sensor(&garden->sensors[fault->index], fault, on);
        break;
    case T_VESSEL:
        garden->vessels[fault->index].leak_l_s = amount;
        break;
    case T_OUTPUT:
        set_output(&garden->outputs[fault->index], fault, on);
        break;
    default:
        garden->was_cut |= begins;
        garden->wraps = begins && fault->kind == F_WRAP;
        /* a second or less only resets it */
        garden->dark = on && fault->kind == F_REBOOT && fault->for_s > 1;
    }
}

/* Foam grows to a quarter of the depth in the end. */
static double foam_of(const struct garden *garden, const struct fault *fault)
{
    return 0.25 * least(1, (garden->now_s - fault->at_s) / fault->for_s);
}

/* Drifts add up, and end with their fault; so does foam. */
static void drift(struct garden *garden)
{
    for (int i = 0; i < garden->sensor_count; i++)
        garden->sensors[i].drift = garden->sensors[i].foam = 0;
    for (int i = 0; i < garden->fault_count; i++) {
        const struct fault *fault = &garden->faults[i];
        if (fault->on && fault->kind == F_DRIFT)
            garden->sensors[fault->index].drift += drift_of(garden, fault);
        if (fault->on && fault->kind == F_FOAM)
            garden->sensors[fault->index].foam += foam_of(garden, fault);
    }
}

void garden_faults_step(struct garden *garden)
{
    for (int i = 0; i < garden->fault_count; i++) {
        struct fault *fault = &garden->faults[i];
        bool on = garden->now_s >= fault->at_s &&
                  garden->now_s < fault->at_s + fault->for_s;
        if (on != fault->on)
            set(garden, fault, on);
    }
    if (garden->fault_count > 0)
        drift(garden);
}

int garden_troubles(const struct garden *garden)
{
    return garden->fault_count;
}

static const char *name_of(const struct garden *garden,
                           const struct fault *fault)
{
    switch (kinds[fault->kind].target) {
    case T_SENSOR:
    case T_FLOAT:
    case T_RANGER:
    case T_PROBE:
        return garden->sensors[fault->index].name;
    case T_VESSEL:
        return garden->vessels[fault->index].name;
    case T_OUTPUT:
        return garden->outputs[fault->index].name;
    default:
        return "controller";
    }
}

struct garden_trouble garden_trouble_truth(const struct garden *garden, int i)
{
    const struct fault *fault = &garden->faults[i];
    return (struct garden_trouble){kinds[fault->kind].name,
                                   name_of(garden, fault), fault->at_s,
                                   fault->for_s};
}
