/* What must hold whatever becomes of a controller: every output off, and in
 * time. Each case is a controller of its own on a machine that is a folder. */
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../harness/harness.h"
#include "bench.h"

/* relay:0 is a pump that is on while its line is low, relay:1 a valve. */
#define PUMP 4
#define VALVE 5
#define OFF_MS 500
/* A controller is up, however slow the machine is. */
#define UP_MS 20000

static const char site[] =
    "[site]\nname = Bench\nscan = 50ms\nboot_wait = 0s\n"
    "[soil]\nis = sensor\nmeasures = moisture\n"
    "form = counts\nport = adc:0\ndry = 2910\n"
    "wet = 1180\nevery = 100ms\nplausible = 300..3800\n"
    "lost_after = 2s\n"
    "[water]\nis = pump\nrest = 0s\nport = relay:0\nactive = low\n"
    "longest = 60s\nper_day = 40starts\n"
    "[bed_valve]\nis = valve\nport = relay:1\n"
    "[kale]\nis = duty\nrun = water\nkeep = soil\n"
    "start = 60%\nstop = 75%\nthrough = bed_valve\n";
static const char pins[] = "[relay]\nthrough = gpio\nchip = bench\n"
                           "lines = 4 5\n"
                           "[adc]\nthrough = iio\ndevice = soil\n"
                           "channels = voltage0\n";

static void set_soil(const char *raw)
{
    bench_write("sys/bus/iio/devices/iio:device0/in_voltage0_raw", raw);
}

/* The soil is dry: the pump runs as soon as it may. */
static void prepare(const char *name)
{
    bench_make(name);
    bench_write("site.ini", site);
    bench_write("pins.ini", pins);
    bench_write("sys/bus/iio/devices/iio:device0/name", "soil\n");
    set_soil("2400\n");
    bench_put(0, PUMP, true);
}

static bool pumps(void)
{
    return bench_wait_level(0, PUMP, false, UP_MS) >= 0;
}

static pid_t run_with_journal(void)
{
    char journal[200];
    const char *const more[] = {"--journal", journal, NULL};
    snprintf(journal, sizeof(journal), "%s", bench_path("journal"));
    return bench_run(more);
}

/* How long until both are off. */
static int off_after(int most_ms)
{
    int pump = bench_wait_level(0, PUMP, true, most_ms);
    int valve = bench_wait_level(0, VALVE, false, most_ms);
    return pump < 0 || valve < 0 ? -1 : pump + valve;
}

static void note_log(void)
{
    static char text[2000];
    FILE *in = fopen(bench_path("log"), "r");
    size_t length = in ? fread(text, 1, sizeof(text) - 1, in) : 0;
    text[length] = '\0';
    if (in)
        fclose(in);
    harness_at("%s", text);
}

CASE(it_runs_and_ends_in_order)
{
    prepare("order");
    pid_t guardian = run_with_journal();
    CHECK(pumps());
    CHECK(bench_level(0, VALVE));
    CHECK_TEXT(bench_ask("levels"), "soil 29.48 % good\n");
    set_soil("1300\n");
    CHECK(bench_wait_level(0, PUMP, true, UP_MS) >= 0);
    note_log();
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(!bench_level(0, VALVE));
    CHECK_INT(bench_count_log("the controller is shutting down"), 1);
    CHECK_INT(bench_count_log("could not all be written"), 0);
    bench_remove();
}

CASE(off_within_half_a_second_of_any_death)
{
    const char *times = getenv("CUPLATCH_KILLS");
    int kills = times ? atoi(times) : 25;
    struct chance chance = chance_from(harness_seed());
    prepare("death");
    static const int deaths[] = {SIGKILL, SIGTRAP, SIGABRT, SIGSYS};
    pid_t guardian = run_with_journal();
    int worst = 0;
    for (int i = 0; i < kills && !harness_failed(); i++) {
        /* a day has 40 starts: then it is put back by a new journal */
        if (i % 30 == 29) {
            CHECK_INT(bench_end(guardian, SIGTERM), 0);
            unlink(bench_path("journal"));
            guardian = run_with_journal();
        }
        CHECK(pumps());
        bench_nap(chance_between(&chance, 0, 300));
        pid_t worker = bench_worker(guardian);
        note_log();
        if (!CHECK(worker > 0))
            break;
        kill(worker, deaths[chance_between(&chance, 0, 3)]);
        int took = off_after(2000);
        CHECK(took >= 0 && took <= OFF_MS);
        worst = took > worst ? took : worst;
    }
    harness_at(NULL);
    printf("%d deaths, off after at most %d ms\n", kills, worst);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK_INT(bench_count_log("journal cannot be"), 0);
    CHECK_INT(bench_count_log("could not all be written"), 0);
    bench_remove();
}

