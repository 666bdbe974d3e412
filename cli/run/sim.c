/* cuplatch run SITE --port sim --garden GARDEN: the simulated garden live, in
 * real time or so many times faster, with its local socket. */
#include <errno.h>
#include <inttypes.h>
#include <limits.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "../../controller/lateness.h"
#include "../../controller/listen.h"
#include "../../ports/sim/sim.h"
#include "../../socket/desk.h"
#include "../rehearse/record.h"
#include "wishes.h"

/* Passes that are late are made up for in rows of at most so long, so that
 * peers are heard meanwhile. */
#define ROW_MS 20

struct live {
    struct cup_sim *sim;
    struct desk *desk;     /* null: it could not be opened */
    struct record *record; /* null: nothing is kept */
    uint64_t passes;
    uint32_t scan_ms;
    double every_ms; /* of real time, from pass to pass */
    char hello[PATH_MAX + 100];
    struct lateness *late;
    struct cup_onlooker watch;
    struct cup_onlooker *recorder; /* null: nothing is recorded */
    cup_index sensors;
};

/* Counts what came, and leaves it to who records it. */
static void passed(void *self, uint32_t t_ms)
{
    struct live *live = self;
    for (cup_index i = 0; i < live->sensors; i++)
        if (live->watch.sensors[i].heard)
            desk_sampled(live->desk, i);
    if (live->recorder)
        live->recorder->passed(live->recorder->self, t_ms);
    else
        memset(live->watch.sensors, 0,
               live->sensors * sizeof(*live->watch.sensors));
}

static void watch(struct live *live, struct cup_seen *own,
                  const struct cup_plan *plan)
{
    live->sensors = plan->sensor_count;
    live->recorder = live->record ? record_onlooker(live->record) : NULL;
    live->watch = (struct cup_onlooker){
        .sensors = live->recorder ? live->recorder->sensors : own,
        .passed = passed,
        .self = live};
}

static double real_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (double)now.tv_sec * 1000 + (double)now.tv_nsec / 1e6;
}

static uint64_t second_of(const struct live *live)
{
    return live->passes * live->scan_ms / 1000;
}

static void take(void *self, const struct cup_event *event)
{
    const struct live *live = self;
    if (live->record)
        record_event(live->record, second_of(live), event);
    if (live->desk)
        desk_event(live->desk, event);
}

static void pass(struct live *live, double now_ms, double due_ms)
{
    lateness_note(live->late, now_ms - due_ms);
    cup_sim_pass(live->sim);
    live->passes++;
    if (live->desk)
        desk_passed(live->desk, cup_sim_now_ms(live->sim), (uint64_t)now_ms,
                    true);
}

/* Waits until the next pass is due, or somebody says something. */
static void wait_until(const struct live *live, double due_ms)
{
    struct pollfd fds[PEERS_MOST + 2];
    size_t count = live->desk ? desk_wait(live->desk, fds) : 0;
    double left_ms = due_ms - real_ms();
    fds[count++] = (struct pollfd){.fd = stop_fd(), .events = POLLIN};
    poll(fds, count, left_ms > 0 ? (int)(left_ms + 1) : 0);
}

static double due(const struct live *live, double start_ms)
{
    return start_ms + (double)live->passes * live->every_ms;
}

/* What is due, and what was missed, for so long that peers need not wait. */
static void make_up(struct live *live, double start_ms, uint64_t end)
{
    const volatile int *stop = stop_flag();
    double now_ms = real_ms();
    double until_ms = now_ms + ROW_MS;
    while (!*stop && live->passes < end && now_ms < until_ms &&
           due(live, start_ms) <= now_ms) {
        pass(live, now_ms, due(live, start_ms));
        now_ms = real_ms();
    }
}

static void live_on(struct live *live, double span_s)
{
    const volatile int *stop = stop_flag();
    double start_ms = real_ms();
    uint64_t end =
        span_s > 0 ? (uint64_t)(span_s * 1000 / live->scan_ms) : UINT64_MAX;
    pass(live, start_ms, start_ms); /* before that nothing can be told */
    fprintf(stderr, "cuplatch: %s\n", live->hello);
    while (!*stop && live->passes < end) {
        wait_until(live, due(live, start_ms));
        if (live->desk)
            desk_turn(live->desk, cup_sim_now_ms(live->sim),
                      (uint64_t)real_ms());
        make_up(live, start_ms, end);
    }
}

static int go(struct live *live, struct site *site,
              const struct run_wishes *wishes, struct garden *garden)
{
    struct cup_sink sink = {take, live};
    live->desk = listen_open(site, wishes->socket,
                             "UTC" /* what a garden's clock shows */,
                             live->hello, sizeof(live->hello));
    if (!live->desk)
        return EXIT_OUTSIDE;
    if (wishes->record) {
        live->record = record_open(wishes->record, site->file, &site->site,
                                   wishes->from_s, garden);
        if (!live->record)
            return EXIT_OUTSIDE;
    }
    struct cup_seen *own =
        calloc(site->site.plan->sensor_count + 1u, sizeof(*own));
    if (!own)
        abort();
    watch(live, own, site->site.plan);
    cup_sim_watch(live->sim, &sink, &live->watch);
    live_on(live, wishes->span_s);
    cup_sim_stop(live->sim);
    free(own);
    lateness_tell(live->late);
    return EXIT_DONE;
}

int run_sim(struct words *words, struct site *site,
            const struct run_wishes *wishes)
{
    char wrong[200];
    uint32_t scan_ms = site->site.plan->scan_ms;
    struct lateness late = {.passes = 0};
    struct live live = {.late = &late,
                        .scan_ms = scan_ms,
                        .every_ms = (double)scan_ms / wishes->speed};
    int code = EXIT_NO;
    stop_flag(); /* from now on it ends in order */
    struct garden *garden =
        garden_read(wishes->garden, (uint32_t)wishes->seed, stderr);
    if (!garden)
        return errno ? cannot_open(words, wishes->garden) : EXIT_NO;
    garden_begin(garden, wishes->from_s);
    live.sim = cup_sim_join(garden, &site->site, wrong, sizeof(wrong));
    if (!live.sim)
        fprintf(stderr, "cuplatch: %s: %s\n", wishes->garden, wrong);
    else {
        code = go(&live, site, wishes, garden);
        cup_sim_close(live.sim);
    }
    if (live.record && !record_close(live.record, RECORD_DRAWS))
        code = EXIT_OUTSIDE;
    if (live.desk)
        desk_close(live.desk);
    garden_close(garden);
    return code;
}
