/* Vessels, pumps and pipes: each second water moves, and none is lost from the
 * books. */
#include <math.h>

#include "inside.h"

#define PI 3.14159265358979323846

/* Vessels */

static double litres_at(const struct vessel *vessel, double mm)
{
    double radius = vessel->diameter / 2;
    switch (vessel->shape) {
    case 1:
        return vessel->length * vessel->width * mm / 1e6;
    case 2:
        return (radius * radius *
                    acos(most(-1, least(1, (radius - mm) / radius))) -
                (radius - mm) * sqrt(most(0, 2 * radius * mm - mm * mm))) *
               vessel->length / 1e6;
    default:
        return PI * radius * radius * mm / 1e6;
    }
}

/* What does not change is found once: the depth by the share of volume, and
 * what is in it where its float valve opens and shuts, and where nothing can be
 * drawn. */
void vessel_shape(struct vessel *vessel)
{
    vessel->capacity = litres_at(vessel, vessel->depth);
    vessel->opens_l =
        litres_at(vessel, most(0, vessel->depth - vessel->float_band_mm));
    vessel->shuts_l = litres_at(vessel, vessel->depth - 1);
    vessel->empty_l =
        vessel->intake_mm >= 0
            ? litres_at(vessel, least(vessel->intake_mm, vessel->depth))
            : (vessel->used_l_day > 0 ? 0 : -1);
    for (int i = 0; i <= DEPTHS; i++) {
        double low = 0;
        double high = vessel->depth;
        for (int half = 0; half < 40; half++) {
            double mid = (low + high) / 2;
            if (litres_at(vessel, mid) < vessel->capacity * i / DEPTHS)
                low = mid;
            else
                high = mid;
        }
        vessel->table[i] = (low + high) / 2;
    }
}

double vessel_depth(const struct vessel *vessel)
{
    double at = most(0, least(1, vessel->litres / vessel->capacity)) * DEPTHS;
    int i = at >= DEPTHS ? DEPTHS - 1 : (int)at;
    return vessel->table[i] +
           (vessel->table[i + 1] - vessel->table[i]) * (at - i);
}

void vessel_add(struct vessel *vessel, double litres)
{
    vessel->litres += litres;
    vessel->came_l += litres;
    double over = vessel->litres - vessel->capacity;
    if (over > 0) {
        vessel->litres = vessel->capacity;
        vessel->truth.overflow_l += over;
    }
}

double vessel_take(struct vessel *vessel, double litres)
{
    double taken = least(litres, vessel->litres);
    vessel->litres -= taken;
    vessel->went_l += taken;
    return taken;
}

static void drain(struct garden *garden, struct vessel *vessel)
{
    double out = vessel_take(vessel, vessel->drains_l_min / 60);
    if (vessel->back < 0)
        vessel->used_l += out;
    else
        vessel_add(&garden->vessels[vessel->back], out);
}

/* No more than there is room for: what feeds it stands still then. */
static void feed(struct vessel *vessel)
{
    double fed = least(vessel->fed_l_s, vessel->capacity - vessel->litres);
    if (fed <= 0)
        return;
    vessel->fed_l += fed;
    vessel_add(vessel, fed);
}

static void step_valve(struct vessel *vessel)
{
    if (vessel->litres < vessel->opens_l)
        vessel->is_open = true;
    if (vessel->litres > vessel->shuts_l)
        vessel->is_open = false;
}

/* Empty is what nothing can be drawn from; over the brim, what runs over. */
static void score_vessel(struct vessel *vessel)
{
    struct garden_vessel *truth = &vessel->truth;
    truth->lowest_l = least(truth->lowest_l, vessel->litres);
    truth->highest_l = most(truth->highest_l, vessel->litres);
    vessel->empty_s += vessel->litres <= vessel->empty_l;
    vessel->over_s += truth->overflow_l > vessel->overflow_before_l;
    vessel->overflow_before_l = truth->overflow_l;
}

