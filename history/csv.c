#include "csv.h"

#include <string.h>

void csv_text(FILE *out, const char *text)
{
    if (!text[strcspn(text, ",\"\r\n")]) {
        fputs(text, out);
        return;
    }
    fputc('"', out);
    for (; *text; text++)
        fprintf(out, *text == '"' ? "\"\"" : "%c", *text);
    fputc('"', out);
}
