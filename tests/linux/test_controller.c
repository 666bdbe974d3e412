/* A controller without the command: what it is given, what it returns, and what
 * the machine is left as. */
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../controller/controller.h"
#include "../../controller/same.h"
#include "../harness/harness.h"
#include "bench.h"

#define PUMP 4
#define VALVE 5
#define UP_MS 20000
#define OFF_MS 500

static const char site[] =
    "[site]\nname = Bench\nscan = 50ms\nboot_wait = 0s\n"
    "[soil]\nis = sensor\nmeasures = moisture\n"
    "form = counts\nport = adc:0\ndry = 2910\n"
    "wet = 1180\nevery = 100ms\nplausible = 300..3800\n"
    "[water]\nis = pump\nrest = 0s\nport = relay:0\nactive = low\n"
    "longest = 60s\n"
    "[bed_valve]\nis = valve\nport = relay:1\n"
    "[kale]\nis = duty\nrun = water\nkeep = soil\n"
    "start = 60%\nstop = 75%\nthrough = bed_valve\n";
static const char pins[] = "[relay]\nthrough = gpio\nchip = bench\n"
                           "lines = 4 5\n"
                           "[adc]\nthrough = iio\ndevice = soil\n"
                           "channels = voltage0\n";

static void prepare(const char *name)
{
    bench_make(name);
    bench_write("site.ini", site);
    bench_write("pins.ini", pins);
    bench_write("sys/bus/iio/devices/iio:device0/name", "soil\n");
    bench_write("sys/bus/iio/devices/iio:device0/in_voltage0_raw", "2400\n");
    bench_put(0, PUMP, true);
}

/* What a program does that has a controller in it. */
static int live(void)
{
    char paths[4][200];
    const char *const names[] = {"site.ini", "pins.ini", "journal", "socket"};
    for (int i = 0; i < 4; i++)
        snprintf(paths[i], sizeof(paths[i]), "%s", bench_path(names[i]));
    struct site ready;
    int code = site_read(&ready, paths[0]);
    const struct controller_wishes wishes = {
        .pins = paths[1], .journal = paths[2], .socket = paths[3]};
    if (code == EXIT_DONE)
        code = controller_run(&ready, &wishes);
    site_close(&ready);
    return code;
}

static pid_t begin(void)
{
    fflush(NULL);
    pid_t child = fork();
    if (child != 0)
        return child;
    int out = open(bench_path("log"), O_WRONLY | O_CREAT | O_APPEND, 0600);
    dup2(out, STDOUT_FILENO);
    dup2(out, STDERR_FILENO);
    exit(live());
}

static int off_after(int most_ms)
{
    int pump = bench_wait_level(0, PUMP, true, most_ms);
    int valve = bench_wait_level(0, VALVE, false, most_ms);
    return pump < 0 || valve < 0 ? -1 : pump + valve;
}

CASE(it_pumps_and_is_told_to_end)
{
    prepare("lives");
    pid_t child = begin();
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    CHECK(bench_level(0, VALVE));
    CHECK_INT(bench_end(child, SIGTERM), EXIT_DONE);
    CHECK(bench_level(0, PUMP) && !bench_level(0, VALVE));
    CHECK(access(bench_path("journal"), R_OK) == 0);
    CHECK(access(bench_path("socket"), F_OK) != 0);
    CHECK_INT(bench_count_log("its socket is"), 1);
    bench_remove();
}

CASE(a_worker_that_dies_is_replaced_and_everything_was_off_meanwhile)
{
    prepare("dies");
    pid_t child = begin();
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    CHECK(bench_wait_log("its socket is", 1, UP_MS));
    kill(bench_worker(child), SIGKILL);
    CHECK(off_after(OFF_MS) >= 0);
    CHECK(bench_wait_log("was ended by signal 9", 1, UP_MS));
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    CHECK_INT(bench_end(child, SIGTERM), EXIT_DONE);
    CHECK(bench_level(0, PUMP) && !bench_level(0, VALVE));
    bench_remove();
}

/* Nothing is touched, and the reason is said. */
static void refused(const char *file, const char *text, int code,
                    const char *said)
{
    prepare("refused");
    if (text)
        bench_write(file, text);
    else
        unlink(bench_path(file));
    harness_at("%s", said);
    CHECK_INT(bench_end(begin(), 0), code);
    CHECK(bench_count_log(said) > 0);
    CHECK(bench_level(0, PUMP) && !bench_level(0, VALVE));
    harness_at(NULL);
    bench_remove();
}

CASE(what_cannot_be_run_touches_nothing)
{
    refused("site.ini", NULL, EXIT_USAGE, "site.ini: No such file");
    refused("site.ini", "[site]\nnaem = Bench\n", EXIT_NO, "naem");
    refused("pins.ini", NULL, EXIT_USAGE, "pins.ini: No such file");
    refused("pins.ini", "[relay]\nthrough = gpio\nchip = cellar\nlines = 4 5\n",
            EXIT_NO, "cellar");
}

CASE(what_a_file_says_is_more_than_how_it_is_written)
{
    prepare("same");
    const char *path = bench_path("site.ini");
    uint64_t as_it_was = same_add(SAME_BEGINS, path);
    bench_write("site.ini", "; by hand\n\n  [site]\nname = Bench  \n");
    CHECK(same_add(SAME_BEGINS, path) != as_it_was);
    uint64_t by_hand = same_add(SAME_BEGINS, path);
    bench_write("site.ini", "[site]\r\n# of old\nname = Bench\n");
    CHECK(same_add(SAME_BEGINS, path) == by_hand);
    CHECK(same_add(SAME_BEGINS, bench_path("none")) == SAME_BEGINS);
    bench_remove();
}
