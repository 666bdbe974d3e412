/* How far an output is driven, by the level that its duty keeps. */
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../../grammar/scan.h"
#include "duty.h"

/* Where a speed alone says when to run, it stops this part of its way before
 * its first point, so that it does not chatter there. */
#define BAND_PARTS 20

/* "34%:40%" */
static const char *read_point(const struct duty_making *making, char *text,
                              struct cup_speed_point *point)
{
    enum cup_unit unit =
        (enum cup_unit)cup_thing_unit(&making->file->plan, making->duty->keep);
    char *colon = strchr(text, ':');
    int32_t share = 0;
    if (!colon)
        return "expected MARK:SHARE pairs, such as 34%:40% 20%:100%";
    *colon = '\0';
    const char *wrong = quantity_read(text, unit, &point->at);
    if (!wrong)
        wrong = quantity_read(colon + 1, CUP_UNIT_PERCENT, &share);
    if (!wrong && (share <= 0 || share > 10000))
        wrong = "a share is more than 0% and at most 100%";
    point->place_pct100 = (uint16_t)share;
    return wrong;
}

/* The next point is on the same side of the one before as that was of its. */
static const char *check_order(const struct cup_speed_point *points, int count)
{
    bool falls = points[1].at < points[0].at;
    for (int i = 1; i < count; i++)
        if (points[i].at == points[i - 1].at ||
            (points[i].at < points[i - 1].at) != falls ||
            points[i].place_pct100 < points[i - 1].place_pct100)
            return "expected the gentlest first: marks that rise or fall "
                   "throughout, shares that rise";
    return NULL;
}

static const char *read_points(const struct duty_making *making,
                               const struct value *value,
                               struct cup_speed *speed)
{
    struct cup_speed_point *points =
        &making->file->tables
             .speed_points[(size_t)making->thing->index * CUP_SPEED_POINTS];
    struct scanned word;
    speed->points = points;
    for (const char *at = value->text; scan_next(&at, &word);) {
        if (speed->count == CUP_SPEED_POINTS)
            return "expected 8 pairs at the most";
        const char *wrong =
            read_point(making, word.text, &points[speed->count++]);
        if (wrong)
            return wrong;
    }
    if (speed->count < 2)
        return "expected two pairs or more, such as 34%:40% 20%:100%";
    return check_order(points, speed->count);
}

/* The output can be put anywhere at once. */
static void drive_in_part(const struct duty_making *making)
{
    const struct thing *pump = making->pump;
    if (!pump)
        return;
    if (value_of(pump, "travel")->given || value_of(pump, "open")->given ||
        pump->style == STYLE_VENT)
        duty_wrong(making, "speed",
                   "its output is driven at once to where it is to be: "
                   "expected one without travel, open and close");
    making->file->tables.pumps[pump->index].positional = true;
}

bool duty_make_speed(const struct duty_making *making, struct value *start,
                     struct value *stop)
{
    const struct value *value = good_value(making->thing, "speed");
    struct cup_speed *speed =
        &making->file->tables.speeds[making->thing->index];
    if (!value)
        return false;
    const char *wrong = read_points(making, value, speed);
    if (wrong) {
        duty_wrong(making, "speed", wrong);
        return false;
    }
    making->duty->speed = speed;
    drive_in_part(making);
    int32_t first = speed->points[0].at;
    int32_t way = first - speed->points[speed->count - 1].at;
    int32_t band = way / BAND_PARTS;
    *start = *value;
    *stop = *value;
    stop->text = "which its first pair gives";
    start->number = first;
    stop->number = first + (band != 0 ? band : way > 0 ? 1 : -1);
    return true;
}
