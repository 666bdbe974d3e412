/* The other end of buses: who is asked when, and what comes of it. One file:
 * asking, waiting and hearing are turns of one conversation. */
#include <errno.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <unistd.h>

#include "bus_inside.h"
#include "ways.h"

/* A process that is silent for so long past its time is started anew. */
#define STUCK_MS 10000
/* What a request takes beside the way's own time. */
#define SLACK_MS 300
#define NOTHING SIZE_MAX

/* Making */

static void name_bus(const struct pin *pin, char *name, size_t size)
{
    const char *word = pin_way_code(pin->way);
    if (pin->off_pulse_ms > 0) /* last of all: pumps are off by then */
        snprintf(name, size, "shut by pulses: %s %.60s", word, pin->chip);
    else if (pin->way == PIN_I2C)
        snprintf(name, size, "%s %d", word, (int)pin->bus);
    else if (pin->chip)
        snprintf(name, size, "%s %.60s", word, pin->chip);
    else if (pin->path)
        snprintf(name, size, "%s %.100s", word, pin->path);
    else if (pin->command)
        snprintf(name, size, "%s %.100s", word, pin->command);
    else
        snprintf(name, size, "%s %.100s", word,
                 pin->host ? pin->host : pin->device);
}

static struct bus *bus_of(struct buses *buses, const struct pin *pin)
{
    char name[sizeof(buses->list[0].name)];
    name_bus(pin, name, sizeof(name));
    for (size_t i = 0; i < buses->count; i++)
        if (strcmp(buses->list[i].name, name) == 0)
            return &buses->list[i];
    if (buses->count == BUSES_MOST)
        return NULL;
    struct bus *bus = &buses->list[buses->count++];
    *bus = (struct bus){.work = {-1, -1}, .guard = {-1, -1}, .pid = -1};
    memcpy(bus->name, name, sizeof(name));
    bus->asked = NOTHING;
    return bus;
}

/* What a thing needs of a bus; gpio lines need none. */
struct need {
    const struct pin *pin;
    const struct cup_source *source;
    unsigned thing;
    bool switches;
    bool off;
};

struct needs {
    struct need *list;
    size_t count;
};

static void add_need(struct needs *needs, struct need need)
{
    if (need.pin && way_of(need.pin))
        needs->list[needs->count++] = need;
}

static struct needs needs_of(const struct wiring *wiring,
                             const struct cup_plan *plan)
{
    size_t most = (size_t)plan->sensor_count + plan->source_count +
                  (size_t)2 * plan->pump_count + 1;
    struct needs needs = {calloc(most, sizeof(struct need)), 0};
    if (!needs.list)
        abort();
    for (cup_index i = 0; i < plan->sensor_count; i++)
        add_need(&needs, (struct need){.pin = wiring->sensors[i], .thing = i});
    for (cup_index i = 0; i < plan->source_count; i++)
        add_need(&needs, (struct need){.pin = wiring->sources[i],
                                       .source = &plan->sources[i],
                                       .thing = cup_source_thing(plan, i)});
    for (cup_index i = 0; i < plan->pump_count; i++)
        for (unsigned part = 0; part < 2; part++)
            add_need(&needs, (struct need){.pin = wiring->outputs[i][part],
                                           .thing = buses_output(plan, i, part),
                                           .switches = true,
                                           .off = plan->pumps[i].active_low});
    return needs;
}

/* Things at one pin share its duct; but blocks of registers are each asked by
 * a duct of its own. */
static struct duct *duct_for(struct buses *buses, struct bus *bus,
                             const struct need *need)
{
    for (size_t i = 0; i < buses->duct_count; i++)
        if (buses->ducts[i].pin == need->pin &&
            buses->ducts[i].source == need->source)
            return &buses->ducts[i];
    struct duct *duct = &buses->ducts[buses->duct_count++];
    duct_make(duct, need->pin, need->source);
    duct->off = need->off;
    duct->switches = need->switches;
    bus->switches |= need->switches;
    return duct;
}

/* Ducts of a bus lie side by side. */
static int by_bus(const void *a, const void *b)
{
    char one[120];
    char two[120];
    name_bus(((const struct need *)a)->pin, one, sizeof(one));
    name_bus(((const struct need *)b)->pin, two, sizeof(two));
    return strcmp(one, two);
}

static void add_ask(struct buses *buses, struct bus *bus,
                    const struct need *need)
{
    struct duct *duct = duct_for(buses, bus, need);
    if (bus->count == 0)
        bus->ducts = duct;
    bus->count = (size_t)(&buses->ducts[buses->duct_count] - bus->ducts);
    duct->first = bus->ducts;
    struct ask *ask = &buses->asks[buses->ask_count++];
    *ask = (struct ask){.bus = bus,
                        .duct = duct,
                        .thing = need->thing,
                        .switches = need->switches,
                        .high = need->off,
                        .good = true};
    if (bus->ask_count++ == 0)
        bus->asks = ask;
    buses->of_things[need->thing] = ask;
}

