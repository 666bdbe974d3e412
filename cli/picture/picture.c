/* What the parts of a picture share. */
#include "picture.h"

#include <string.h>

#include "../common/json_in.h"

bool picture_is_us(const struct picture *picture)
{
    return strcmp(text_in(picture->figures.site, "units"), "us") == 0;
}

void picture_text(struct picture *picture, const char *text, double x, double y,
                  const char *more)
{
    fprintf(picture->to, "set label %d ", ++picture->labels);
    drawing_text(&picture->drawing, text, false);
    fprintf(picture->to, " at %.0f,%.8g %s noenhanced\n", x, y, more);
}
