/* cuplatch-serve and a modem that is none, at a pseudo-terminal: who is texted,
 * and whose texts move something. */
#include <fcntl.h>
#include <poll.h>
#include <pthread.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../harness/harness.h"
#include "../modem/simulated.h"
#include "programs.h"

#define MARA "+990100200300"
#define OTTO "+990100200301"
#define NOBODY "+990999999999"
#define TEXTS_MOST 60

/* The modem lives in a thread of ours; all of it is behind the lock. */
static struct {
    pthread_t thread;
    pthread_mutex_t lock;
    struct sim sim;
    int fd;
    bool ends;
    char sent[TEXTS_MOST][500]; /* "number: text", as they went out */
    unsigned count;
} line = {.lock = PTHREAD_MUTEX_INITIALIZER};

static uint32_t now_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (uint32_t)((uint64_t)at.tv_sec * 1000u +
                      (uint64_t)at.tv_nsec / 1000000u);
}

static void note_sent(void)
{
    if (line.sim.sent <= line.count || line.count == TEXTS_MOST)
        return;
    snprintf(line.sent[line.count++], sizeof(line.sent[0]), "%s: %s",
             line.sim.last_to, line.sim.last_text);
}

static void *live(void *self)
{
    char bytes[256];
    (void)self;
    while (!line.ends) {
        struct pollfd fd = {.fd = line.fd, .events = POLLIN};
        poll(&fd, 1, 20);
        ssize_t got = fd.revents & POLLIN ? read(line.fd, bytes, 200) : 0;
        pthread_mutex_lock(&line.lock);
        for (ssize_t i = 0; i < got; i++) {
            sim_take(&line.sim, now_ms(), bytes[i]);
            note_sent();
        }
        size_t count = 0;
        while (count < sizeof(bytes) &&
               sim_give(&line.sim, now_ms(), &bytes[count]))
            count++;
        pthread_mutex_unlock(&line.lock);
        if (write(line.fd, bytes, count) < 0)
            nap(20);
    }
    return NULL;
}

static const char *begin_line(const struct sim_faults *faults)
{
    line.fd = posix_openpt(O_RDWR | O_NOCTTY | O_NONBLOCK);
    if (line.fd < 0 || grantpt(line.fd) != 0 || unlockpt(line.fd) != 0)
        abort();
    sim_open(&line.sim, faults);
    line.ends = false;
    line.count = 0;
    pthread_create(&line.thread, NULL, live, NULL);
    return ptsname(line.fd);
}

static void end_line(void)
{
    line.ends = true;
    pthread_join(line.thread, NULL);
    close(line.fd);
}

/* Until a file of the folder has so many lines. */
static bool wait_lines(const char *name, long least)
{
    for (int i = 0; i < WAIT_MS / 50 && count_lines(name) < least; i++)
        nap(50);
    return count_lines(name) >= least;
}

/* What the garden itself says of its lift. */
static bool lift_is(const char *text)
{
    char said[300] = "";
    const char *const words[] = {CUPLATCH, "ask",  "--socket", in_dir("socket"),
                                 "why",    "lift", NULL};
    unlink(in_dir("asked"));
    waitpid(start(words, "asked", 0), NULL, 0);
    FILE *in = fopen(in_dir("asked"), "r");
    bool read = in && fgets(said, sizeof(said), in);
    if (in)
        fclose(in);
    harness_at("%s", said);
    return read && strstr(said, text);
}

/* A text comes now. */
static void text(const char *from, const char *words, int ago_s)
{
    char when[24];
    time_t at = time(NULL) - ago_s;
    struct tm utc;
    gmtime_r(&at, &utc);
    strftime(when, sizeof(when), "%y/%m/%d,%H:%M:%S+00", &utc);
    pthread_mutex_lock(&line.lock);
    CHECK(sim_comes(&line.sim, now_ms(), from, words, when));
    pthread_mutex_unlock(&line.lock);
}

/* The first text after so many that is to somebody and has something in it, as
 * soon as it is there; 0: it was not. */
static unsigned wait_sent(unsigned after, const char *to, const char *part)
{
    for (int i = 0; i < WAIT_MS / 50; i++) {
        pthread_mutex_lock(&line.lock);
        for (unsigned n = after; n < line.count; n++)
            if (strncmp(line.sent[n], to, strlen(to)) == 0 &&
                strstr(line.sent[n], part)) {
                pthread_mutex_unlock(&line.lock);
                return n + 1;
            }
        pthread_mutex_unlock(&line.lock);
        nap(50);
    }
    harness_at("the last: %s", line.count ? line.sent[line.count - 1] : "none");
    return 0;
}