CASE(what_the_journal_bounds_is_not_given_anew_by_deaths)
{
    prepare("bounds");
    bench_write("site.ini",
                "[site]\nname = Bench\nscan = 50ms\nboot_wait = 0s\n"
                "[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"
                "port = adc:0\ndry = 2910\nwet = 1180\nevery = 100ms\n"
                "plausible = 300..3800\nlost_after = 2s\n"
                "[water]\nis = pump\nrest = 0s\nport = relay:0\nactive = low\n"
                "longest = 60s\nper_day = 3starts\n"
                "[bed_valve]\nis = valve\nport = relay:1\n"
                "[kale]\nis = duty\nrun = water\nkeep = soil\n"
                "start = 60%\nstop = 75%\nthrough = bed_valve\n");
    pid_t guardian = run_with_journal();
    for (int i = 0; i < 3; i++) {
        CHECK(pumps());
        kill(bench_worker(guardian), SIGKILL);
        CHECK(off_after(2000) >= 0);
    }
    /* a fourth start of the day is never seen, though the worker is back */
    CHECK(bench_wait_log("the controller started", 4, UP_MS));
    note_log();
    CHECK(bench_wait_level(0, PUMP, false, 1500) < 0);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}

/* The number behind "number": in a line. */
static long number_of(const char *line)
{
    const char *at = strstr(line, "\"number\":");
    return at ? atol(at + strlen("\"number\":")) : -1;
}

CASE(events_are_numbered_on_over_deaths_and_say_why)
{
    char line[1000];
    long last = -1;
    int causes = 0;
    prepare("events");
    pid_t guardian = run_with_journal();
    for (int i = 0; i < 3; i++) {
        CHECK(pumps());
        kill(bench_worker(guardian), SIGKILL);
        CHECK(off_after(2000) >= 0);
    }
    CHECK(pumps());
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    FILE *in = fopen(bench_path("events"), "r");
    while (in && fgets(line, sizeof(line), in)) {
        CHECK_INT(number_of(line), last + 1);
        last = number_of(line);
        causes += strstr(line, "\"cause\":\"was ended by signal 9") != NULL;
    }
    CHECK_INT(causes, 3);
    CHECK(last > 10);
    if (in)
        fclose(in);
    bench_remove();
}

CASE(a_start_waits_for_the_disk_and_nothing_else_does)
{
    prepare("disk");
    set_soil("1300\n"); /* wet */
    pid_t guardian = run_with_journal();
    CHECK(bench_wait_log("the controller started", 1, UP_MS));
    pid_t disk = bench_child_with(bench_worker(guardian), "journal");
    if (!CHECK(disk > 0))
        return;
    kill(disk, SIGSTOP);
    set_soil("2400\n");
    CHECK(bench_wait_log("is below start", 1, UP_MS));
    CHECK(bench_wait_level(0, PUMP, false, 1000) < 0);
    CHECK(strstr(bench_ask("levels"), "soil 29.48 %") != NULL);
    kill(disk, SIGCONT);
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    /* and a stop waits for nothing */
    kill(disk, SIGSTOP);
    set_soil("1300\n");
    CHECK(bench_wait_level(0, PUMP, true, UP_MS) >= 0);
    kill(disk, SIGCONT);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}

/* The process that has the journal; 0 when there was none in time. */
static pid_t wait_for_disk(pid_t worker, pid_t but)
{
    for (int i = 0; i < UP_MS / 20; i++) {
        pid_t disk = bench_child_with(worker, "journal");
        if (disk > 0 && disk != but)
            return disk;
        bench_nap(20);
    }
    return 0;
}

/* Who writes is killed: another takes its place, a start waits for it, and what
 * was said is on the disk. */
