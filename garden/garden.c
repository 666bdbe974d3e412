/* The garden as a whole. */
#include "inside.h"

void garden_begin(struct garden *garden, uint32_t clock_s)
{
    garden->clock_s = clock_s;
    for (int i = 0; i < garden->vessel_count; i++) {
        vessel_shape(&garden->vessels[i]);
        garden->vessels[i].begun_l = garden->vessels[i].litres;
    }
    garden->now_s = 0;
    garden->dip_s = -1e9;
    garden->begun_l = garden_stored(garden);
    garden_weather_begin(garden);
    garden_tunnel_begin(garden);
}

uint32_t garden_clock_s(const struct garden *garden)
{
    return garden->clock_s;
}

void garden_step(struct garden *garden)
{
    garden->clock_s++;
    garden->now_s += 1;
    garden->word = 0;
    if (garden->fault_count > 0)
        garden_faults_step(garden);
    if (garden->visit_count > 0)
        garden_visits_step(garden);
    garden_weather_step(garden);
    garden->rain_mm += garden->weather.rain_mm_s;
    garden_tunnel_step(garden);
    garden_water_step(garden);
    for (int i = 0; i < garden->bed_count; i++)
        garden_soil_step(garden, &garden->beds[i]);
}

/* It is driven elsewhere from now on, in the middle of a second or not. */
static void drive_to(struct garden *garden, struct output *output, double goal)
{
    output->drove += output->goal * (garden->late_s - output->at_s);
    output->at_s = garden->late_s;
    output->goal = goal;
}

void garden_drive(struct garden *garden, int output, bool high)
{
    struct output *one = &garden->outputs[output];
    drive_to(garden, one, high != one->active_low);
}

void garden_move(struct garden *garden, int output, double place, int way)
{
    drive_to(garden, &garden->outputs[output], place);
    garden->outputs[output].way = way;
    garden->outputs[output].in_part = true;
}

void garden_late(struct garden *garden, double late_s)
{
    garden->late_s = late_s;
}

void garden_supply(struct garden *garden, int sensor, bool on)
{
    garden->sensors[sensor].fed_at_s = on ? garden->now_s + garden->late_s : -1;
}

bool garden_is_dark(const struct garden *garden)
{
    return garden->dark;
}

bool garden_was_cut(struct garden *garden)
{
    bool was_cut = garden->was_cut;
    garden->was_cut = false;
    return was_cut;
}

bool garden_wraps(const struct garden *garden)
{
    return garden->wraps;
}

int garden_beds(const struct garden *garden)
{
    return garden->bed_count;
}

int garden_vessels(const struct garden *garden)
{
    return garden->vessel_count;
}

int garden_pumps(const struct garden *garden)
{
    int pumps = 0;
    for (int i = 0; i < garden->output_count; i++)
        pumps += garden->outputs[i].is_pump;
    return pumps;
}

struct garden_bed garden_bed_truth(const struct garden *garden, int i)
{
    struct garden_bed truth = garden->beds[i].truth;
    truth.name = garden->beds[i].name;
    truth.dry_h = garden->beds[i].dry_s / 3600;
    truth.right_h = garden->beds[i].right_s / 3600;
    truth.wet_h = garden->beds[i].wet_s / 3600;
    truth.used_l = garden->beds[i].used_mm * garden->beds[i].area_m2;
    truth.rain_l = garden->beds[i].rain_mm * garden->beds[i].area_m2;
    return truth;
}

/* How far its books are from closing. */
static double off_of(const struct vessel *vessel)
{
    return vessel->begun_l + vessel->came_l - vessel->went_l -
           vessel->truth.overflow_l - vessel->litres;
}

struct garden_vessel garden_vessel_truth(const struct garden *garden, int i)
{
    struct garden_vessel truth = garden->vessels[i].truth;
    truth.name = garden->vessels[i].name;
    truth.capacity_l = garden->vessels[i].capacity;
    truth.empty_h = garden->vessels[i].empty_s / 3600;
    truth.over_h = garden->vessels[i].over_s / 3600;
    truth.off_l = off_of(&garden->vessels[i]);
    return truth;
}

struct garden_sky garden_sky(const struct garden *garden)
{
    const struct weather *weather = &garden->weather;
    return (struct garden_sky){weather->sun, garden->rain_mm, weather->air};
}

double garden_fill(const struct garden *garden, int vessel)
{
    return garden->vessels[vessel].litres / garden->vessels[vessel].capacity;
}

double garden_place(const struct garden *garden, int output)
{
    return garden->outputs[output].place;
}

/* The i-th of the outputs that are pumps. */
struct garden_pump garden_pump_truth(const struct garden *garden, int i)
{
    int at = 0;
    while (!garden->outputs[at].is_pump || i-- > 0)
        at++;
    struct garden_pump truth = garden->outputs[at].truth;
    truth.name = garden->outputs[at].name;
    return truth;
}

static bool is_broken(const struct output *output)
{
    return output->dead || output->air || output->blocked || output->hose_off ||
           output->stuck_on || output->stuck_off;
}

bool garden_pump_is_well(const struct garden *garden, const char *name)
{
    int i = garden_output(garden, name);
    const struct output *pump = i < 0 ? NULL : &garden->outputs[i];
    if (!pump || !pump->is_pump || is_broken(pump))
        return false;
    return pump->from.kind != VESSEL ||
           vessel_depth(&garden->vessels[pump->from.index]) > pump->intake_mm;
}