bool buses_make(struct buses *buses, const struct wiring *wiring,
                const struct cup_plan *plan, char *wrong, size_t size)
{
    struct needs needs = needs_of(wiring, plan);
    bool fits = true;
    *buses = (struct buses){.count = 0};
    buses->ducts = calloc(needs.count + 1, sizeof(*buses->ducts));
    buses->asks = calloc(needs.count + 1, sizeof(*buses->asks));
    buses->of_things = calloc(buses_output(plan, plan->pump_count, 0) + 1u,
                              sizeof(struct ask *));
    if (!buses->ducts || !buses->asks || !buses->of_things)
        abort();
    if (needs.count > 0)
        qsort(needs.list, needs.count, sizeof(*needs.list), by_bus);
    for (size_t i = 0; i < needs.count && fits; i++) {
        struct bus *bus = bus_of(buses, needs.list[i].pin);
        fits = bus != NULL;
        if (bus)
            add_ask(buses, bus, &needs.list[i]);
    }
    free(needs.list);
    if (!fits)
        snprintf(wrong, size, "more than %d buses, devices and programs",
                 BUSES_MOST);
    return fits;
}

void buses_free(struct buses *buses)
{
    free(buses->ducts);
    free(buses->asks);
    free(buses->of_things);
}

/* Processes */

static void close_both(int ends[2])
{
    for (int i = 0; i < 2; i++) {
        if (ends[i] >= 0)
            close(ends[i]);
        ends[i] = -1;
    }
}

static bool connect_ends(int ends[2])
{
    return ends[0] >= 0 ||
           socketpair(AF_UNIX, SOCK_SEQPACKET | SOCK_CLOEXEC, 0, ends) == 0;
}

/* The ends live on where a process is started anew: others may hold them. */
static bool start(struct bus *bus, uint32_t reign)
{
    bus->reign = reign;
    if (!connect_ends(bus->work) ||
        (bus->switches && !connect_ends(bus->guard)))
        return false;
    bus->pid = fork();
    if (bus->pid == 0)
        bus_serve(bus);
    return bus->pid > 0;
}

static void stop(struct bus *bus)
{
    if (bus->pid > 0 && kill(bus->pid, SIGKILL) == 0)
        waitpid(bus->pid, NULL, 0);
    bus->pid = -1;
}

bool buses_start(struct buses *buses, bool switching)
{
    for (size_t i = 0; i < buses->count; i++)
        if (buses->list[i].switches == switching &&
            !start(&buses->list[i], buses->reign))
            return false;
    return true;
}

void buses_stop(struct buses *buses, bool switching)
{
    for (size_t i = 0; i < buses->count; i++)
        if (buses->list[i].switches == switching) {
            stop(&buses->list[i]);
            close_both(buses->list[i].work);
            close_both(buses->list[i].guard);
        }
}

/* Asking */

bool buses_has(const struct buses *buses, unsigned thing)
{
    return buses->of_things[thing] != NULL;
}

bool buses_waits(const struct buses *buses, unsigned thing)
{
    const struct ask *ask = buses->of_things[thing];
    return ask &&
           (ask->wanted || (ask->bus->asked == (size_t)(ask - ask->bus->asks) &&
                            !ask->bus->late));
}

void buses_want(struct buses *buses, unsigned thing, uint64_t now_ms)
{
    struct ask *ask = buses->of_things[thing];
    if (!ask || buses_waits(buses, thing))
        return; /* one is on its way: it will do */
    ask->wanted = true;
    ask->at_ms = now_ms;
}

void buses_forget(struct buses *buses, unsigned thing)
{
    struct ask *ask = buses->of_things[thing];
    ask->wanted = false;
    if (ask->bus->asked == (size_t)(ask - ask->bus->asks))
        ask->bus->late = true;
}

void buses_put(struct buses *buses, unsigned thing, bool high, uint64_t now_ms)
{
    struct ask *ask = buses->of_things[thing];
    if (!ask->wanted || ask->high != high)
        ask->at_ms = now_ms;
    ask->high = high;
    ask->wanted = true;
}

static uint64_t time_of(const struct ask *ask)
{
    return (uint64_t)duct_answer_ms(ask->duct->pin) + SLACK_MS;
}

bool buses_obeys(const struct buses *buses, unsigned thing, uint64_t now_ms)
{
    const struct ask *ask = buses->of_things[thing];
    return ask->good &&
           !(ask->wanted && now_ms - ask->at_ms > 2 * time_of(ask));
}

/* Words that switch go before those that ask. */
static size_t next_of(const struct bus *bus)
{
    size_t found = NOTHING;
    for (size_t i = 0; i < bus->ask_count; i++) {
        size_t at = (bus->next + i) % bus->ask_count;
        if (!bus->asks[at].wanted)
            continue;
        if (bus->asks[at].switches)
            return at;
        if (found == NOTHING)
            found = at;
    }
    return found;
}

bool buses_is(const struct buses *buses, unsigned thing, bool high)
{
    const struct ask *ask = buses->of_things[thing];
    return ask->good && ask->high == high && !buses_waits(buses, thing);
}

