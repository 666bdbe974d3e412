/* The curve of a sensor: from the pairs that a grower knows, or from what its
 * form gives by itself. */
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "making.h"

/* Curves */

static void set_curve(const struct making *making,
                      const struct cup_point *points, uint8_t count, bool clamp,
                      struct place place)
{
    enum cup_error error = plan_make_curve(making->file, making->thing->index,
                                           points, count, clamp);
    if (error == CUP_ERROR_ORDER)
        making_wrong(
            making, place,
            "raw values must differ and rise or fall throughout; calibrate "
            "again");
    else if (error)
        making_wrong(making, place, "steeper than the library can hold");
}

static void check_raw(const struct making *making, const struct value *value)
{
    int32_t low = making->sensor->lowest + making->sensor->offset;
    int32_t high = making->sensor->highest + making->sensor->offset;
    if (value->number < low || value->number > high)
        problem_error(&making->file->problems, value->place,
                      "outside plausible, %d..%d: such samples are rejected",
                      low, high);
}

static bool clamps(const struct making *making)
{
    return number_of(making->thing, "clamp", 0) == 0;
}

static void curve_of_dry_and_wet(const struct making *making)
{
    const struct value *dry = good_value(making->thing, "dry");
    const struct value *wet = good_value(making->thing, "wet");
    if (!making_given(making, "dry") || !making_given(making, "wet"))
        making_wrong(
            making, making->thing->place,
            "needs both dry and wet, the raw values in dry and in wet soil, "
            "or points");
    if (!dry || !wet)
        return;
    struct cup_point points[] = {{(uint16_t)dry->number, 0},
                                 {(uint16_t)wet->number, 10000}};
    if (dry->number == wet->number)
        making_wrong(making, wet->place,
                     "dry and wet are the same raw value; calibrate again");
    else
        set_curve(making, points, 2, clamps(making), wet->place);
    check_raw(making, dry);
    check_raw(making, wet);
}

/* One "RAW:VALUE" of points; false when it is none, which was told. */
static bool read_point(const struct making *making, char *text,
                       struct cup_point *point)
{
    const struct value *points = value_of(making->thing, "points");
    char *colon = strchr(text, ':');
    int32_t raw = 0;
    if (colon)
        *colon = '\0';
    const char *message =
        colon ? quantity_read_whole(text, making->sensor->offset,
                                    UINT16_MAX + making->sensor->offset, &raw)
              : "expected RAW:VALUE pairs, such as 2900:0% 1180:100%";
    if (!message)
        message = quantity_read(colon + 1, (enum cup_unit)making->sensor->unit,
                                &point->y);
    if (message)
        making_wrong(making, points->place, message);
    point->x = (uint16_t)(raw - making->sensor->offset);
    return !message;
}

static void curve_of_points(const struct making *making)
{
    const struct value *value = value_of(making->thing, "points");
    struct cup_point points[CUP_CURVE_POINTS];
    struct scanned word;
    uint8_t count = 0;
    for (const char *at = value->text; scan_next(&at, &word);) {
        if (count == CUP_CURVE_POINTS) {
            making_wrong(making, value->place, "more than 33 points");
            return;
        }
        if (!read_point(making, word.text, &points[count++]))
            return;
    }
    if (count < 2)
        making_wrong(making, value->place, "expected at least two points");
    else
        set_curve(making, points, count, clamps(making), value->place);
}

static void curve_of_nature(const struct making *making,
                            const struct nature *nature)
{
    bool square = making->form == CUP_FORM_SWITCH;
    if (nature->unit != making->sensor->unit)
        problem_error(&making->file->problems, making_place(making, "form"),
                      "gives %s by itself; to measure %s it needs points",
                      quantity_kind(nature->unit),
                      value_of(making->thing, "measures")->text);
    else
        set_curve(making, nature->line, 2, square, making->thing->place);
}

static void warn_plausible(const struct making *making)
{
    if (making->form == CUP_FORM_COUNTS && !making_given(making, "plausible"))
        problem_warning(&making->file->problems, making->thing->place,
                        "without plausible, an unplugged sensor may pass for "
                        "a good value; add plausible = LOW..HIGH");
}

void making_curve(const struct making *making, const struct nature *nature)
{
    bool marked = making_given(making, "dry") || making_given(making, "wet");
    if (marked && making->sensor->unit != CUP_UNIT_PERCENT)
        making_wrong(
            making,
            making_place(making, making_given(making, "dry") ? "dry" : "wet"),
            "dry and wet are for what is measured in %; give points");
    else if (marked && making_given(making, "points"))
        making_wrong(making, making_place(making, "points"),
                     "give either dry and wet or points, not both");
    else if (good_value(making->thing, "points"))
        curve_of_points(making);
    else if (marked || making_needs(making, NEED_MARKS))
        curve_of_dry_and_wet(making);
    else
        curve_of_nature(making, nature);
    warn_plausible(making);
}