static void step_vessel(struct garden *garden, struct vessel *vessel)
{
    double taps = garden->weather.sun > 0 ? garden->weather.taps_day
                                          : garden->weather.taps_night;
    double rain = garden->weather.rain_mm_s * vessel->roof_m2;
    if (rain > 0) {
        vessel->rain_l += rain;
        vessel_add(vessel, rain);
    }
    if (vessel->fed_l_s > 0)
        feed(vessel);
    if (vessel->leak_l_s > 0)
        vessel->truth.leaked_l +=
            vessel_take(vessel, vessel->leak_l_s *
                                    sqrt(vessel_depth(vessel) / vessel->depth));
    if (vessel->used_l_day > 0)
        vessel->used_l +=
            vessel_take(vessel, vessel->used_l_day * taps / 86400);
    if (vessel->drains_l_min > 0)
        drain(garden, vessel);
    if (vessel->float_band_mm > 0)
        step_valve(vessel);
    score_vessel(vessel);
    /* what nobody could see is nothing: tiny numbers are slow to reckon with */
    vessel->ripple_mm = vessel->ripple_mm > 1e-9 ? vessel->ripple_mm * 0.9 : 0;
}

/* Pumps */

static bool lets_in(const struct garden *garden, int valve)
{
    return valve < 0 || garden->outputs[valve].place > 0.95;
}

/* How open the valve at the end of a line is. A float valve snaps: open once
 * the level has fallen by its band, shut once it is full. */
static double opening(const struct garden *garden, const struct output *pump)
{
    if (!pump->into_line)
        return 1;
    return garden->vessels[pump->into[0].index].is_open;
}

static void reach(struct garden *garden, struct where into, double litres)
{
    if (into.kind == BED) {
        struct bed *bed = &garden->beds[into.index];
        bed->pool_mm += litres / bed->area_m2;
        bed->truth.given_l += litres;
    } else {
        vessel_add(&garden->vessels[into.index], litres);
        garden->vessels[into.index].ripple_mm = 2;
    }
}

/* What stands open shares what comes, as pipes of one width do. */
static void deliver(struct garden *garden, struct output *pump, double litres)
{
    bool open[2];
    int ways = 0;
    for (int i = 0; i < 2; i++) {
        open[i] =
            pump->into[i].kind != NOWHERE && lets_in(garden, pump->valve[i]);
        ways += open[i];
    }
    for (int i = 0; i < 2; i++)
        if (open[i])
            reach(garden, pump->into[i], litres / ways);
    if (ways > 0)
        return;
    garden->spilled_l += litres;
    pump->truth.spilled_l += litres;
}

/* Water that left the pump a while ago comes out of the pipe now. */
static double through_pipe(struct output *pump, double litres, uint32_t now)
{
    if (pump->pipe_s == 0)
        return litres;
    double *slot = &pump->pipe[now % (uint32_t)pump->pipe_s];
    double out = *slot;
    *slot = litres;
    return out;
}

/* What of its flow is left over the height that it lifts: the square of the
 * flow and the height share what it can give, as in most centrifugal pumps.
 * Water that stands high in its source spares it as much. */
static double lifted(const struct output *pump, const struct vessel *from)
{
    if (pump->head_m <= 0)
        return 1;
    double rises = pump->rises_m - (from ? vessel_depth(from) / 1000 : 0);
    return sqrt(most(0, 1 - most(0, rises) / pump->head_m));
}

/* Whether there is water where it draws, and how much it lifts in a second. */
static double lifts(struct garden *garden, struct output *pump)
{
    struct vessel *from =
        pump->from.kind == VESSEL ? &garden->vessels[pump->from.index] : NULL;
    bool wet =
        !pump->blocked && (!from || vessel_depth(from) > pump->intake_mm);
    if (!wet) {
        pump->truth.dry_s += 1;
        pump->primed_s = 0;
        return 0;
    }
    pump->primed_s += 1;
    if (pump->dead || pump->air || pump->primed_s <= pump->primes_s)
        return 0;
    double litres = pump->flow_l_s * pump->place * lifted(pump, from) *
                    opening(garden, pump);
    return from ? vessel_take(from, litres) : litres;
}

/* A line keeps its pressure while the valve at its end is shut. */
static void step_line(struct garden *garden, struct output *pump, bool on,
                      double litres)
{
    double open = opening(garden, pump);
    double shut = pump->head_m * 9806.65;
    double goal =
        on && (litres > 0 || open < 0.01) ? shut * (1 - 0.8 * open) : 0;
    double pace = on ? 3 : open > 0.01 ? 2 : 7200;
    pump->pressure_pa += (goal - pump->pressure_pa) / pace;
}

static void start_pump(struct garden *garden, struct output *pump)
{
    if (pump->truth.starts > 0)
        pump->truth.shortest_rest_s =
            least(pump->truth.shortest_rest_s, pump->since_stop_s);
    pump->truth.starts++;
    garden->dip_s = garden->now_s;
    pump->primed_s = 0;
}

/* A pump that is driven in part turns from a twentieth on. */
static bool is_on(const struct output *pump)
{
    return pump->place > 0.05;
}

