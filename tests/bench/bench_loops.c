/* The careful loop of examples/compare and Cup Latch, second by second over
 * the same raw values, made beforehand; what each costs is the difference of
 * two runs under callgrind, less what the empty loop costs.
 *
 * Use: bench_loops SITE empty|careful|latch COUNT */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../examples/compare/loops.h"
#include "../../sitefile/sitefile.h"

/* A garden of made values, in place of the real one. */
#define SENSORS 5
#define ROWS 4096
struct garden {
    int32_t raws[ROWS][SENSORS];
    uint32_t row;
    volatile int driven;
};

bool garden_raw(struct garden *garden, int sensor, int32_t *raw)
{
    *raw = garden->raws[garden->row][sensor];
    return true;
}

void garden_drive(struct garden *garden, int output, bool high)
{
    garden->driven = output + high;
}

static const char *const names[SENSORS] = {"kale_soil", "cistern_echo",
                                           "header_echo", "sky", "tray_float"};

int garden_sensor(const struct garden *garden, const char *name)
{
    (void)garden;
    for (int i = 0; i < SENSORS; i++)
        if (strcmp(names[i], name) == 0)
            return i;
    return -1;
}

int garden_output(const struct garden *garden, const char *name)
{
    (void)garden;
    return (unsigned char)name[0];
}

/* Levels that fall and are filled again, with some noise on the echoes. */
static void make_rows(struct garden *garden)
{
    for (uint32_t i = 0; i < ROWS; i++) {
        int32_t noise = (int32_t)(i * UINT32_C(2654435761) >> 28);
        int32_t *raws = garden->raws[i];
        raws[0] = 1900 + (int32_t)(i / 8 % 256);
        raws[1] = 4000 + (int32_t)(i / 16) + noise;
        raws[2] = 3000 + (int32_t)(i / 4 % 600) + noise;
        raws[3] = i < ROWS / 2 ? 3000 : 200;
        raws[4] = i % 2000 > 1990;
    }
}

static struct garden garden;

static void latch_step(const struct cup_site *site, uint32_t s)
{
    struct cup_want want;
    while (cup_site_ask(site, s * 1000, &want)) {
        struct cup_sample sample = {0};
        if (want.kind == CUP_WANT_SAMPLE &&
            garden_raw(&garden, want.index, &sample.raw))
            cup_site_hear(site, want.index, s * 1000, sample);
    }
    cup_site_decide(site, s * 1000, NULL);
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        garden_drive(&garden, i, cup_site_runs(site, i));
}

int main(int argc, char **argv)
{
    struct careful careful = {0};
    struct yard yard = yard_of(&garden);
    struct cup_file *file = argc == 4 ? cup_file_read(argv[1]) : NULL;
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan)
        return 1;
    size_t size = cup_site_size(plan);
    void *state = malloc(size);
    struct cup_site site;
    if (!state || cup_site_bind(&site, plan, state, size))
        return 1;
    make_rows(&garden);
    uint32_t count = (uint32_t)strtoul(argv[3], NULL, 10);
    for (uint32_t s = 0; s < count; s++) {
        garden.row = s % ROWS;
        if (argv[2][0] == 'c')
            careful_step(&careful, &yard, s);
        else if (argv[2][0] == 'l')
            latch_step(&site, s);
    }
    free(state);
    cup_file_free(file);
    return 0;
}
