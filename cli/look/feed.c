/* Asks what is due, and passes on what is heard; decides nothing. */
#include "feed.h"

#include <errno.h>
#include <jansson.h>
#include <poll.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../../controller/wired.h"
#include "../../ports/common/json.h"
#include "../../ports/linux/clock.h"

#define LINE_MS 200

struct feed {
    const struct cup_plan *plan;
    json_t *raws; /* what was heard since the last line */
};

static json_t *hex_of(const struct reply *heard)
{
    char text[2 * HEARD_MOST + 1] = "";
    for (size_t i = 0; i < heard->count; i++)
        snprintf(text + 2 * i, 3, "%02x", heard->bytes[i]);
    return json_string(text);
}

static void take(void *self, unsigned thing, const struct reply *heard)
{
    const struct feed *feed = self;
    json_t *raw = heard->count > 0    ? hex_of(heard)
                  : heard->reject > 0 ? json_null()
                                      : json_integer(heard->raw);
    json_object_set_new(feed->raws, feed->plan->names[thing], raw);
}

static bool tell(struct feed *feed, uint64_t ms)
{
    cup_json_line(stdout, json_pack("{s:I, s:o}", "t_ms", (json_int_t)ms, "raw",
                                    feed->raws));
    feed->raws = json_object();
    return fflush(stdout) == 0;
}

static void wait_for(const struct cup_linux *port, const struct buses *buses,
                     uint64_t line_ms)
{
    struct pollfd fds[BUSES_MOST + 1];
    size_t count = buses_wait(buses, fds);
    uint64_t now = (uint64_t)clock_ms();
    int left = line_ms > now ? (int)(line_ms - now) : 0;
    fds[count++] = (struct pollfd){.fd = stop_fd(), .events = POLLIN};
    poll(fds, count, cup_linux_left_ms(port, now, left));
}

static void go_on(struct cup_linux *port, struct wired *wired,
                  struct feed *feed)
{
    const volatile int *stop = stop_flag();
    uint64_t began = (uint64_t)clock_ms();
    uint64_t line_ms = began + FEED_EVERY_MS; /* by then each was asked */
    bool heard = true;
    while (heard && !*stop) {
        cup_linux_turn(port, (uint64_t)clock_ms());
        wait_for(port, &wired->buses, line_ms);
        if ((uint64_t)clock_ms() < line_ms)
            continue;
        heard = tell(feed, (uint64_t)clock_ms() - began);
        line_ms += LINE_MS;
    }
}

/* The life of the process. */
static int run(struct site *site, struct wired *wired)
{
    struct cup_sink nobody = {NULL, NULL};
    struct feed feed = {site->site.plan, json_object()};
    struct bus_ear ear = {take, &feed};
    struct place where = {0, ""};
    char wrong[400] = "its buses cannot be asked";
    struct cup_linux *port = NULL;
    stop_flag();
    if (buses_start(&wired->buses, false))
        port = cup_linux_open(&site->site, &wired->wiring, &wired->outlets,
                              &wired->buses, &nobody, &where, wrong,
                              sizeof(wrong));
    if (!port) {
        wired_wrong(wired, &where, wrong);
        return EXIT_OUTSIDE;
    }
    cup_linux_watch(port, &ear);
    go_on(port, wired, &feed);
    cup_linux_stop(port); /* supplies, too */
    cup_linux_close(port);
    buses_stop(&wired->buses, false);
    json_decref(feed.raws);
    return EXIT_DONE;
}

const struct cup_plan *feed_plan(const struct cup_plan *plan)
{
    static struct cup_plan copy; /* there is one bench in a process */
    size_t sensors = (plan->sensor_count + 1u) * sizeof(*plan->sensors);
    size_t sources = (plan->source_count + 1u) * sizeof(*plan->sources);
    struct cup_sensor *sensor = malloc(sensors);
    struct cup_source *source = malloc(sources);
    if (!sensor || !source)
        abort();
    copy = *plan;
    copy.sensors = sensor;
    copy.sources = source;
    for (cup_index i = 0; i < plan->sensor_count; i++) {
        sensor[i] = plan->sensors[i];
        /* what a pulse means goes by how often they are counted */
        if (sensor[i].form != CUP_FORM_PULSES &&
            sensor[i].every_ms > FEED_EVERY_MS)
            sensor[i].every_ms = FEED_EVERY_MS;
    }
    for (cup_index i = 0; i < plan->source_count; i++) {
        source[i] = plan->sources[i];
        if (source[i].every_ms > FEED_EVERY_MS)
            source[i].every_ms = FEED_EVERY_MS;
    }
    return &copy;
}

static void become(struct site *site, struct wired *wired, const int ends[2])
{
    prctl(PR_SET_PDEATHSIG, SIGTERM);
    setpgid(0, 0);
    dup2(ends[1], STDOUT_FILENO);
    close(ends[0]);
    close(ends[1]);
    site->site.plan = feed_plan(site->site.plan);
    _exit(run(site, wired));
}

/* It has put its supplies off before we end. */
static pid_t fed_by;

static void end_feed(void)
{
    kill(fed_by, SIGTERM);
    waitpid(fed_by, NULL, 0);
}

/* Its lines are our standard input from then on. */
static bool begin_asking(struct site *site, struct wired *wired,
                         const int ends[2])
{
    pid_t child = fork();
    if (child == 0)
        become(site, wired, ends);
    if (child < 0)
        return false;
    fed_by = child;
    atexit(end_feed);
    dup2(ends[0], STDIN_FILENO);
    close(ends[0]);
    close(ends[1]);
    return true;
}

int feed_begin(struct words *words, const struct feed_from *from)
{
    enum wired_how how = from->board ? WIRED_BOARD : WIRED_SENSORS;
    const char *path = from->board ? from->board : from->pins;
    struct site site;
    struct wired wired = {.outlets = {.line_count = 0}};
    int ends[2] = {-1, -1};
    int code = site_open(&site, words);
    if (code == EXIT_DONE)
        code = wired_open(&site, path, how, &wired);
    if (code == EXIT_DONE && (!wired_hold(&wired, &site) || pipe(ends) != 0))
        code = EXIT_OUTSIDE;
    if (code == EXIT_DONE && !begin_asking(&site, &wired, ends)) {
        tell_failure("the sensors cannot be asked", errno);
        code = EXIT_OUTSIDE;
    }
    wired_close(&wired);
    site_close(&site);
    return code;
}
