/* Makes so many passes of a site, idle or with every sensor sampled; what one
 * pass costs is the difference of two runs under callgrind, less what the
 * empty loop costs.
 *
 * Use: bench_pass SITE empty|idle|sampled COUNT [MS between passes] */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../sitefile/sitefile.h"

enum how { EMPTY, IDLE, SAMPLED };

/* Seconds, a pass each, until boot waits and rests are over; not counted. */
#define SETTLE 600

/* Noise on a raw value, made beforehand; and the value itself, which is 2000
 * where that can be. */
#define RAWS 256
static int32_t raws[RAWS];
#define RAW 2000
#define NOISE 32

/* What the loop of the benchmark itself costs. */
static volatile int32_t ignored;

static int32_t raw_of(const struct cup_sensor *sensor)
{
    int32_t raw = RAW - sensor->offset;
    bool fits = raw >= sensor->lowest && raw + NOISE <= sensor->highest;
    return fits ? RAW
                : (sensor->lowest + sensor->highest - NOISE) / 2 +
                      sensor->offset;
}

/* A meter stands still: nothing runs. */
static int32_t noise_of(const struct cup_sensor *sensor, uint32_t i)
{
    return sensor->form == CUP_FORM_PULSES ? 0 : raws[i % RAWS];
}

static void hear_all(const struct cup_site *site, uint32_t i, uint32_t now,
                     bool empty)
{
    for (cup_index s = 0; s < site->plan->sensor_count; s++) {
        const struct cup_sensor *sensor = &site->plan->sensors[s];
        struct cup_sample sample = {.raw = raw_of(sensor) +
                                           noise_of(sensor, i + s)};
        if (empty)
            ignored = sample.raw;
        else
            cup_site_hear(site, s, now, sample);
    }
}

static void pass(const struct cup_site *site, uint32_t i, uint32_t now,
                 enum how how)
{
    struct cup_want want;
    if (how != IDLE)
        hear_all(site, i, now, how == EMPTY);
    else
        while (cup_site_ask(site, now, &want))
            cup_site_hear(site, want.index, now,
                          (struct cup_sample){
                              .raw = raw_of(&site->plan->sensors[want.index])});
    if (how != EMPTY)
        cup_site_decide(site, now, NULL);
}

static void make_raws(void)
{
    for (uint32_t i = 0; i < RAWS; i++)
        raws[i] = (int32_t)(i * UINT32_C(2654435761) >> 27);
}

static enum how how_of(const char *word)
{
    if (strcmp(word, "sampled") == 0)
        return SAMPLED;
    return strcmp(word, "idle") == 0 ? IDLE : EMPTY;
}

int main(int argc, char **argv)
{
    if (argc < 4)
        return 2;
    uint32_t step_ms = argc > 4 ? (uint32_t)strtoul(argv[4], NULL, 10) : 10;
    struct cup_file *file = cup_file_read(argv[1]);
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan)
        return 1;
    size_t size = cup_site_size(plan);
    void *state = malloc(size);
    struct cup_site site;
    enum how how = how_of(argv[2]);
    uint32_t count = (uint32_t)strtoul(argv[3], NULL, 10);
    if (!state || cup_site_bind(&site, plan, state, size))
        return 1;
    make_raws();
    uint32_t now = 0;
    for (uint32_t i = 0; i < SETTLE; i++, now += 1000)
        pass(&site, i, now, SAMPLED);
    clock_t begun = clock();
    for (uint32_t i = 0; i < count; i++, now += step_ms)
        pass(&site, i, now, how);
    double s = (double)(clock() - begun) / CLOCKS_PER_SEC;
    printf("%zu bytes of state, %.1f million passes in a second\n", size,
           s > 0 ? count / s / 1e6 : 0);
    free(state);
    cup_file_free(file);
    return 0;
}
