/* Two figures are as much as advice can know. */
#include "quantity.h"

#include <inttypes.h>
#include <math.h>
#include <stdio.h>
#include <string.h>

/* Two figures of it. */
static double rounded(double steps, bool up)
{
    double size = fabs(steps);
    double step = size < 100 ? 1 : pow(10, floor(log10(size)) - 1);
    double round = up ? ceil(size / step - 1e-9) : floor(size / step + 1e-9);
    return copysign(round * step, steps);
}

/* "4.000 L/min" as "4L/min". */
static void shorten(char *text)
{
    size_t number = strspn(text, "-0123456789.");
    size_t kept = number;
    const char *unit = text + number + strspn(text + number, " ");
    if (memchr(text, '.', number)) {
        while (text[kept - 1] == '0')
            kept--;
        kept -= text[kept - 1] == '.';
    }
    memmove(text + kept, unit, strlen(unit) + 1);
}

void quantity_text(double steps, uint8_t unit, bool up, char *text, size_t size)
{
    cup_say_number(text, size, false, (int32_t)rounded(steps, up), unit);
    shorten(text);
}

void quantity_time(uint64_t ms, char *text, size_t size)
{
    static const uint64_t round[] = {
        1,    2,    3,     4,     5,     6,     8,    10,   12,   15,
        20,   25,   30,    40,    45,    60,    75,   90,   120,  150,
        180,  240,  300,   420,   600,   900,   1200, 1800, 2700, 3600,
        5400, 7200, 10800, 14400, 21600, 43200, 86400};
    uint64_t s = (ms + 999) / 1000;
    for (size_t i = 0; i < sizeof(round) / sizeof(round[0]); i++)
        if (round[i] >= s) {
            s = round[i];
            break;
        }
    if (s % 3600 == 0 && s > 0)
        snprintf(text, size, "%" PRIu64 "h", s / 3600);
    else if (s % 60 == 0 && s > 0)
        snprintf(text, size, "%" PRIu64 "m", s / 60);
    else
        snprintf(text, size, "%" PRIu64 "s", s);
}