/* Whether a text of hers is answered so, after those she has seen. */
static bool answers(unsigned *seen, const char *words, int ago_s,
                    const char *part)
{
    text(MARA, words, ago_s);
    unsigned now = wait_sent(*seen, MARA, part);
    if (now > 0)
        *seen = now;
    return now > 0;
}

static unsigned sent_so_far(void)
{
    pthread_mutex_lock(&line.lock);
    unsigned count = line.count;
    pthread_mutex_unlock(&line.lock);
    return count;
}

static const char people[] = "[mara]\nnumber = " MARA "\nmay = stop\n\n"
                             "[otto]\nnumber = " OTTO "\nmay = look\n";

static void write_files(const char *device, const char *more)
{
    FILE *out = fopen(in_dir("serve.ini"), "w");
    fprintf(out,
            "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
            "[modem]\ndevice = %s\npeople = %s\n%s",
            in_dir("socket"), in_dir("history.db"), device, in_dir("people"),
            more);
    fclose(out);
    write_text("people", people);
}

static pid_t start_garden(void)
{
    return start_garden_of(GARDEN "/keeper.ini", "600");
}

static void end_all(pid_t serve, pid_t garden)
{
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    end_line();
    folder_end();
}

/* The next six digits that are a line of their own, among what else was said.
 */
static const char *next_code(const char **said)
{
    static char code[7];
    while (strspn(*said, "0123456789") != 6 || (*said)[6] != '\n') {
        *said += strcspn(*said, "\n");
        if (!**said)
            return "";
        ++*said;
    }
    snprintf(code, sizeof(code), "%.6s", *said);
    *said += 7;
    return code;
}

static const struct sim_faults none = {.late_ms = 20};

/* While the site is on hold. */
static void check_plain_words(unsigned seen)
{
    CHECK(answers(&seen, "help", 0, "status, levels"));
    text(MARA, "status", 0);
    CHECK(wait_sent(seen, MARA, "site on hold ") > 0);
}

CASE(who_is_known_may_ask_and_stop_and_with_a_code_the_rest)
{
    char said[600];
    const char *codes = said;
    char word[60];
    folder_begin("texts");
    write_files(begin_line(&none), "a_day = 500\n");
    CHECK_INT(
        run_serve("serve.ini", "--new-codes", "mara", NULL, said, sizeof(said)),
        0);
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    text(MARA, "  Why  LIFT ", 0);
    unsigned seen = wait_sent(0, MARA, "header ");
    CHECK(seen > 0);
    CHECK(answers(&seen, "lift off", 0, "done"));
    text(OTTO, "why lift", 0);
    CHECK(wait_sent(0, OTTO, "lift is switched off") > 0);
    /* who may only look stops nothing, and who has no code starts nothing */
    text(OTTO, "tray_pump off", 0);
    CHECK(wait_sent(0, OTTO, "may ask, not steer") > 0);
    CHECK(answers(&seen, "lift auto", 0, "needs a code"));
    /* a code is not used up by a word that did not count */
    const char *code = next_code(&codes);
    snprintf(word, sizeof(word), "%s lift auot", code);
    CHECK(answers(&seen, word, 0, "refused: "));
    snprintf(word, sizeof(word), "%s lift auto", code);
    CHECK(answers(&seen, word, 0, "done"));
    /* it was good once */
    CHECK(answers(&seen, word, 1, "needs a code"));
    /* what looks like a question or a stop to a careless reader is none */
    CHECK(answers(&seen, "lift hand 1m off", 0, "needs a code"));
    CHECK(answers(&seen, "lift hand why", 0, "needs a code"));
    /* too late, but never too late to stop */
    snprintf(word, sizeof(word), "%s lift auto", next_code(&codes));
    CHECK(answers(&seen, word, 700, "refused: this was said too long ago"));
    CHECK(answers(&seen, "Stop", 7000, "on hold: nothing starts"));
    check_plain_words(seen);
    end_all(serve, garden);
}