static void ask_next(struct buses *buses, struct bus *bus, uint64_t now_ms)
{
    size_t at = next_of(bus);
    if (at == NOTHING)
        return;
    struct ask *ask = &bus->asks[at];
    struct bus_word word = {.ticket = ++bus->ticket,
                            .reign = buses->reign,
                            .duct = (uint16_t)(ask->duct - bus->ducts),
                            .verb = ask->switches ? BUS_WRITE : BUS_READ,
                            .high = ask->high};
    if (send(bus->work[0], &word, sizeof(word), MSG_DONTWAIT | MSG_NOSIGNAL) !=
        (ssize_t)sizeof(word))
        return;
    bus->asked = at;
    bus->late = false;
    bus->next = at + 1;
    bus->since_ms = now_ms;
    ask->wanted = false;
}

/* What is late was heard as no answer already. */
static void conclude(const struct bus *bus, const struct bus_answer *said,
                     const struct bus_ear *ear)
{
    struct ask *ask = &bus->asks[bus->asked];
    if (ask->switches)
        ask->good = said->done;
    else if (!bus->late)
        ear->heard(ear->self, ask->thing, &said->heard);
}

/* An answer to an older word is none any more. */
static void take_answers(const struct buses *buses, struct bus *bus,
                         const struct bus_ear *ear)
{
    struct bus_answer said;
    while (recv(bus->work[0], &said, sizeof(said), MSG_DONTWAIT) ==
           (ssize_t)sizeof(said))
        if (bus->asked != NOTHING && said.ticket == bus->ticket &&
            said.reign == buses->reign) {
            conclude(bus, &said, ear);
            bus->asked = NOTHING;
        }
}

/* One that is late is asked nothing more until it has answered, or was started
 * anew. */
static void look_after(const struct buses *buses, struct bus *bus,
                       uint64_t now_ms, const struct bus_ear *ear)
{
    const struct bus_answer none = {.heard = {.reject = CUP_REASON_NO_ANSWER}};
    uint64_t gone = now_ms - bus->since_ms;
    uint64_t most = time_of(&bus->asks[bus->asked]);
    if (gone > most && !bus->late) {
        conclude(bus, &none, ear);
        bus->late = true;
    }
    if (bus->switches) { /* the guardian sees to its process */
        if (bus->late)
            bus->asked = NOTHING;
        return;
    }
    if (gone < most + STUCK_MS)
        return;
    stop(bus);
    close_both(bus->work);
    bus->asked = NOTHING;
    if (!start(bus, buses->reign))
        bus->pid = -1;
}

void buses_turn(struct buses *buses, uint64_t now_ms, const struct bus_ear *ear)
{
    for (size_t i = 0; i < buses->count; i++) {
        struct bus *bus = &buses->list[i];
        if (bus->work[0] < 0)
            continue;
        take_answers(buses, bus, ear);
        if (bus->asked != NOTHING)
            look_after(buses, bus, now_ms, ear);
        if (bus->asked == NOTHING)
            ask_next(buses, bus, now_ms);
    }
}

size_t buses_wait(const struct buses *buses, struct pollfd *fds)
{
    for (size_t i = 0; i < buses->count; i++)
        fds[i] =
            (struct pollfd){.fd = buses->list[i].work[0], .events = POLLIN};
    return buses->count;
}

int buses_left_ms(const struct buses *buses, uint64_t now_ms)
{
    int left = -1;
    for (size_t i = 0; i < buses->count; i++) {
        const struct bus *bus = &buses->list[i];
        if (bus->asked == NOTHING)
            continue;
        uint64_t most = time_of(&bus->asks[bus->asked]);
        uint64_t gone = now_ms - bus->since_ms;
        int ms = gone < most ? (int)(most - gone) + 1 : 1000;
        if (left < 0 || ms < left)
            left = ms;
    }
    return left;
}

/* The guardian */

bool bus_say_off(const struct bus *bus, uint32_t reign)
{
    struct bus_word word = {.verb = BUS_OFF, .reign = reign};
    return send(bus->guard[0], &word, sizeof(word),
                MSG_DONTWAIT | MSG_NOSIGNAL) == (ssize_t)sizeof(word);
}

int bus_hear_off(const struct bus *bus, uint32_t reign)
{
    struct bus_answer said;
    int done = 0;
    while (recv(bus->guard[0], &said, sizeof(said), MSG_DONTWAIT) ==
           (ssize_t)sizeof(said))
        if (said.reign == reign)
            done = said.done ? 1 : -1;
    return done;
}

bool bus_is_dead(struct bus *bus)
{
    if (bus->pid <= 0 || waitpid(bus->pid, NULL, WNOHANG) != bus->pid)
        return false;
    bus->pid = -1;
    return true;
}

void bus_restart(struct bus *bus)
{
    if (bus->pid > 0 && kill(bus->pid, SIGKILL) == 0)
        waitpid(bus->pid, NULL, WNOHANG);
    if (!start(bus, bus->reign))
        bus->pid = -1;
}

int bus_off_ms(const struct bus *bus)
{
    int ms = SLACK_MS;
    for (size_t i = 0; i < bus->count; i++)
        ms += duct_answer_ms(bus->ducts[i].pin);
    return ms;
}
