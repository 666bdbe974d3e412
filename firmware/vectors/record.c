/* Records what the sensors of a simulated garden say, for vectors.c.
 *
 * Use: record SITE GARDEN PASSES >RECORDING */
#include <stdio.h>
#include <stdlib.h>

#include "../../ports/sim/sim.h"
#include "../../sitefile/sitefile.h"

#define FROM_S UINT32_C(1936137600) /* 2031-05-10 */

struct recorder {
    struct cup_onlooker onlooker;
    cup_index count;
};

static void put(uint32_t value, int bytes)
{
    for (int i = 0; i < bytes; i++)
        putchar((int)(value >> (8 * i) & 0xFF));
}

static void passed(void *self, uint32_t t_ms)
{
    const struct recorder *recorder = self;
    struct cup_seen *seen = recorder->onlooker.sensors;
    uint32_t heard = 0;
    (void)t_ms;
    for (cup_index i = 0; i < recorder->count; i++)
        heard += seen[i].heard;
    put(heard, 1);
    for (cup_index i = 0; i < recorder->count; i++) {
        if (!seen[i].heard)
            continue;
        put(i, 1);
        put(seen[i].sample.reject, 1);
        put((uint32_t)seen[i].sample.raw, 4);
        seen[i].heard = false;
    }
}

/* Faults of each kind, so that guards, proofs and alerts speak; those of things
 * that a garden does not have are left out. */
static const char *const faults[] = {"lost of header_echo at 40m for 10m",
                                     "torn of tunnel_air at 1h for 20m",
                                     "stuck of cistern_echo at 2h for 20m",
                                     "leak of header at 90m for 20m 5L/min",
                                     "dead of lift at 3h for 30m",
                                     "bounce of tray_float at 4h for 10m",
                                     "shorted of kale_soil at 5h for 10m"};

static bool play(struct garden *garden, const struct cup_plan *plan,
                 unsigned long passes)
{
    char wrong[120];
    struct cup_site site;
    size_t size = cup_site_size(plan);
    void *state = malloc(size);
    struct cup_seen *seen = calloc(plan->sensor_count, sizeof(*seen));
    struct recorder recorder = {{seen, passed, &recorder}, plan->sensor_count};
    if (!state || !seen || cup_site_bind(&site, plan, state, size))
        abort();
    struct cup_sim *sim = cup_sim_join(garden, &site, wrong, sizeof(wrong));
    if (sim) {
        cup_sim_watch(sim, NULL, &recorder.onlooker);
        put(garden_clock_s(garden), 4);
        while (passes-- > 0)
            cup_sim_pass(sim);
        put(255, 1);
        cup_sim_close(sim);
    } else {
        fprintf(stderr, "%s\n", wrong);
    }
    free(seen);
    free(state);
    return sim != NULL;
}

int main(int argc, char **argv)
{
    struct cup_file *file = argc == 4 ? cup_file_read(argv[1]) : NULL;
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    struct garden *garden = plan ? garden_read(argv[2], 7, stderr) : NULL;
    if (!garden)
        return 2;
    for (size_t i = 0; i < sizeof(faults) / sizeof(faults[0]); i++)
        (void)garden_fault(garden, faults[i], 1e6);
    garden_begin(garden, FROM_S);
    bool played = play(garden, plan, strtoul(argv[3], NULL, 10));
    garden_close(garden);
    cup_file_free(file);
    return !played;
}
