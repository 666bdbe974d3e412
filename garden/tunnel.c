/* A tunnel of film over a bed: its warmth and vapour, each in balance, for a
 * m2 of its floor. The constants are our own round numbers for a tunnel of a
 * man's height. */
#include "fao56.h"
#include "inside.h"

#define HEIGHT_M 2.2
/* Full sun, and how much of it comes through the film; of that a part dries
 * leaves and soil, the rest warms. */
#define SUN_W 1000.0
#define THROUGH 0.65
#define DRIES 0.45
/* What a C of difference loses through the film, W, and what a C takes to warm
 * all in it, J. */
#define LOSES_W 9.0
#define HOLDS_J 16000.0
/* Air changes an hour: shut, and added by a vent and a fan. */
#define DRAUGHT 0.8
#define VENT 22.0
#define FAN 18.0
/* J to warm a m3 of air by a C, and to turn a kg of water into vapour. */
#define AIR_J 1206.0
#define VAPOUR_J 2.45e6
/* How fast vapour falls as dew on film that is colder than its dew point,
 * m/s. */
#define DEW_M_S 0.005

/* Vapour of so many kPa at so many C, kg/m3: the gas constant of water vapour
 * is 0.4615 kJ/(kg K). */
static double density(double kpa, double warm)
{
    return kpa / (0.4615 * (warm + 273.16));
}

static double changes_s(const struct garden *garden)
{
    double vent = garden->vent < 0 ? 0 : garden->outputs[garden->vent].place;
    double fan = garden->fan < 0 ? 0 : garden->outputs[garden->fan].place;
    return (DRAUGHT + VENT * vent + FAN * fan) / 3600;
}

static void look(struct garden *garden)
{
    struct tunnel *tunnel = &garden->tunnel;
    const struct weather *weather = &garden->weather;
    double film = (tunnel->air + weather->air) / 2;
    tunnel->film_kg = density(fao56_saturation(film), film);
    tunnel->out_kg = density(weather->vapour, weather->air);
    tunnel->full_kg = density(fao56_saturation(tunnel->air), tunnel->air);
}

void garden_tunnel_begin(struct garden *garden)
{
    garden->tunnel.air = garden->weather.air;
    look(garden);
    garden->tunnel.vapour_kg = garden->tunnel.out_kg;
    garden_tunnel_step(garden);
}

/* Curves of the vapour are looked up every ten seconds: they bend slowly. */
void garden_tunnel_step(struct garden *garden)
{
    struct tunnel *tunnel = &garden->tunnel;
    const struct weather *weather = &garden->weather;
    double changes = changes_s(garden);
    double sun = weather->sun * SUN_W * THROUGH;
    if (garden->clock_s % 10 == 0)
        look(garden);
    double loses = LOSES_W + AIR_J * HEIGHT_M * changes;
    tunnel->air +=
        (sun * (1 - DRIES) - loses * (tunnel->air - weather->air)) / HOLDS_J;
    /* leaves give the less the damper it is; a little at night, too */
    double dry = most(0, 1 - tunnel->vapour_kg / tunnel->full_kg);
    double gives = (sun * DRIES / VAPOUR_J + 6e-6) * least(1, 2.5 * dry);
    double dew = DEW_M_S * most(0, tunnel->vapour_kg - tunnel->film_kg);
    tunnel->vapour_kg += (gives - dew) / HEIGHT_M -
                         changes * (tunnel->vapour_kg - tunnel->out_kg);
    tunnel->vapour_kg = least(tunnel->vapour_kg, tunnel->full_kg);
    tunnel->damp = 100 * tunnel->vapour_kg / tunnel->full_kg;
}
