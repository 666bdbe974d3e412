/* Writes a day of raw values for the kale bed and its header tank, as a
 * recorder would have kept them: the bed every 30 s, the tank every 5 s. The
 * bed dries in the sun and is watered at 34 %; at noon somebody unplugs the
 * probe for a while; in the afternoon the tank runs low until it is filled;
 * the recorder's clock wraps at half past nine. Always the same day. */
#include <inttypes.h>
#include <math.h>
#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>

#define STEP_S 5
#define DAY_S 86400
#define HOUR(h, m) ((h)*3600 + (m)*60)

static uint32_t seed = 20310402;

static double chance(void)
{
    seed ^= seed << 13;
    seed ^= seed >> 17;
    seed ^= seed << 5;
    return seed / 4294967296.0;
}

/* About normal, of spread 1: the sum of twelve chances. */
static double noise(void)
{
    double sum = -6;
    for (int i = 0; i < 12; i++)
        sum += chance();
    return sum;
}

struct bed {
    double wet;     /* per cent, where the probe is */
    double shallow; /* per cent on its way down to it */
    bool thirsty;
    bool watered;
};

/* What a careful gardener would have done, so that the day hangs together. */
static bool should_water(struct bed *bed, int s, double litres)
{
    bool blind = s >= HOUR(12, 5) && s < HOUR(12, 50);
    if (blind || bed->wet > 66.1)
        bed->thirsty = false;
    else if (bed->wet < 33.9)
        bed->thirsty = true;
    return bed->thirsty && litres > (bed->watered ? 72 : 97);
}

static double sun(int s)
{
    double height = sin((s - HOUR(6, 0)) * 3.14159265 / HOUR(12, 0));
    return height > 0 ? height : 0;
}

static void step_bed(struct bed *bed, int s)
{
    bed->shallow += bed->watered ? 0.105 : 0;
    double sinks = bed->shallow * 0.02;
    bed->shallow -= sinks;
    bed->wet += sinks - STEP_S * (0.0002 + 0.0028 * sun(s));
}

static double step_tank(double litres, bool watered, int s)
{
    if (watered)
        litres -= 9.0 * STEP_S / 60;
    if (s >= HOUR(7, 0) && s < HOUR(20, 0))
        litres -= 0.05 * STEP_S / 60; /* the goats */
    if (s >= HOUR(16, 20) && s < HOUR(17, 0))
        litres += 13.0 * STEP_S / 60; /* somebody fills it up */
    return litres;
}

static void print_bed(double wet, int s)
{
    bool unplugged = s >= HOUR(12, 0) && s < HOUR(12, 45);
    if (s % 30 != 0)
        return;
    printf("%d",
           unplugged ? 4095 : (int)lround(2910 - wet * 17.3 + 4 * noise()));
}

static void print_echo(double litres)
{
    double depth = litres / 603.19 * 1200;
    double mm = 1350 - depth + 2.4 * noise();
    if (chance() < 0.006)
        printf("-");
    else
        printf("%d", chance() < 0.05 ? 0 : (int)lround(mm / 0.17171));
}

int main(void)
{
    uint32_t t_ms = UINT32_C(0) - HOUR(9, 30) * UINT32_C(1000);
    struct bed bed = {40.4, 0, false, false};
    double litres = 560;
    printf("t_ms,kale_soil,header_echo\n");
    for (int s = 0; s < DAY_S; s += STEP_S, t_ms += STEP_S * 1000) {
        bed.watered = should_water(&bed, s, litres);
        step_bed(&bed, s);
        litres = step_tank(litres, bed.watered, s);
        printf("%" PRIu32 ",", t_ms);
        print_bed(bed.wet, s);
        printf(",");
        print_echo(litres);
        printf("\n");
    }
    return 0;
}