CASE(codes_are_not_found_by_trying)
{
    char said[600];
    const char *codes = said;
    char word[60];
    unsigned seen = 0;
    folder_begin("trying");
    write_files(begin_line(&none), "a_day = 500\n");
    CHECK_INT(
        run_serve("serve.ini", "--new-codes", "mara", NULL, said, sizeof(said)),
        0);
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    const char *code = next_code(&codes);
    for (int i = 0; i < 5; i++) {
        snprintf(word, sizeof(word), "%c%s lift auto",
                 code[0] == '9' ? '0' : code[0] + 1, code + 1);
        word[5] = (char)('0' + (word[5] - '0' + i) % 10);
        CHECK(answers(&seen, word, 0, "needs a code"));
    }
    /* the right one comes too late; what needs none still counts */
    snprintf(word, sizeof(word), "%s lift auto", code);
    CHECK(answers(&seen, word, 0, "too many wrong codes"));
    text(MARA, "lift off", 0);
    CHECK(wait_sent(seen, MARA, "done") > 0);
    end_all(serve, garden);
}

CASE(of_several_sites_one_is_named_first)
{
    folder_begin("several");
    write_files(begin_line(&none), "a_day = 500\n[plot]\nis = site\n"
                                   "socket = /nowhere/plot.sock\n");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    text(MARA, "lift off", 0);
    unsigned seen = wait_sent(0, MARA, "say first which site: garden, plot");
    CHECK(seen > 0);
    CHECK(answers(&seen, "garden lift off", 0, "done"));
    CHECK(answers(&seen, "garden lift auto", 0, "needs a code"));
    text(MARA, "Plot why lift", 0);
    CHECK(wait_sent(seen, MARA, "refused: the controller is not there") > 0);
    end_all(serve, garden);
}

CASE(a_stranger_moves_nothing_and_costs_no_answer)
{
    char said[600];
    const char *codes = said;
    folder_begin("stranger");
    write_files(begin_line(&none), "a_day = 500\n");
    write_text("people", "");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    text(NOBODY, "lift off", 0);
    text("NoNumber", "lift off", 0);
    CHECK(wait_log(NOBODY ": nobody knows this number"));
    CHECK(wait_log("NoNumber: nobody knows this number"));
    CHECK_INT(sent_so_far(), 0);
    /* until the door is opened: the code alone lets in, to look */
    CHECK_INT(
        run_serve("serve.ini", "--let-in", NULL, NULL, said, sizeof(said)), 0);
    const char *code = next_code(&codes);
    text(NOBODY, "000 000", 0);
    CHECK_INT(sent_so_far(), 0);
    text(NOBODY, code, 0);
    unsigned seen = wait_sent(0, NOBODY, "you are let in");
    CHECK(seen > 0);
    text(NOBODY, "why lift", 0);
    seen = wait_sent(seen, NOBODY, "header ");
    CHECK(seen > 0);
    text(NOBODY, "lift off", 0);
    CHECK(wait_sent(seen, NOBODY, "may ask, not steer") > 0);
    /* the same code lets nobody else in */
    seen = sent_so_far();
    text(OTTO, code, 0);
    CHECK(wait_log(OTTO ": nobody knows this number"));
    CHECK_INT(sent_so_far(), seen);
    CHECK(wait_refused("stranger", 4));
    CHECK(wait_refused("no-code", 1));
    end_all(serve, garden);
}

/* Alerts of a garden that runs dry go to everybody. */
CASE(alerts_go_to_everybody_once_and_are_kept_until_they_can)
{
    struct sim_faults faults = {.late_ms = 20, .no_net = true};
    folder_begin("alerts");
    write_files(begin_line(&faults), "a_day = 500\n");
    pid_t garden = start_garden_of(site_that_calls(), "20000");
    pid_t serve = start_serve(0);
    CHECK(wait_log("finds no network"));
    CHECK(wait_lines("history.db.texts", 10));
    CHECK_INT(sent_so_far(), 0);
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    CHECK_INT(finish(garden, SIGTERM), 0);
    line.sim.faults.no_net = false;
    serve = start_serve(0);
    CHECK(wait_sent(0, MARA, "Keeper's Garden: ") > 0);
    CHECK(wait_sent(0, OTTO, "Keeper's Garden: ") > 0);
    for (int i = 0; i < WAIT_MS / 50 && count_lines("history.db.texts") > 2;
         i++)
        nap(50);
    unsigned count = sent_so_far();
    CHECK_INT(finish(serve, SIGTERM), 0);
    /* one to each, and none is left */
    CHECK_INT(count % 2, 0);
    CHECK_INT(count_lines("history.db.texts"), 0);
    end_line();
    folder_end();
}

