/* Volumes of vessels by their closed forms. */
#include "shape.h"

#include <math.h>

#define PI 3.14159265358979323846
#define LITRE 1e6 /* cubic mm */

static double straps_litres(const struct shape *shape, double mm)
{
    int i = 1;
    while (i < shape->count - 1 && shape->straps[i].mm < mm)
        i++;
    const struct strap *low = &shape->straps[i - 1];
    const struct strap *high = &shape->straps[i];
    double part = (mm - low->mm) / (high->mm - low->mm);
    return low->litres + part * (high->litres - low->litres);
}

/* A circle's segment below a height. */
static double segment(double radius, double mm)
{
    double away = radius - mm;
    return radius * radius * acos(fmax(-1, fmin(1, away / radius))) -
           away * sqrt(fmax(0, 2 * radius * mm - mm * mm));
}

/* A cone cut off: pi h / 12 (D^2 + D d + d^2). */
static double tapered(const struct shape *shape, double mm)
{
    double here =
        shape->diameter + (shape->top - shape->diameter) * mm / shape->depth;
    return PI * mm / 12 *
           (shape->diameter * shape->diameter + shape->diameter * here +
            here * here);
}

double shape_litres(const struct shape *shape, double mm)
{
    switch (shape->kind) {
    case SHAPE_UPRIGHT:
        return PI / 4 * shape->diameter * shape->diameter * mm / LITRE;
    case SHAPE_BOX:
        return shape->length * shape->width * mm / LITRE;
    case SHAPE_TAPERED:
        return tapered(shape, mm) / LITRE;
    case SHAPE_LYING:
        return segment(shape->diameter / 2, mm) * shape->length / LITRE;
    default:
        return straps_litres(shape, mm);
    }
}

/* Evenly for a taper; closer together at the ends of a lying cylinder, where
 * its sides turn fastest. */
int shape_heights(const struct shape *shape, double *heights)
{
    int last = CUP_CURVE_POINTS - 1;
    if (shape->kind == SHAPE_TABLE) {
        for (int i = 0; i < shape->count; i++)
            heights[i] = shape->straps[i].mm;
        return shape->count;
    }
    if (shape->kind == SHAPE_UPRIGHT || shape->kind == SHAPE_BOX)
        last = 1;
    for (int i = 0; i <= last; i++) {
        double part = (double)i / last;
        if (shape->kind == SHAPE_LYING)
            part = acos(1 - 2 * shape->depth / shape->diameter) * part;
        heights[i] = shape->kind == SHAPE_LYING
                         ? shape->diameter / 2 * (1 - cos(part))
                         : shape->depth * part;
    }
    return last + 1;
}
