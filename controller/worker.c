/* The loop: samples, passes, peers and files, each in its turn. */
#include "worker.h"

#include <errno.h>
#include <limits.h>
#include <poll.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

#include "../kept/ring.h"
#include "../kept/writer.h"
#include "../ports/common/json.h"
#include "../ports/common/wall.h"
#include "../ports/linux/clock.h"
#include "../socket/desk.h"
#include "civil.h"
#include "cuplatch/say.h"
#include "lateness.h"
#include "listen.h"
#include "raws.h"

#define BEAT_MS 1000
#define CLOCK_MS 60000
/* Events that followers can come back for, over restarts. */
#define RECALL_MOST 4096
/* A worker at work. */
struct work {
    struct machine *machine;
    struct cup_linux *port;
    struct desk *desk;
    struct writer *writer; /* null: nothing is kept */
    struct raws *raws;     /* null: no raw log is kept */
    struct cup_journal journal;
    struct cup_linux_journal keeps;
    struct bus_ear counts;
    const struct worker_life *life;
    uint64_t next_ms; /* when the next scan is due */
    uint64_t ends_ms; /* when something ends before that; 0: nothing does */
    uint64_t beat_ms; /* when the last beat was */
    uint64_t clock_ms;
    struct lateness *late;
    unsigned unsaid; /* lines that nobody took */
    char cause[80];  /* why the one before ended */
};

/* Telling */

/* Says a line where it can be taken at once: nobody who does not read holds up
 * a pass. */
static void say_line(struct work *work, const char *form, const char *first,
                     const char *second)
{
    char line[PATH_MAX + 200];
    struct pollfd out = {.fd = STDOUT_FILENO, .events = POLLOUT};
    int length = snprintf(line, sizeof(line), form, first, second);
    if (poll(&out, 1, 0) != 1 || !(out.revents & POLLOUT) ||
        write(STDOUT_FILENO, line, (size_t)length) != length)
        work->unsaid++;
}

/* Local time and a sentence, a line each: what a service's log shows. */
static void take(void *self, const struct cup_event *event)
{
    struct work *work = self;
    const struct cup_plan *plan = work->machine->site->site.plan;
    char text[CUP_SENTENCE_SIZE];
    char when[32];
    time_t now = time(NULL);
    struct tm local;
    cup_say_event(text, sizeof(text), plan, event);
    strftime(when, sizeof(when), "%Y-%m-%d %H:%M:%S",
             localtime_r(&now, &local));
    char what[80];
    snprintf(what, sizeof(what), "%s  %.24s %.16s", when,
             cup_thing_name(plan, event->of), cup_kind_code(event->kind));
    say_line(work, "%s: %s\n", what, text);
    const char *line = desk_event(work->desk, event);
    if (work->writer)
        writer_event(work->writer, line);
}

/* A block brings a sample for each of its sensors. */
static void heard(void *self, unsigned thing, const struct reply *reply)
{
    const struct work *work = self;
    const struct cup_plan *plan = work->machine->site->site.plan;
    cup_index i = (cup_index)thing;
    if (work->raws)
        raws_heard(work->raws, thing, reply,
                   cup_linux_site_ms((uint64_t)clock_ms()));
    if (i < plan->sensor_count) {
        desk_sampled(work->desk, i);
        return;
    }
    cup_index source = (cup_index)(i - cup_source_thing(plan, 0));
    for (i = plan->sources[source].sensor; i != CUP_NONE;
         i = plan->sensors[i].sibling)
        desk_sampled(work->desk, i);
}

/* How the one before ended; goes with the event of the start, too. */
static void tell_why(struct work *work)
{
    const struct worker_life *life = work->life;
    char *cause = work->cause;
    size_t size = sizeof(work->cause);
    if (life->why == WORKER_HUNG)
        snprintf(cause, size, "gave no sign of life");
    else if (life->why == WORKER_KILLED)
        snprintf(cause, size, "was ended by signal %d, %s", life->detail,
                 strsignal(life->detail));
    else if (life->why == WORKER_LEFT)
        snprintf(cause, size, "ended by itself, with %d", life->detail);
    if (life->why != WORKER_FIRST)
        say_line(work, "cuplatch: the controller before %s%s\n", cause, "");
}

/* The clock on the wall */

