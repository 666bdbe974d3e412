/* The colours of pictures, as people see them who lack red or green cones:
 * by the matrices of Machado, Oliveira and Fernandes (2009), and the distance
 * of CIE 1976 in L*a*b*. */
#include <math.h>
#include <stdlib.h>

#include "../../cli/picture/colours.h"
#include "../harness/harness.h"

/* How far apart two colours have to be: some ten times what is just seen. */
#define APART 22
#define LINES_APART 35

struct rgb {
    double part[3];
};

static const double sights[][3][3] = {
    {{1, 0, 0}, {0, 1, 0}, {0, 0, 1}},
    {{0.152286, 1.052583, -0.204868},
     {0.114503, 0.786281, 0.099216},
     {-0.003882, -0.048116, 1.051998}},
    {{0.367322, 0.860646, -0.227968},
     {0.280085, 0.672501, 0.047413},
     {-0.011820, 0.042940, 0.968881}},
};
static const char *const names[] = {"all cones", "no red", "no green"};

static struct rgb read_colour(const char *text)
{
    struct rgb rgb;
    unsigned long bits = strtoul(text + 1, NULL, 16);
    for (int i = 0; i < 3; i++) {
        double part = (double)(bits >> (16 - 8 * i) & 255) / 255;
        rgb.part[i] =
            part <= 0.04045 ? part / 12.92 : pow((part + 0.055) / 1.055, 2.4);
    }
    return rgb;
}

static struct rgb times(const double matrix[3][3], struct rgb rgb)
{
    struct rgb made = {{0}};
    for (int row = 0; row < 3; row++)
        for (int i = 0; i < 3; i++)
            made.part[row] += matrix[row][i] * rgb.part[i];
    return made;
}

static double bend(double share)
{
    return share > 216.0 / 24389 ? cbrt(share)
                                 : (24389.0 / 27 * share + 16) / 116;
}

/* sRGB has its white at D65. */
static struct rgb lab_of(struct rgb rgb)
{
    static const double to_xyz[3][3] = {{0.4124564, 0.3575761, 0.1804375},
                                        {0.2126729, 0.7151522, 0.0721750},
                                        {0.0193339, 0.1191920, 0.9503041}};
    struct rgb xyz = times(to_xyz, rgb);
    double x = bend(xyz.part[0] / 0.95047);
    double y = bend(xyz.part[1]);
    double z = bend(xyz.part[2] / 1.08883);
    return (struct rgb){{116 * y - 16, 500 * (x - y), 200 * (y - z)}};
}

static double apart(const double sight[3][3], const char *one,
                    const char *other)
{
    struct rgb a = lab_of(times(sight, read_colour(one)));
    struct rgb b = lab_of(times(sight, read_colour(other)));
    double sum = 0;
    for (int i = 0; i < 3; i++)
        sum += (a.part[i] - b.part[i]) * (a.part[i] - b.part[i]);
    return sqrt(sum);
}

CASE(any_two_lines_of_a_picture_are_told_apart)
{
    for (int sight = 0; sight < 3; sight++)
        for (int i = 0; i < COLOURS; i++)
            for (int j = 0; j < i; j++) {
                double far = apart(sights[sight], colours[i], colours[j]);
                harness_at("%s: %s and %s: %.1f", names[sight], colours[i],
                           colours[j], far);
                CHECK(far >= LINES_APART);
            }
    harness_at(NULL);
}

CASE(runs_blocks_and_troubles_are_told_apart)
{
    static const char *const rows[] = {COLOUR_RUN, COLOUR_BLOCK, COLOUR_TROUBLE,
                                       COLOUR_SUN, COLOUR_RAIN,  COLOUR_NIGHT};
    for (int sight = 0; sight < 3; sight++)
        for (int i = 0; i < 6; i++)
            for (int j = 0; j < i; j++) {
                double far = apart(sights[sight], rows[i], rows[j]);
                harness_at("%s: %s and %s: %.1f", names[sight], rows[i],
                           rows[j], far);
                CHECK(far >= APART);
            }
    harness_at(NULL);
}
