/* Sun, rain and nights of a picture. */
#include <math.h>

#include "picture.h"

static bool is_of_days(const struct picture *picture)
{
    return picture->figures.bin_s >= DAY_S;
}

/* The rain of a bin: mm an hour, or, where a bin is a day, mm a day. */
static double rain_in(const struct picture *picture, int column, int bin)
{
    const struct figures *figures = &picture->figures;
    const struct bin *fell = table_bin(figures, &figures->truth, column, bin);
    const struct bin *before =
        table_bin(figures, &figures->truth, column, bin - 1);
    double per = (is_of_days(picture) ? DAY_S : 3600) / figures->bin_s;
    if (fell->count == 0)
        return 0;
    return (fell->high - before->high) * per /
           (picture_is_us(picture) ? 25.4 : 1);
}

static double rain_most(const struct picture *picture)
{
    int column = table_column(&picture->figures.truth, "rain_mm");
    double most = 0;
    for (int bin = 0; bin < picture->figures.bins; bin++)
        most = fmax(most, rain_in(picture, column, bin));
    return most;
}

/* The time, the sun and the rain of each bin. */
void picture_sky_data(const struct picture *picture, FILE *out)
{
    const struct figures *figures = &picture->figures;
    const struct table *truth = &figures->truth;
    int sun = table_column(truth, "sun");
    int rain = table_column(truth, "rain_mm");
    for (int bin = 0; bin < figures->bins; bin++) {
        const struct bin *sky = table_bin(figures, truth, sun, bin);
        if (sky->count > 0)
            fprintf(out, "%.0f %.4g %.4g\n",
                    picture->begin + (bin + 0.5) * figures->bin_s,
                    sky->sum / sky->count, rain_in(picture, rain, bin));
    }
}

static void write_night(struct picture *picture, int from, int to)
{
    double bin_s = picture->figures.bin_s;
    if (from >= 0)
        fprintf(picture->to,
                "set object %d rectangle from first %.0f, graph 0 to first "
                "%.0f, graph 1 fc rgb '" COLOUR_NIGHT
                "' fs solid noborder behind\n",
                ++picture->labels, picture->begin + from * bin_s,
                picture->begin + to * bin_s);
}

/* From when the sun sets until it rises. */
void picture_nights(struct picture *picture)
{
    const struct figures *figures = &picture->figures;
    int sun = table_column(&figures->truth, "sun");
    int since = -1;
    if (sun < 0 || picture_is_long(picture))
        return;
    for (int bin = 0; bin < figures->bins; bin++) {
        const struct bin *sky = table_bin(figures, &figures->truth, sun, bin);
        bool night = sky->count > 0 && sky->high <= 0;
        if (night && since < 0)
            since = bin;
        if (!night) {
            write_night(picture, since, bin);
            since = -1;
        }
    }
    write_night(picture, since, figures->bins);
}

void picture_sky(const struct picture *picture)
{
    char data[DRAWING_NAME_SIZE];
    bool us = picture_is_us(picture);
    drawing_data(data, picture->panel_count);
    fprintf(picture->to,
            "set ylabel 'sky' offset character 1,0\nset yrange [0:1.05]\n"
            "unset ytics\nset autoscale y2\nset y2range [0:*]\n"
            "plot '%s' using 1:2 with filledcurves y1=0 fs solid noborder lc "
            "rgb '" COLOUR_SUN "' title 'sun', '%s' using 1:3 axes x1y2 with "
            "impulses lw 1.5 lc rgb '" COLOUR_RAIN
            "' title 'rain: %.2g %s', NaN notitle\n",
            data, data, rain_most(picture),
            is_of_days(picture) ? us ? "in/day" : "mm/day"
            : us                ? "in/h"
                                : "mm/h");
}