static void set_clock(struct work *work, uint64_t now)
{
    const struct cup_site *site = &work->machine->site->site;
    if (work->clock_ms != 0 && now - work->clock_ms < CLOCK_MS)
        return;
    work->clock_ms = now;
    uint32_t says = cup_site_clock_s(site);
    int32_t ahead_s;
    struct cup_word word = {.verb = CUP_VERB_CLOCK,
                            .number = civil_s(&ahead_s)};
    desk_ahead(work->desk, ahead_s);
    uint32_t off = says < word.number ? word.number - says : says - word.number;
    if (off <= 1 || (!work->machine->wishes->trust_clock && !wall_is_right()))
        return;
    if (cup_site_steer(site, cup_linux_site_ms(now), &word) != CUP_OK)
        return;
    if (work->raws)
        raws_clock(work->raws, word.number);
}

/* The loop */

/* A pump runs, or what counts as one: new files wait for it. */
static bool pumps(const struct work *work)
{
    const struct cup_site *site = &work->machine->site->site;
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (!site->plan->pumps[i].uncounted && cup_site_runs(site, i))
            return true;
    return false;
}

static void beat(struct work *work, uint64_t now)
{
    if (now - work->beat_ms < BEAT_MS)
        return;
    work->beat_ms = now;
    (void)!write(work->life->beat, pumps(work) ? "\1" : "", 1);
}

static int left_ms(const struct work *work, uint64_t now)
{
    uint64_t due = work->ends_ms > 0 ? work->ends_ms : work->next_ms;
    if (work->beat_ms + BEAT_MS < due)
        due = work->beat_ms + BEAT_MS;
    int left = due > now ? (int)(due - now) : 0;
    return cup_linux_left_ms(work->port, now, left);
}

/* Waits until something is due or comes; false once it is to end. */
static bool wait_for(const struct work *work)
{
    struct pollfd fds[PEERS_MOST + BUSES_MOST + 4];
    struct pollfd *at = fds;
    *at++ = (struct pollfd){.fd = work->life->alive, .events = POLLIN};
    *at++ = (struct pollfd){.fd = stop_fd(), .events = POLLIN};
    *at++ = (struct pollfd){.fd = work->writer ? writer_fd(work->writer) : -1,
                            .events = POLLIN};
    at += buses_wait(&work->machine->wired.buses, at);
    at += desk_wait(work->desk, at);
    int left = left_ms(work, (uint64_t)clock_ms());
    poll(fds, (nfds_t)(at - fds), left);
    return !*stop_flag() && fds[0].revents == 0;
}

/* A raw log with holes is told, and holds up nothing. */
static void end_row(struct work *work, uint64_t now)
{
    char count[20];
    unsigned lost = raws_passed(work->raws, cup_linux_site_ms(now));
    snprintf(count, sizeof(count), "%u", lost);
    if (lost > 0)
        say_line(work,
                 "cuplatch: rows of the raw log lost: %s; the disk is "
                 "full or too slow%s\n",
                 count, "");
}

/* A pass, and whether something ends before the next scan. */
static void pass(struct work *work, uint64_t now)
{
    cup_linux_pass(work->port, now);
    desk_passed(work->desk, cup_linux_site_ms(now), now,
                !work->writer || !writer_waits(work->writer));
    uint32_t ends = cup_site_ends(&work->machine->site->site);
    work->ends_ms = now + ends < work->next_ms ? now + ends : 0;
}

static void scan(struct work *work, uint64_t now)
{
    uint32_t scan_ms = work->machine->site->site.plan->scan_ms;
    lateness_note(work->late, (double)(now - work->next_ms));
    set_clock(work, now);
    work->next_ms += scan_ms;
    if (work->next_ms <= now) /* what was missed is not made up for */
        work->next_ms = now + scan_ms;
    pass(work, now);
    if (work->raws)
        end_row(work, now);
}

static void go_on(struct work *work)
{
    work->next_ms = (uint64_t)clock_ms();
    scan(work, work->next_ms);
    while (wait_for(work)) {
        uint64_t now = (uint64_t)clock_ms();
        if (work->writer && writer_turn(work->writer))
            cup_linux_kept(work->port, now);
        cup_linux_turn(work->port, now);
        desk_turn(work->desk, cup_linux_site_ms(now), now);
        if (now >= work->next_ms)
            scan(work, now);
        else if (work->ends_ms > 0 && now >= work->ends_ms)
            pass(work, now);
        beat(work, now);
    }
}

