/* Short enough to be read whole. */
#include "guardian.h"

#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/signalfd.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "clock.h"

/* How long a worker has to end in order. */
#define FAREWELL_MS 5000
/* One that lived so long begins with the short pause again. */
#define WELL_MS 60000
#define AGAIN_MS 50
#define OFF_TRIES 20

/* What a moment brought, beside what the guardian is asked to do. */
struct moment {
    bool beat;
    bool child;
};

struct guardian {
    struct guarded *of;
    int signals;
    int beat[2];
    int alive[2];
    pid_t worker;
    pid_t judge; /* of the files, after a HUP */
    uint32_t reign;
    int pause_ms;
    enum guardian_why why;
    int detail;
    bool lived; /* some worker was well once */
    bool ready; /* the service manager knows that we are there */
    bool end;
    bool asked; /* to begin anew, if the files are right */
    bool right; /* they are, since then; it begins anew once nothing runs */
    int64_t right_ms;
    bool busy; /* something runs, by the last beat */
    bool anew;
};

/* Says a line where it can be taken at once. */
static void say(const char *text)
{
    struct pollfd out = {.fd = STDERR_FILENO, .events = POLLOUT};
    if (poll(&out, 1, 0) == 1 && (out.revents & POLLOUT))
        (void)!write(STDERR_FILENO, text, strlen(text));
}

static void notify(const struct guardian *guardian, const char *text)
{
    if (guardian->of->notify >= 0)
        (void)!send(guardian->of->notify, text, strlen(text),
                    MSG_DONTWAIT | MSG_NOSIGNAL);
}

/* The service manager's and the kernel's: while the worker beats, or all is
 * off. */
static void feed(struct guardian *guardian)
{
    notify(guardian, guardian->ready ? "WATCHDOG=1" : "READY=1\nWATCHDOG=1");
    guardian->ready = true;
    if (guardian->of->watchdog >= 0)
        (void)!write(guardian->of->watchdog, "", 1);
}

/* Off */

static bool lines_off(const struct guardian *guardian)
{
    const struct guarded *of = guardian->of;
    bool done = true;
    for (size_t i = 0; i < of->line_count; i++)
        done =
            gpio_set(of->lines[i].held, of->lines[i].mask, of->lines[i].off) &&
            done;
    return done;
}

/* One that does not answer in its time is started anew, and told again. */
static bool bus_off(const struct guardian *guardian, struct bus *bus)
{
    struct pollfd answer = {.fd = bus->guard[0], .events = POLLIN};
    bool told = bus_say_off(bus, guardian->reign);
    int64_t until = clock_ms() + (told ? bus_off_ms(bus) : 0);
    int said = 0;
    while (said == 0 && clock_ms() < until) {
        poll(&answer, 1, (int)(until - clock_ms()) + 1);
        said = bus_hear_off(bus, guardian->reign);
        lines_off(guardian); /* the worker may not have died yet */
    }
    if (said > 0)
        return true;
    if (said == 0)
        bus_restart(bus);
    return false;
}

static bool all_off(const struct guardian *guardian)
{
    struct buses *buses = guardian->of->buses;
    bool done = lines_off(guardian);
    for (size_t i = 0; i < buses->count; i++)
        if (buses->list[i].switches)
            done = bus_off(guardian, &buses->list[i]) && done;
    return done;
}

/* Waiting */

/* What is asked in the midst of a change is not forgotten. */
static void take_signals(struct guardian *guardian, struct moment *moment)
{
    struct signalfd_siginfo signal;
    while (read(guardian->signals, &signal, sizeof(signal)) ==
           (ssize_t)sizeof(signal)) {
        moment->child |= signal.ssi_signo == SIGCHLD;
        guardian->asked |= signal.ssi_signo == SIGHUP;
        guardian->end |= signal.ssi_signo == SIGTERM ||
                         signal.ssi_signo == SIGINT ||
                         signal.ssi_signo == SIGQUIT;
    }
}

static struct moment wait_for(struct guardian *guardian, int64_t ms)
{
    char beats[16];
    struct moment moment = {false};
    struct pollfd fds[] = {{.fd = guardian->signals, .events = POLLIN},
                           {.fd = guardian->beat[0], .events = POLLIN}};
    if (poll(fds, 2, ms > 0 ? (int)ms : 0) <= 0)
        return moment;
    if (fds[0].revents)
        take_signals(guardian, &moment);
    if (fds[1].revents) {
        ssize_t count = read(guardian->beat[0], beats, sizeof(beats));
        moment.beat = count > 0;
        if (count > 0)
            guardian->busy = beats[count - 1] != 0;
    }
    return moment;
}

/* The worker */

