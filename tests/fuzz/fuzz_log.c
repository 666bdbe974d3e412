/* Recorded logs of any bytes, played through a site. */
#include <stdlib.h>

#include "../../ports/log/log.h"
#include "../../sitefile/sitefile.h"
#include "bytes.h"

/* A log may span years of passes: so many rows are enough. */
#define ROWS_MOST 8
#define SPAN_MOST_MS UINT64_C(100000000)

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static struct cup_file *file;
    static uint32_t state[2048];
    char wrong[240];
    struct cup_site site;
    if (!file)
        file = cup_file_read("tests/command/one_bed.ini");
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan || cup_site_bind(&site, plan, state, sizeof(state)))
        abort();
    struct cup_log *log =
        cup_log_open(bytes_as_file(bytes, count), plan, wrong, sizeof(wrong));
    if (!log)
        return 0;
    for (int i = 0; i < ROWS_MOST && cup_log_span_ms(log) < SPAN_MOST_MS; i++)
        if (!cup_log_play(log, &site, NULL))
            break;
    cup_log_wrong(log);
    cup_log_close(log);
    return 0;
}
