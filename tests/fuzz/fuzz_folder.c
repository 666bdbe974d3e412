/* Folders of any bytes through `plot`: first the lengths of site.json and of
 * levels.csv, two bytes each; then these, and the rest is events.jsonl. gnuplot
 * is one that takes nothing but our own script. */
#include <stdio.h>
#include <stdlib.h>

#include "../../cli/picture/record.h"
#include "../../cli/rehearse/record.h"
#include "bytes.h"

/* Writes as much of the bytes as the file has, and goes on after them. */
static void put(const char *name, size_t most, const uint8_t **bytes,
                size_t *count)
{
    char path[200];
    size_t length = most < *count ? most : *count;
    snprintf(path, sizeof(path), "%s/%s", folder_of_ours(), name);
    FILE *file = fopen(path, "w");
    if (!file || fwrite(*bytes, 1, length, file) != length || fclose(file))
        abort();
    *bytes += length;
    *count -= length;
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    char to[200];
    if (count < 4)
        return 0;
    size_t site = (size_t)(bytes[0] | bytes[1] << 8);
    size_t levels = (size_t)(bytes[2] | bytes[3] << 8);
    bytes += 4;
    count -= 4;
    stand_in_for_gnuplot();
    put("site.json", site, &bytes, &count);
    put("levels.csv", levels, &bytes, &count);
    put("events.jsonl", count, &bytes, &count);
    snprintf(to, sizeof(to), "%s/picture.png", folder_of_ours());
    plot_record(folder_of_ours(), to);
    return 0;
}