CASE(who_writes_is_replaced_and_nothing_is_lost)
{
    prepare("writer");
    set_soil("1300\n"); /* wet */
    pid_t guardian = run_with_journal();
    CHECK(bench_wait_log("the controller started", 1, UP_MS));
    pid_t worker = bench_worker(guardian);
    pid_t disk = 0;
    for (int i = 0; i < 3; i++) {
        disk = wait_for_disk(worker, disk);
        if (!CHECK(disk > 0))
            return;
        kill(disk, SIGKILL);
    }
    set_soil("2400\n"); /* dry */
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    CHECK_TEXT(bench_tell("water off"), "done\n");
    CHECK(bench_wait_level(0, PUMP, true, UP_MS) >= 0);
    note_log();
    kill(worker, SIGKILL);
    CHECK(bench_wait_log("the controller started", 2, UP_MS));
    CHECK_TEXT(bench_ask("why water"),
               "water is switched off, until auto or hand\n");
    CHECK(bench_worker(guardian) != worker);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}

CASE(one_that_hangs_is_ended_and_started_again)
{
    prepare("hang");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    pid_t worker = bench_worker(guardian);
    kill(worker, SIGSTOP);
    int took = off_after(6000);
    CHECK(took >= 0 && took <= 3000 + OFF_MS);
    CHECK(pumps());
    CHECK(bench_worker(guardian) != worker);
    note_log();
    CHECK(bench_count_log("gave no sign of life; all is off") == 1);
    CHECK(bench_count_log("the controller before gave no sign of life") == 1);
    CHECK_INT(bench_end(guardian, SIGINT), 0);
    bench_remove();
}

CASE(without_its_guardian_the_worker_puts_all_off_and_ends)
{
    prepare("orphan");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    pid_t worker = bench_worker(guardian);
    CHECK_INT(bench_end(guardian, SIGKILL), -1);
    int took = off_after(2000);
    CHECK(took >= 0 && took <= OFF_MS);
    for (int i = 0; i < 400 && kill(worker, 0) == 0; i++)
        bench_nap(5);
    CHECK(kill(worker, 0) != 0);
    bench_remove();
}

/* The pins of a pump at another line. */
static void move_pump(void)
{
    bench_write("pins.ini", "[relay]\nthrough = gpio\nchip = bench\n"
                            "lines = 7 5\n[adc]\nthrough = iio\n"
                            "device = soil\nchannels = voltage0\n");
    bench_put(0, 7, true);
}

CASE(new_files_are_judged_before_anything_changes)
{
    prepare("anew");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    pid_t worker = bench_worker(guardian);
    bench_write("pins.ini", "[relay]\nthrough = gpio\nchip = bench\n");
    kill(guardian, SIGHUP);
    CHECK(bench_wait_log("nothing changes", 1, UP_MS));
    CHECK(bench_count_log("needs the key \"lines\"") == 1);
    CHECK_INT(bench_worker(guardian), worker);
    CHECK(!bench_level(0, PUMP));
    /* a word to whoever reads it cuts nothing short */
    bench_write("pins.ini", pins);
    char more[2000];
    snprintf(more, sizeof(more), "; the bed by the gate\n%s  \n", site);
    bench_write("site.ini", more);
    kill(guardian, SIGHUP);
    CHECK(bench_wait_log("the files say what they said", 1, UP_MS));
    CHECK(bench_wait_log("nothing changes", 2, UP_MS));
    CHECK_INT(bench_worker(guardian), worker);
    CHECK(!bench_level(0, PUMP));
    move_pump();
    kill(guardian, SIGHUP);
    CHECK(bench_wait_level(0, 7, false, UP_MS) >= 0);
    CHECK(bench_level(0, PUMP));
    note_log();
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(bench_level(0, 7));
    bench_remove();
}

CASE(new_files_wait_for_the_pump_but_not_for_ever)
{
    prepare("finish");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    bench_nap(1200); /* a beat has said that it runs */
    pid_t worker = bench_worker(guardian);
    move_pump();
    kill(guardian, SIGHUP);
    CHECK(bench_wait_log("count once no pump runs", 1, UP_MS));
    CHECK_INT(bench_worker(guardian), worker);
    CHECK(!bench_level(0, PUMP));
    set_soil("1300\n"); /* it is wet: the pump has done its job */
    CHECK(bench_wait_level(0, PUMP, true, UP_MS) >= 0);
    set_soil("2400\n");
    CHECK(bench_wait_level(0, 7, false, UP_MS) >= 0);
    CHECK(bench_level(0, PUMP));
    /* one that runs on is cut short all the same */
    bench_nap(1200);
    bench_write("pins.ini", pins);
    kill(guardian, SIGHUP);
    CHECK(bench_wait_level(0, PUMP, false, UP_MS) >= 0);
    CHECK(bench_level(0, 7));
    note_log();
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(bench_level(0, PUMP));
    bench_remove();
}