/* It lies still, and nothing is in it. */
static bool is_still(const struct output *pump)
{
    return !is_on(pump) && !pump->was_on && pump->pipe_s == 0 &&
           !pump->into_line;
}

static void step_pump(struct garden *garden, struct output *pump)
{
    bool on = is_on(pump);
    double litres = 0;
    if (on && !pump->was_on)
        start_pump(garden, pump);
    if (on) {
        litres = lifts(garden, pump);
        pump->truth.ran_s += pump->in_part ? 1 : pump->place;
        pump->truth.energy_wh += pump->power_w * pump->place / 3600;
        pump->truth.moved_l += litres;
    }
    if (pump->into_line)
        step_line(garden, pump, on, litres);
    pump->since_stop_s = on ? 0 : pump->since_stop_s + 1;
    pump->was_on = on;
    double out = through_pipe(pump, litres, garden->clock_s);
    if (out <= 0)
        return;
    if (pump->hose_off) {
        garden->spilled_l += out;
        pump->truth.spilled_l += out;
    } else
        deliver(garden, pump, out);
}

static void step_battery(struct garden *garden, double load_w)
{
    const double volts = 1.0 / 12 / 3600 / 60; /* of a Ws: some 60 Ah a volt */
    double power = garden->solar_w * garden->weather.panel - load_w - 3;
    garden->battery_v += power * volts;
    garden->battery_v = most(10.8, least(13.6, garden->battery_v));
}

static double approach(double from, double to, double by)
{
    return from < to ? least(to, from + by) : most(to, from - by);
}

/* What travels does so at its own pace, whatever the controller believes; what
 * has two lines stays where it is while neither is driven. */
static void step_place(struct output *output, bool dark)
{
    double mean = output->drove + output->goal * (1 - output->at_s);
    double goal = dark ? 0 : output->pace < 1 ? output->goal : mean;
    output->drove = 0;
    output->at_s = 0;
    if (output->two_lines)
        goal = dark || output->way == 0 ? output->place : output->way > 0;
    if (output->stuck_on)
        goal = 1;
    if (output->stuck_off)
        goal = output->two_lines ? output->place : 0;
    if (output->place != goal)
        output->place = approach(output->place, goal, output->pace);
}

void garden_water_step(struct garden *garden)
{
    double load = 0;
    for (int i = 0; i < garden->output_count; i++) {
        struct output *output = &garden->outputs[i];
        step_place(output, garden->dark);
        if (output->is_pump && is_still(output))
            output->since_stop_s += 1;
        else if (output->is_pump)
            step_pump(garden, output);
        load += output->power_w * output->place;
    }
    for (int i = 0; i < garden->vessel_count; i++)
        step_vessel(garden, &garden->vessels[i]);
    step_battery(garden, load);
}

/* Everything that holds water now, pipes included. */
double garden_stored(const struct garden *garden)
{
    double sum = 0;
    for (int i = 0; i < garden->vessel_count; i++)
        sum += garden->vessels[i].litres;
    for (int i = 0; i < garden->bed_count; i++)
        sum += (garden->beds[i].water_mm + garden->beds[i].pool_mm) *
               garden->beds[i].area_m2;
    for (int i = 0; i < garden->output_count; i++)
        for (int s = 0; s < garden->outputs[i].pipe_s; s++)
            sum += garden->outputs[i].pipe[s];
    return sum;
}

struct garden_balance garden_balance(const struct garden *garden)
{
    struct garden_balance balance = {.in = garden->begun_l + garden->refilled_l,
                                     .stored = garden_stored(garden),
                                     .leaked = garden->spilled_l};
    for (int i = 0; i < garden->vessel_count; i++) {
        const struct vessel *vessel = &garden->vessels[i];
        balance.used += vessel->used_l;
        balance.overflowed += vessel->truth.overflow_l;
        balance.leaked += vessel->truth.leaked_l;
        balance.in += vessel->rain_l + vessel->fed_l;
    }
    for (int i = 0; i < garden->bed_count; i++) {
        const struct bed *bed = &garden->beds[i];
        balance.used += (bed->used_mm + bed->drained_mm) * bed->area_m2;
        balance.in += bed->rain_mm * bed->area_m2;
    }
    for (int i = 0; i < garden->output_count; i++)
        if (garden->outputs[i].is_pump &&
            garden->outputs[i].from.kind == NOWHERE)
            balance.in += garden->outputs[i].truth.moved_l;
    return balance;
}
