/* The garden as a whole. */
#include "inside.h"

void garden_begin(struct garden *garden, uint32_t clock_s)
{
    garden->clock_s = clock_s;
    garden->now_s = 0;
    garden->dip_s = -1e9;
    garden->begun_l = garden_stored(garden);
    garden_weather_begin(garden);
    garden_weather_step(garden);
    garden->tunnel_air = garden->weather.air;
    garden->tunnel_damp = garden->weather.damp;
}

uint32_t garden_clock_s(const struct garden *garden)
{
    return garden->clock_s;
}

void garden_step(struct garden *garden)
{
    garden->clock_s++;
    garden->now_s += 1;
    if (garden->fault_count > 0)
        garden_faults_step(garden);
    garden_weather_step(garden);
    garden_water_step(garden);
    for (int i = 0; i < garden->bed_count; i++)
        garden_soil_step(garden, &garden->beds[i]);
}

void garden_drive(struct garden *garden, int output, double place)
{
    garden->outputs[output].driven = place;
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
    return truth;
}

struct garden_vessel garden_vessel_truth(const struct garden *garden, int i)
{
    struct garden_vessel truth = garden->vessels[i].truth;
    truth.name = garden->vessels[i].name;
    truth.capacity_l = garden->vessels[i].capacity;
    return truth;
}

double garden_fill(const struct garden *garden, int vessel)
{
    return garden->vessels[vessel].litres / garden->vessels[vessel].capacity;
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