CASE(in_quiet_hours_alerts_wait_and_answers_do_not)
{
    char quiet[60];
    struct tm from, to;
    time_t before = time(NULL) - 3600, after = time(NULL) + 3600;
    folder_begin("quiet");
    localtime_r(&before, &from);
    localtime_r(&after, &to);
    snprintf(quiet, sizeof(quiet), "quiet = %02d:%02d..%02d:%02d\na_day = 99\n",
             from.tm_hour, from.tm_min, to.tm_hour, to.tm_min);
    write_files(begin_line(&none), quiet);
    pid_t garden = start_garden_of(site_that_calls(), "20000");
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    CHECK(wait_lines("history.db.texts", 10));
    text(MARA, "why lift", 0);
    CHECK(wait_sent(0, MARA, "header ") > 0);
    CHECK_INT(sent_so_far(), 1);
    end_all(serve, garden);
}

/* Answers have half of what a day may bring: nobody's questions use up what
 * alerts need. */
CASE(so_many_a_day_and_no_more)
{
    folder_begin("day");
    write_files(begin_line(&none), "a_day = 4\n");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("is ready"));
    for (int i = 0; i < 4; i++)
        text(MARA, "why lift", i);
    CHECK(wait_log("2 answers went out today: no more do"));
    CHECK_INT(sent_so_far(), 2);
    /* a word still counts */
    text(MARA, "lift off", 0);
    for (int i = 0; i < 100 && !lift_is("switched off"); i++)
        nap(50);
    CHECK(lift_is("switched off"));
    /* and a start gives no more of them */
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    serve = start_serve(0);
    text(MARA, "why lift", 9);
    CHECK(wait_log("2 answers went out today: no more do"));
    CHECK_INT(sent_so_far(), 2);
    end_all(serve, garden);
}

CASE(a_wrong_pin_is_tried_once_until_its_file_changes)
{
    struct sim_faults faults = {.late_ms = 20, .pin = "2718"};
    char more[300];
    folder_begin("pin");
    snprintf(more, sizeof(more), "pin_file = %s\n", in_dir("pin"));
    write_files(begin_line(&faults), more);
    write_text("pin", "3141\n");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    CHECK(wait_log("wants another PIN"));
    CHECK_INT(line.sim.pins, 1);
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    serve = start_serve(0);
    CHECK(wait_log("wants another PIN"));
    CHECK_INT(line.sim.pins, 1);
    /* it looks for another by itself */
    write_text("pin", "2718\n");
    CHECK(wait_log("is ready"));
    CHECK_INT(line.sim.pins, 2);
    /* a right one is given again, after a power cut of the modem */
    CHECK_INT(finish(serve, SIGTERM), 0);
    line.sim.unlocked = false;
    serve = start_serve(0);
    CHECK(wait_log("is ready"));
    CHECK_INT(line.sim.pins, 3);
    end_all(serve, garden);
}

CASE(a_pin_that_was_never_given_was_not_refused)
{
    struct sim_faults faults = {.late_ms = 20, .dumb = true, .pin = "2718"};
    char more[300];
    folder_begin("dumb");
    snprintf(more, sizeof(more), "pin_file = %s\n", in_dir("pin"));
    write_files(begin_line(&faults), more);
    write_text("pin", "2718\n");
    pid_t garden = start_garden();
    pid_t serve = start_serve(0);
    nap(2500); /* it is asked, and says nothing */
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    line.sim.faults.dumb = false;
    serve = start_serve(0);
    CHECK(wait_log("is ready"));
    CHECK_INT(line.sim.pins, 1);
    end_all(serve, garden);
}

CASE(a_modem_that_is_unplugged_is_waited_for)
{
    char link[200];
    folder_begin("unplugged");
    snprintf(link, sizeof(link), "%s", in_dir("modem"));
    write_files(link, "a_day = 500\n");
    pid_t garden = start_garden_of(site_that_calls(), "20000");
    pid_t serve = start_serve(0);
    CHECK(wait_log("No such file or directory; trying again"));
    /* alerts are kept all the same */
    CHECK(wait_lines("history.db.texts", 10));
    CHECK_INT(symlink(begin_line(&none), link), 0);
    CHECK(wait_log("is ready"));
    end_line();
    CHECK(wait_log("Input/output error; trying again"));
    unlink(link);
    CHECK_INT(symlink(begin_line(&none), link), 0);
    text(MARA, "why lift", 0);
    CHECK(wait_sent(0, MARA, "header ") > 0);
    end_all(serve, garden);
}
