/* A site with every form, fed with bytes and raw values at any times: no
 * crash, and whatever is shown lies within what the sensor can show. */
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

static struct cup_file *file;
static struct cup_site site;
static void *state;

static void begin(void)
{
    if (!file)
        file = cup_file_read("tests/command/forms.ini");
    if (!file || !cup_file_plan(file))
        abort();
    const struct cup_plan *plan = cup_file_plan(file);
    size_t size = cup_site_size(plan);
    if (!state)
        state = malloc(size);
    if (!state || cup_site_bind(&site, plan, state, size))
        abort();
}

static void hear(uint8_t what, uint32_t now_ms, const uint8_t *bytes,
                 size_t count)
{
    const struct cup_plan *plan = site.plan;
    cup_index thing = (cup_index)(what % (plan->sensor_count + 1));
    int32_t raw = 0;
    memcpy(&raw, bytes, count < 4 ? count : 4);
    if (thing == plan->sensor_count)
        cup_site_answer(&site, 0, now_ms, bytes, count);
    else if (what & 0x80)
        cup_site_hear_bytes(&site, thing, now_ms, bytes, count);
    else
        cup_site_hear(&site, thing, now_ms, (struct cup_sample){.raw = raw});
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    struct cup_want want;
    uint32_t now_ms = 0;
    begin();
    while (count >= 3) {
        size_t length = bytes[2] % 16;
        now_ms += (uint32_t)bytes[1] * bytes[1];
        if (length > count - 3)
            length = count - 3;
        while (cup_site_ask(&site, now_ms, &want))
            ;
        hear(bytes[0], now_ms, bytes + 3, length);
        cup_site_decide(&site, now_ms, NULL);
        bytes += 3 + length;
        count -= 3 + length;
    }
    for (cup_index i = 0; i < site.plan->sensor_count; i++)
        if (cup_usable(cup_site_reading(&site, i)) !=
            (cup_site_reading(&site, i).quality != CUP_QUALITY_LOST &&
             (site.sensors[i].reading.flags & CUP_READING_KNOWN) != 0))
            abort();
    return 0;
}
