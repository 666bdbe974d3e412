/* Lines of any bytes into the stream: whatever comes in, the last line that
 * goes out has every output off. */
#include <stdlib.h>
#include <string.h>

#include "../../ports/lines/lines.h"
#include "../../sitefile/sitefile.h"
#include "bytes.h"

/* The last line, if any was told, says that the one output is off. */
static void check_last(const char *out)
{
    const char *last = out;
    for (const char *at = out; (at = strchr(at, '\n')); at++)
        if (at[1])
            last = at + 1;
    if (*last && !strstr(last, "\"out\":{\"lift\":0}"))
        abort();
}

static const struct cup_plan *begin(struct cup_site *site)
{
    static struct cup_file *file;
    static uint32_t state[2048];
    if (!file)
        file = cup_file_read("tests/command/one_bed.ini");
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan || cup_site_bind(site, plan, state, sizeof(state)))
        abort();
    return plan;
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    struct cup_lines_more more = {.stop_fd = -1};
    struct cup_site site;
    char *text = NULL;
    size_t size = 0;
    const struct cup_plan *plan = begin(&site);
    if (count == 0)
        return 0;
    FILE *in = fmemopen((void *)bytes, count, "r");
    FILE *out = open_memstream(&text, &size);
    if (!in || !out || cup_lines_run(&site, in, out, &more))
        abort();
    fclose(in);
    fclose(out);
    check_last(text);
    free(text);
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (cup_site_runs(&site, i))
            abort();
    return 0;
}
