/* Garden files of any bytes, played for a minute; and faults of any words. */
#include <stdlib.h>
#include <string.h>

#include "../../garden/garden.h"
#include "bytes.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static FILE *nowhere;
    if (!nowhere)
        nowhere = fopen("/dev/null", "w");
    struct garden *garden =
        garden_read(bytes_as_file(bytes, count), 1, nowhere);
    if (!garden)
        return 0;
    char *words = strndup((const char *)bytes, count);
    garden_fault(garden, words, 1e6);
    garden_random_faults(garden, 3, 0.01);
    garden_begin(garden, 1000000);
    for (int s = 0; s < 60; s++)
        garden_step(garden);
    free(words);
    garden_close(garden);
    return 0;
}