/* Beginning and ending */

static bool open_desk(struct work *work)
{
    const struct machine *machine = work->machine;
    char hello[PATH_MAX + 100];
    const struct site *site = machine->site;
    work->desk = listen_open(site, machine->wishes->socket,
                             cup_file_value(site->file, "site", "zone"), hello,
                             sizeof(hello));
    if (!work->desk)
        return false;
    say_line(work, "cuplatch: %s%s\n", hello, "");
    if (work->life->why != WORKER_FIRST)
        desk_cause(work->desk, work->cause);
    return true;
}

static void recall(void *self, const char *line)
{
    desk_recall(self, line);
}

static bool waits(void *self)
{
    return writer_waits(self);
}

static bool open_journal(struct work *work)
{
    const struct cup_site *site = &work->machine->site->site;
    const char *path = work->machine->wishes->journal;
    struct cup_sink sink = {take, work};
    ring_read(path, RECALL_MOST, recall, work->desk);
    if (cup_journal_open(&work->journal, site,
                         cup_linux_site_ms((uint64_t)clock_ms()),
                         writer_store(work->writer), &sink)) {
        fprintf(stderr, "cuplatch: %s: does not fit the site\n", path);
        return false;
    }
    work->keeps =
        (struct cup_linux_journal){&work->journal, waits, work->writer};
    return true;
}

/* Who writes the journal and the raw log, if either is wanted. */
static bool open_writer(struct work *work)
{
    const struct controller_wishes *wishes = work->machine->wishes;
    const struct cup_site *site = &work->machine->site->site;
    struct writer_keeps keeps = {.journal = wishes->journal,
                                 .raw = wishes->record,
                                 .raw_days = wishes->record_days};
    char wrong[1200];
    if (!wishes->journal && !wishes->record)
        return true;
    work->writer = writer_open(&keeps, site->plan, wrong, sizeof(wrong));
    if (!work->writer) {
        fprintf(stderr, "cuplatch: %s\n", wrong);
        return false;
    }
    if (wishes->record)
        work->raws = raws_open(site, work->writer);
    return !wishes->journal || open_journal(work);
}

static bool open_port(struct work *work, const struct cup_sink *sink)
{
    struct wired *wired = &work->machine->wired;
    struct place where = {0, ""};
    char wrong[400];
    wired->buses.reign = work->life->reign;
    if (!buses_start(&wired->buses, false)) {
        tell_failure("readers cannot be started", errno);
        return false;
    }
    work->port = cup_linux_open(&work->machine->site->site, &wired->wiring,
                                &wired->outlets, &wired->buses, sink, &where,
                                wrong, sizeof(wrong));
    if (!work->port)
        wired_wrong(wired, &where, wrong);
    else {
        work->counts = (struct bus_ear){heard, work};
        cup_linux_watch(work->port, &work->counts);
        if (work->machine->wishes->journal)
            cup_linux_keep(work->port, &work->keeps);
    }
    return work->port != NULL;
}

static void end(struct work *work)
{
    cup_linux_stop(work->port);
    if (work->raws) /* what came since the last pass */
        end_row(work, (uint64_t)clock_ms());
    if (work->machine->wishes->journal)
        (void)!cup_journal_close(&work->journal, &work->machine->site->site);
    cup_linux_close(work->port);
    buses_stop(&work->machine->wired.buses, false);
}

int worker_live(void *self, const struct worker_life *life)
{
    struct lateness late = {.passes = 0};
    struct work work = {.machine = self, .life = life, .late = &late};
    struct cup_sink sink = {take, &work};
    int code = EXIT_OUTSIDE;
    stop_flag();
    civil_zone(work.machine->site);
    tell_why(&work);
    if (open_desk(&work) && open_writer(&work) && open_port(&work, &sink)) {
        go_on(&work);
        end(&work);
        lateness_tell(&late);
        if (work.unsaid > 0)
            fprintf(stderr, "cuplatch: %u lines were taken by nobody\n",
                    work.unsaid);
        code = EXIT_DONE;
    }
    raws_close(work.raws);
    if (work.writer && !writer_close(work.writer)) {
        tell_failure("the journal could not all be written", 0);
        code = EXIT_OUTSIDE;
    }
    if (work.desk)
        desk_close(work.desk);
    return code;
}