static void live(const struct guardian *guardian)
{
    const struct guarded *of = guardian->of;
    struct worker_life life = {.beat = guardian->beat[1],
                               .alive = guardian->alive[0],
                               .reign = guardian->reign,
                               .why = guardian->why,
                               .detail = guardian->detail};
    sigset_t none;
    close(guardian->signals);
    close(guardian->beat[0]);
    close(guardian->alive[1]);
    if (of->watchdog >= 0)
        close(of->watchdog);
    munlockall();
    setpgid(0, 0); /* what is typed at the terminal is the guardian's */
    signal(SIGHUP, SIG_IGN);
    signal(SIGINT, SIG_IGN);
    sigemptyset(&none);
    sigprocmask(SIG_SETMASK, &none, NULL);
    int code = of->work(of->self, &life);
    fflush(NULL);
    _exit(code);
}

static void begin_worker(struct guardian *guardian)
{
    guardian->busy = false;
    guardian->worker = fork();
    if (guardian->worker == 0)
        live(guardian);
}

/* Notes how it ended; false while it has not. */
static bool reap(struct guardian *guardian, bool hung)
{
    int status;
    if (guardian->worker > 0 &&
        waitpid(guardian->worker, &status, WNOHANG) != guardian->worker)
        return false;
    if (guardian->worker <= 0)
        status = 0;
    guardian->worker = -1;
    guardian->why = WIFSIGNALED(status) ? WORKER_KILLED : WORKER_LEFT;
    guardian->detail =
        WIFSIGNALED(status) ? WTERMSIG(status) : WEXITSTATUS(status);
    if (hung)
        guardian->why = WORKER_HUNG;
    return true;
}

/* Files are judged beside the worker, which goes on meanwhile. */
static void judge(struct guardian *guardian)
{
    if (!guardian->asked || guardian->judge > 0)
        return;
    guardian->asked = false;
    guardian->judge = fork();
    if (guardian->judge == 0) {
        prctl(PR_SET_PDEATHSIG, SIGKILL); /* however the guardian ends */
        bool right = guardian->of->may_begin(guardian->of->self);
        fflush(NULL);
        _exit(!right);
    }
}

static void hear_judge(struct guardian *guardian)
{
    int status;
    if (guardian->judge <= 0 ||
        waitpid(guardian->judge, &status, WNOHANG) != guardian->judge)
        return;
    guardian->judge = -1;
    guardian->right = WIFEXITED(status) && WEXITSTATUS(status) == 0;
    guardian->right_ms = clock_ms();
    if (!guardian->right)
        say("cuplatch: nothing changes; change the files, and send HUP "
            "again\n");
    else if (guardian->busy)
        say("cuplatch: the files are right, and count once no pump runs\n");
}

/* What runs is finished first, but not for ever. */
static void begin_anew(struct guardian *guardian)
{
    guardian->anew |= guardian->right &&
                      (!guardian->busy || clock_ms() - guardian->right_ms >=
                                              guardian->of->finish_ms);
}

/* A bus whose process died gets another, all off, that hears the worker. */
static void tend_buses(const struct guardian *guardian)
{
    struct buses *buses = guardian->of->buses;
    for (size_t i = 0; i < buses->count; i++)
        if (buses->list[i].switches && bus_is_dead(&buses->list[i])) {
            bus_restart(&buses->list[i]);
            bus_say_off(&buses->list[i], guardian->reign);
        }
}

/* Until the worker is to end, has ended, or gives no beat: true then. */
static bool watch(struct guardian *guardian)
{
    int64_t last = clock_ms();
    for (;;) {
        struct moment moment =
            wait_for(guardian, last + guardian->of->late_ms - clock_ms());
        if (moment.beat) {
            last = clock_ms();
            guardian->lived = true;
            feed(guardian);
        }
        if (moment.child) {
            hear_judge(guardian);
            tend_buses(guardian);
        }
        judge(guardian);
        begin_anew(guardian);
        if (guardian->end || guardian->anew)
            return false;
        if (moment.child && reap(guardian, false))
            return false;
        if (clock_ms() - last >= guardian->of->late_ms)
            return true;
    }
}

/* The first worker could not begin: that will not change by itself. */
static bool is_refused(const struct guardian *guardian)
{
    return guardian->why == WORKER_LEFT && !guardian->lived && !guardian->end;
}

/* Tells the worker to end, and gives it a while to do so. */
static void bid_farewell(struct guardian *guardian)
{
    int64_t until = clock_ms() + FAREWELL_MS;
    kill(guardian->worker, SIGTERM);
    while (!reap(guardian, false) && clock_ms() < until)
        if (wait_for(guardian, until - clock_ms()).beat)
            feed(guardian);
}

/* It is dead for sure, and all is off for sure. The worker may drive an output
 * until it is dead, so off comes before and after. */
