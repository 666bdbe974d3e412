/* Makes so many passes of a site, idle or with every sensor sampled; what one
 * pass costs is the difference of two runs under callgrind.
 *
 * Use: bench_pass SITE idle|sampled COUNT */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"

static uint32_t wobble(uint32_t i)
{
    return i * UINT32_C(2654435761) >> 27;
}

/* Settles the site in 60 passes, then makes those that are counted. */
static void pass(const struct cup_site *site, uint32_t i, bool sampled)
{
    uint32_t now_ms = i * 10;
    cup_index sensor;
    if (sampled)
        for (cup_index s = 0; s < site->plan->sensor_count; s++)
            cup_site_hear(
                site, s, now_ms,
                (struct cup_sample){.raw = (int32_t)(2000 + wobble(i + s))});
    else
        while (cup_site_ask(site, now_ms, &sensor))
            cup_site_hear(site, sensor, now_ms,
                          (struct cup_sample){.raw = 2000});
    cup_site_decide(site, now_ms, NULL);
}

int main(int argc, char **argv)
{
    if (argc != 4)
        return 2;
    struct cup_file *file = cup_file_read(argv[1]);
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan)
        return 1;
    size_t size = cup_site_size(plan);
    void *state = malloc(size);
    struct cup_site site;
    bool sampled = strcmp(argv[2], "sampled") == 0;
    uint32_t count = (uint32_t)strtoul(argv[3], NULL, 10);
    if (!state || cup_site_bind(&site, plan, state, size))
        return 1;
    for (uint32_t i = 0; i < 60; i++)
        pass(&site, i, true);
    for (uint32_t i = 60; i < 60 + count; i++)
        pass(&site, i, sampled);
    printf("%zu bytes of state\n", size);
    free(state);
    cup_file_free(file);
    return 0;
}