/* Writes something else over a part of the journal. */
static void spoil(long from, long length)
{
    FILE *file = fopen(bench_path("journal"), "r+b");
    if (!file)
        return;
    fseek(file, from, SEEK_SET);
    for (long i = 0; i < length; i++)
        fputc((int)(i * 7 + 1) & 0xFF, file);
    fclose(file);
}

CASE(what_a_person_switched_off_stays_off_whatever_dies_or_is_spoilt)
{
    static const long slot = 4096;
    prepare("chosen");
    pid_t guardian = run_with_journal();
    CHECK(pumps());
    CHECK_TEXT(bench_tell("kale off"), "done\n");
    CHECK(off_after(UP_MS) >= 0);
    for (int i = 0; i < 4 && !harness_failed(); i++) {
        kill(bench_worker(guardian), SIGKILL);
        CHECK(bench_wait_log("the controller started", i + 2, UP_MS));
        CHECK(bench_wait_level(0, PUMP, false, 700) < 0);
    }
    /* without its guardian, and with nothing left of journal and two copies */
    CHECK_INT(bench_end(guardian, SIGKILL), -1);
    bench_nap(1500);
    spoil(0, 4 * slot);
    guardian = run_with_journal();
    CHECK(bench_wait_log("the controller started", 1, UP_MS));
    note_log();
    CHECK(bench_wait_level(0, PUMP, false, 1500) < 0);
    CHECK_INT(bench_count_log("on hold until go"), 0);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    /* an empty file */
    fclose(fopen(bench_path("journal"), "wb"));
    guardian = run_with_journal();
    CHECK(bench_wait_log("on hold until go", 1, UP_MS));
    CHECK(bench_wait_level(0, PUMP, false, 1500) < 0);
    CHECK_TEXT(bench_tell("site go"), "done\n");
    CHECK(pumps());
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}

CASE(a_stop_in_the_midst_of_a_change_is_not_forgotten)
{
    prepare("midst");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    /* one that does not end at once: the change takes a while */
    kill(bench_worker(guardian), SIGSTOP);
    kill(guardian, SIGHUP);
    bench_nap(800);
    note_log();
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(bench_level(0, PUMP));
    for (int ms = 0; ms < 60 && !harness_failed(); ms += 6) {
        guardian = bench_run(NULL);
        CHECK(pumps());
        kill(guardian, SIGHUP);
        bench_nap(ms);
        CHECK_INT(bench_end(guardian, SIGTERM), 0);
        CHECK(bench_level(0, PUMP));
    }
    bench_remove();
}

CASE(a_second_controller_is_refused)
{
    prepare("second");
    pid_t guardian = bench_run(NULL);
    CHECK(pumps());
    CHECK_INT(bench_pins_off(), 3);
    CHECK(!bench_level(0, PUMP)); /* the first goes on */
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK_INT(bench_pins_off(), 0);
    bench_remove();
}

CASE(a_click_is_over_by_itself_and_at_once_when_it_is_killed)
{
    prepare("click");
    char site_path[200];
    char pins_path[200];
    snprintf(site_path, sizeof(site_path), "%s", bench_path("site.ini"));
    snprintf(pins_path, sizeof(pins_path), "%s", bench_path("pins.ini"));
    const char *click[] = {site_path, pins_path, "--click", "water",
                           "--for",   "200ms",   NULL};
    CHECK_INT(bench_pins(click), 0);
    CHECK(bench_level(0, PUMP));
    click[5] = "50s";
    pid_t guardian = bench_begin_pins(click);
    CHECK(pumps());
    kill(bench_worker(guardian), SIGKILL);
    int took = off_after(2000);
    CHECK(took >= 0 && took <= OFF_MS);
    /* and it is not clicked once more */
    CHECK_INT(bench_end(guardian, 0), 1);
    CHECK(bench_level(0, PUMP));
    bench_remove();
}

CASE(what_was_on_before_is_told_of)
{
    prepare("found");
    bench_put(0, VALVE, true);
    pid_t guardian = bench_run(NULL);
    CHECK(bench_wait_log("found on before anything ran: relay:1", 1, UP_MS));
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}