static bool make_safe(struct guardian *guardian, bool hung)
{
    int tries = 0;
    bool off = false;
    guardian->reign++;
    if (guardian->worker > 0)
        kill(guardian->worker, SIGKILL);
    lines_off(guardian);
    while (guardian->worker > 0 && !reap(guardian, hung)) {
        wait_for(guardian, AGAIN_MS);
        lines_off(guardian);
    }
    while (!(off = all_off(guardian)) && ++tries < OFF_TRIES)
        wait_for(guardian, (int64_t)AGAIN_MS * tries);
    if (off)
        feed(guardian);
    return off;
}

/* A while before the next, longer each time one does not live long. */
static void rest(struct guardian *guardian, int64_t lived_ms)
{
    const struct guarded *of = guardian->of;
    if (lived_ms > WELL_MS)
        guardian->pause_ms = of->pause_ms;
    int64_t until = clock_ms() + guardian->pause_ms;
    guardian->pause_ms = guardian->pause_ms * 2 < of->pause_most_ms
                             ? guardian->pause_ms * 2
                             : of->pause_most_ms;
    while (!guardian->end && clock_ms() < until) {
        int64_t left = until - clock_ms();
        wait_for(guardian, left < of->late_ms / 2 ? left : of->late_ms / 2);
        feed(guardian); /* all is off, that is sure */
    }
}

static bool prepare(struct guardian *guardian)
{
    static const int heard[] = {SIGTERM, SIGINT, SIGQUIT, SIGHUP, SIGCHLD};
    sigset_t signals;
    sigemptyset(&signals);
    for (size_t i = 0; i < sizeof(heard) / sizeof(heard[0]); i++)
        sigaddset(&signals, heard[i]);
    sigprocmask(SIG_SETMASK, &signals, NULL);
    signal(SIGPIPE, SIG_IGN);
    signal(SIGTSTP, SIG_IGN); /* nobody puts it to sleep at the terminal */
    guardian->signals = signalfd(-1, &signals, SFD_NONBLOCK | SFD_CLOEXEC);
    (void)!mlockall(MCL_CURRENT | MCL_FUTURE); /* where it is allowed */
    return guardian->signals >= 0 &&
           pipe2(guardian->beat, O_NONBLOCK | O_CLOEXEC) == 0 &&
           pipe2(guardian->alive, O_NONBLOCK | O_CLOEXEC) == 0;
}

static void tell_end(const struct guardian *guardian)
{
    if (guardian->why == WORKER_HUNG)
        say("cuplatch: the controller gave no sign of life; all is off, and "
            "it is started again\n");
    else if (!guardian->end && !guardian->anew && !is_refused(guardian))
        say("cuplatch: the controller died; all is off, and it is started "
            "again\n");
}

static enum guardian_end end_of(struct guardian *guardian, bool off)
{
    bool anew = guardian->anew && !guardian->end;
    if (!anew)
        notify(guardian, "STOPPING=1");
    if (guardian->of->watchdog >= 0 && off)
        (void)!write(guardian->of->watchdog, "V", 1); /* it is not to bite */
    if (!off) {
        say("cuplatch: OUTPUTS COULD NOT BE PUT OFF; look at the pumps\n");
        return GUARDIAN_FAILED;
    }
    if (is_refused(guardian))
        return GUARDIAN_REFUSED;
    return anew ? GUARDIAN_ANEW : GUARDIAN_ENDED;
}

/* The life of one worker, and safety behind it; whether another is to come. */
static bool one_worker(struct guardian *guardian, bool *off)
{
    int64_t began = clock_ms();
    begin_worker(guardian);
    bool hung = watch(guardian);
    if (guardian->worker > 0 && !hung)
        bid_farewell(guardian);
    *off = make_safe(guardian, hung);
    guardian->end |= guardian->of->once;
    guardian->busy = false;
    begin_anew(guardian);
    tell_end(guardian);
    if (!*off || is_refused(guardian) || guardian->end || guardian->anew)
        return false;
    rest(guardian, clock_ms() - began);
    return !guardian->end && !guardian->anew;
}

/* Who still looks at the files holds the lines of this one's; with the guardian
 * it ends, so that the next may have them. */
static void end_judge(struct guardian *guardian)
{
    if (guardian->judge <= 0)
        return;
    kill(guardian->judge, SIGKILL);
    waitpid(guardian->judge, NULL, 0);
    guardian->judge = -1;
}

enum guardian_end guardian_run(struct guarded *guarded)
{
    struct guardian guardian = {
        .of = guarded, .pause_ms = guarded->pause_ms, .worker = -1};
    bool off;
    if (!prepare(&guardian))
        return GUARDIAN_FAILED;
    off = make_safe(&guardian, false);
    guardian.why = WORKER_FIRST;
    while (off && one_worker(&guardian, &off))
        ;
    end_judge(&guardian);
    guarded->code = guardian.detail;
    return end_of(&guardian, off);
}
