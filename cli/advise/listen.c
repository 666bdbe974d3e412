/* A raw log, played into the site by itself: its samples, the levels that they
 * come to, and the runs that follow. */
#include <stdlib.h>

#include "../../ports/log/log.h"
#include "advice.h"

/* A day, but for what is lost at its ends. */
#define SPAN_LEAST_MS (UINT64_C(23) * 3600 * 1000)

struct listening {
    struct advising *advising;
    struct cup_log *log;
    struct cup_onlooker watch;
    uint64_t at_ms;
};

static void hear_sensor(struct listening *listening, cup_index i)
{
    const struct cup_site *site = &listening->advising->site.site;
    const struct cup_sensor *sensor = &site->plan->sensors[i];
    struct advised *advised = &listening->advising->things[i];
    struct cup_seen *seen = &listening->watch.sensors[i];
    struct cup_reading reading = cup_site_reading(site, i);
    if (!seen->heard)
        return;
    seen->heard = false;
    if (seen->sample.reject != CUP_REASON_NONE) {
        series_miss(&advised->raw, listening->at_ms);
        return;
    }
    series_add(&advised->raw, listening->at_ms, seen->sample.raw);
    if (sensor->form == CUP_FORM_SWITCH || !cup_usable(reading))
        return;
    series_add(&advised->values, listening->at_ms, cup_site_latest(site, i));
    track_add(&advised->track, (uint32_t)(listening->at_ms / 1000),
              reading.value);
}

static void hear_tank(struct listening *listening, cup_index tank)
{
    struct cup_reading reading =
        cup_site_reading(&listening->advising->site.site, tank);
    if (cup_usable(reading))
        track_add(&listening->advising->things[tank].track,
                  (uint32_t)(listening->at_ms / 1000), reading.value);
}

static void hear_pump(struct listening *listening, cup_index pump)
{
    const struct cup_site *site = &listening->advising->site.site;
    struct runs *runs =
        &listening->advising->things[cup_pump_thing(site->plan, pump)].runs;
    const struct cup_pump_state *state = &site->pumps[pump];
    uint32_t at_s = (uint32_t)(listening->at_ms / 1000);
    bool ran =
        runs->count > 0 && runs->list[runs->count - 1].to_s == UINT32_MAX;
    bool runs_now = cup_site_runs(site, pump);
    bool by_duty =
        state->mode == CUP_MODE_AUTO && state->duty < site->plan->duty_count;
    if (ran && !runs_now)
        runs_end(runs, at_s);
    else if (!ran && runs_now)
        runs_begin(runs, at_s,
                   by_duty ? (int)cup_duty_thing(site->plan, state->duty) : -1);
}

static void passed(void *self, uint32_t t_ms)
{
    struct listening *listening = self;
    const struct cup_plan *plan = listening->advising->site.site.plan;
    (void)t_ms;
    listening->at_ms = cup_log_span_ms(listening->log);
    for (cup_index i = 0; i < plan->sensor_count; i++)
        hear_sensor(listening, i);
    for (cup_index i = 0; i < plan->tank_count; i++)
        hear_tank(listening, cup_tank_thing(plan, i));
    for (cup_index i = 0; i < plan->pump_count; i++)
        hear_pump(listening, i);
}

static int play(struct listening *listening, const char *path)
{
    struct cup_sink nobody = {NULL, NULL};
    struct cup_log *log = listening->log;
    const volatile int *stop = stop_flag();
    cup_log_watch(log, &listening->watch);
    while (!*stop &&
           cup_log_play(log, &listening->advising->site.site, &nobody))
        ;
    if (cup_log_wrong(log))
        fprintf(stderr, "cuplatch: %s\n", cup_log_wrong(log));
    else if (cup_log_span_ms(log) < SPAN_LEAST_MS)
        fprintf(stderr,
                "cuplatch: %s: %.1f h are too short: a day and a night at "
                "least\n",
                path, (double)cup_log_span_ms(log) / 3.6e6);
    else
        return EXIT_DONE;
    return EXIT_NO;
}

int advice_listen(struct advising *advising)
{
    char wrong[240];
    const struct cup_plan *plan = advising->site.site.plan;
    struct listening listening = {
        .advising = advising,
        .watch = {.sensors =
                      calloc(plan->sensor_count + 1u, sizeof(struct cup_seen)),
                  .passed = passed,
                  .self = &listening}};
    int code = EXIT_USAGE;
    if (!listening.watch.sensors)
        abort();
    advising->old_s = 600;
    listening.log = cup_log_open(advising->record, plan, wrong, sizeof(wrong));
    if (listening.log)
        code = play(&listening, advising->record);
    else
        fprintf(stderr, "cuplatch: %s\n", wrong);
    cup_log_close(listening.log);
    free(listening.watch.sensors);
    return code;
}
