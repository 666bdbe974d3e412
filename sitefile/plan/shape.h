/* The true shapes of vessels, which curves are made of and held against. */
#ifndef CUPLATCH_SITEFILE_SHAPE_H
#define CUPLATCH_SITEFILE_SHAPE_H

#include "cuplatch/curve.h"

/* In the order of the words of the key `shape`. */
enum shape_kind {
    SHAPE_UPRIGHT,
    SHAPE_BOX,
    SHAPE_TAPERED,
    SHAPE_LYING,
    SHAPE_TABLE
};

/* One line of a strapping table. */
struct strap {
    double mm;
    double litres;
};

/* Lengths in mm. upright: diameter. box: length, width. tapered: diameter at
 * the bottom, and at the top (the depth). lying: diameter, length. table:
 * straps, the last the depth. */
struct shape {
    enum shape_kind kind;
    double diameter;
    double length;
    double width;
    double top;
    double depth;
    struct strap straps[CUP_CURVE_POINTS];
    int count;
};

/* Litres below a height, 0 to the depth. */
double shape_litres(const struct shape *shape, double mm);

/* The heights at which the curve has its points, 0 first and the depth last;
 * returns how many. */
int shape_heights(const struct shape *shape, double *heights);

#endif
