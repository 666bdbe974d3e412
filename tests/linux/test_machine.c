/* Every way to a pin, read and switched on a machine that is a folder, with
 * rangers and boards that are processes. */
#include <fcntl.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../ports/linux/gpio.h"
#include "../harness/harness.h"
#include "bench.h"
#include "cuplatch/decode.h"
#include "peers.h"

#define UP_MS 20000
/* A bus adds the time of one request. */
#define OFF_MS (500 + 1000)

/* What "ask" says has a text, within a while. */
static bool hears(const char *question, const char *text)
{
    bool heard = false;
    for (int i = 0; i < UP_MS / 50 && !heard; i++) {
        heard = strstr(bench_ask(question), text) != NULL;
        bench_nap(heard ? 0 : 50);
    }
    if (!heard)
        harness_at("%s", bench_ask(question));
    return CHECK(heard);
}

/* What a command wrote into "said"; gone with the next call. */
static const char *what_was_said(void)
{
    static char said[4000];
    FILE *in = fopen(bench_path("said"), "r");
    said[in ? fread(said, 1, sizeof(said) - 1, in) : 0] = '\0';
    if (in)
        fclose(in);
    return said;
}

static const char head[] = "[site]\nname = Bench\nscan = 100ms\n"
                           "boot_wait = 0s\n";

static void write_site(const char *more)
{
    char text[4000];
    snprintf(text, sizeof(text), "%s%s", head, more);
    bench_write("site.ini", text);
}

/* One sensor at one pin, and what is read of it. */
static void reads(const char *name, const char *sensor, const char *pins,
                  const char *text)
{
    char site[1000];
    snprintf(site, sizeof(site),
             "[it]\nis = sensor\nevery = 200ms\n"
             "lost_after = 3s\n%s",
             sensor);
    write_site(site);
    bench_write("pins.ini", pins);
    harness_at("%s", name);
    pid_t guardian = bench_run(NULL);
    hears("levels", text);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    harness_at(NULL);
}

CASE(lines_and_files_are_read)
{
    bench_make("reads");
    bench_put(1, 7, true);
    reads("gpio", "form = switch\nport = pin:3\n",
          "[pin:3]\nthrough = gpio\nchip = shed\nlines = 7\n", "it 1 good");
    bench_write("number", "1234\n");
    char pins[300];
    snprintf(pins, sizeof(pins), "[adc:0]\nthrough = file\npath = %s\n",
             bench_path("number"));
    reads("file", "form = volts\nport = adc:0\n", pins, "it 1.234 V good");
    bench_write("sys/bus/iio/devices/iio:device1/name", "meter\n");
    bench_write("sys/bus/iio/devices/iio:device1/in_voltage2_raw", "1000\n");
    bench_write("sys/bus/iio/devices/iio:device1/in_voltage_scale", "2.5\n");
    reads("iio, scaled", "form = volts\nport = adc:0\n",
          "[adc:0]\nthrough = iio\ndevice = meter\nchannels = voltage2\n"
          "scaled = yes\n",
          "it 2.500 V good");
    reads("iio, raw", "form = volts\nport = adc:0\n",
          "[adc:0]\nthrough = iio\ndevice = 1\nchannels = voltage2\n",
          "it 1.000 V good");
    bench_remove();
}

CASE(an_echo_is_timed_and_pulses_are_counted)
{
    bench_make("edges");
    bench_write("chip0.us11", "5824\n"); /* 1 m at 20 C */
    reads("echo", "measures = distance\nform = echo\nport = echo:0\n",
          "[echo:0]\nthrough = trigger-echo\nchip = 0\ntrigger = 10\n"
          "echo = 11\n",
          "it 1000.0 mm good");
    bench_remove();
}

/* A flow within a while that is about so much: a pass that came late counts
 * over more than its three seconds. */
static bool flows(double least, double most)
{
    double flow = 0;
    bool heard = false;
    for (int i = 0; i < UP_MS / 50 && !heard; i++) {
        heard = sscanf(bench_ask("levels"), "it %lf L/min", &flow) == 1 &&
                flow > least && flow < most;
        bench_nap(heard ? 0 : 50);
    }
    if (!heard)
        harness_at("%s", bench_ask("levels"));
    return CHECK(heard);
}

CASE(pulses_that_the_queue_dropped_are_counted)
{
    bench_make("pulses");
    write_site("[it]\nis = sensor\nform = pulses\nport = count:0\n"
               "per_litre = 300\nevery = 3s\nlost_after = 9s\n");
    bench_write("pins.ini",
                "[count:0]\nthrough = pulses\nchip = 0\nline = 9\n");
    pid_t guardian = bench_run(NULL);
    hears("levels", "it 0 L/min good");
    /* of 150 pulses one edge is left in the queue, the last */
    int edges = open(bench_path("chip0.edges9"), O_WRONLY);
    struct gpio_edge last = {.sequence = 300, .line = 9};
    CHECK(write(edges, &last, sizeof(last)) == (ssize_t)sizeof(last));
    close(edges);
    flows(7, 10.5);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    bench_remove();
}

CASE(a_thermometer_at_one_wire_is_read)
{
    uint8_t nine[9] = {0x53, 0x01, 0x2B, 0x17, 0x5A, 0xC4, 0x09, 0x33};
    char text[200] = "";
    nine[8] = cup_crc8(nine, 8);
    for (int i = 0; i < 9; i++)
        snprintf(text + strlen(text), 4, "%02x ", nine[i]);
    snprintf(text + strlen(text), 30, ": crc=%02x YES\n", nine[8]);
    bench_make("wire");
    bench_write("sys/bus/w1/devices/44-0a0b0c/w1_slave", text);
    reads("w1", "measures = temperature\nform = temp9\nport = wire:0\n",
          "[wire:0]\nthrough = w1\ndevice = 44-0a0b0c\n", "it 21.19 C good");
    bench_remove();
}

CASE(a_stream_is_kept_between_askings_and_no_longer)
{
    char path[64];
    char pins[200];
    bench_make("stream");
    int line = peer_line(path, sizeof(path));
    pid_t ranger = peer_talks(line, "W0931\r", 40);
    snprintf(pins, sizeof(pins),
             "[serial:0]\nthrough = serial\ndevice = %s\nbaud = 9600\n", path);
    write_site("[it]\nis = sensor\nmeasures = distance\nform = range-text\n"
               "port = serial:0\nevery = 200ms\nlost_after = 1s\n");
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "it 931.0 mm good");
    peer_end(ranger); /* what it said before is not said again */
    hears("levels", "it lost");
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    close(line);
    bench_remove();
}

static const char block[] = "[probe]\nis = source\nform = modbus\n"
                            "port = serial:0\nunit = 29\n"
                            "read = holding 16 4\nevery = 200ms\n"
                            "[it]\nis = sensor\nsource = probe 0 x0.1\n"
                            "measures = moisture\nlost_after = 3s\n"
                            "[warmth]\nis = sensor\n"
                            "source = probe 1 signed x0.1\n"
                            "measures = temperature\nlost_after = 3s\n";

CASE(blocks_of_registers_are_read_over_a_line_and_tcp)
{
    char path[64];
    char pins[200];
    int port;
    bench_make("block");
    write_site(block);
    pid_t board = peer_board(&port, NULL);
    snprintf(pins, sizeof(pins),
             "[serial:0]\nthrough = modbus\nhost = 127.0.0.1:%d\n", port);
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "it 29.10 % good");
    hears("levels", "warmth -9.90 C good");
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    peer_end(board);
    board = peer_board_at_line(path, sizeof(path), NULL);
    snprintf(pins, sizeof(pins),
             "[serial:0]\nthrough = modbus\ndevice = %s\nbaud = 9600\n", path);
    bench_write("pins.ini", pins);
    guardian = bench_run(NULL);
    hears("levels", "it 29.10 % good");
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    peer_end(board);
    bench_remove();
}

CASE(a_program_is_asked_and_started_anew_when_it_dies)
{
    bench_make("program");
    reads("program", "form = volts\nport = adc:0\n",
          "[adc:0]\nthrough = program\n"
          "command = while read word what; do echo 2750; done\n",
          "it 2.750 V good");
    reads("bytes", "measures = distance\nform = range-word\nport = bus:43\n",
          "[bus:43]\nthrough = program\n"
          "command = while read word what; do echo hex 02 9a; done\n",
          "it 666.0 mm good");
    reads("one that dies", "form = volts\nport = adc:0\n",
          "[adc:0]\nthrough = program\ncommand = read word; echo 1500\n",
          "it 1.500 V good");
    bench_remove();
}

/* What was recorded, played again. */

CASE(a_raw_log_of_numbers_and_bytes_is_played_again)
{
    char command[600];
    char text[100];
    uint8_t nine[9] = {0x53, 0x01, 0x2B, 0x17, 0x5A, 0xC4, 0x09, 0x33};
    nine[8] = cup_crc8(nine, 8);
    snprintf(text, sizeof(text),
             "53 01 2b 17 5a c4 09 33 %02x : crc=%02x YES\n", nine[8], nine[8]);
    bench_make("record");
    bench_write("number", "1234\n");
    bench_write("sys/bus/w1/devices/44-0a0b0c/w1_slave", text);
    write_site("[air]\nis = sensor\nmeasures = temperature\nform = temp9\n"
               "port = wire:0\nevery = 200ms\nlost_after = 3s\n"
               "[gauge]\nis = sensor\nform = volts\nport = adc:0\n"
               "every = 200ms\nlost_after = 3s\n");
    snprintf(command, sizeof(command),
             "[wire:0]\nthrough = w1\ndevice = 44-0a0b0c\n"
             "[adc:0]\nthrough = file\npath = %s\n",
             bench_path("number"));
    bench_write("pins.ini", command);
    snprintf(text, sizeof(text), "%s", bench_path("raw"));
    const char *const record[] = {"--record", text, NULL};
    pid_t guardian = bench_run(record);
    hears("levels", "air 21.19 C good");
    hears("levels", "gauge 1.234 V good");
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    snprintf(command, sizeof(command), "%s look %s --log %s/raw-*.csv >%s 2>&1",
             CUPLATCH_STANDIN, bench_path("site.ini"), text,
             bench_path("said"));
    CHECK_INT(system(command), 0);
    const char *said = what_was_said();
    CHECK(strstr(said, "air  raw 339  good  value 21.19 C") != NULL);
    CHECK(strstr(said, "gauge  raw 1234  good  value 1.234 V") != NULL);
    bench_remove();
}

/* Coils of a board */

static const char coil_site[] =
    "[float]\nis = sensor\nform = switch\nport = pin:3\nevery = 200ms\n"
    "lost_after = 3s\n"
    "[water]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 60s\nhand_limit "
    "= 50s\n";

static bool coils_are(const char *text, int most_ms)
{
    char got[100] = "";
    for (int i = 0; i <= most_ms / 10; i++) {
        FILE *in = fopen(bench_path("coils"), "r");
        got[in ? fread(got, 1, sizeof(got) - 1, in) : 0] = '\0';
        if (in)
            fclose(in);
        if (strcmp(got, text) == 0)
            return true;
        bench_nap(10);
    }
    harness_at("coils: %s", got);
    return false;
}

static void tell(const char *word)
{
    char command[400];
    snprintf(command, sizeof(command), "%s tell --socket %s %s >%s 2>&1",
             CUPLATCH_STANDIN, bench_path("socket"), word, bench_path("told"));
    CHECK_INT(system(command), 0);
}

/* A pump at a coil of a board, which may say more of itself. */
static pid_t run_with_coil(int port, const char *more)
{
    char pins[300];
    write_site(coil_site);
    snprintf(pins, sizeof(pins),
             "[relay]\nthrough = modbus\nhost = 127.0.0.1:%d\nunit = 29\n"
             "coils = 3\nholds = 5s\n%s"
             "[pin:3]\nthrough = gpio\nchip = 0\nlines = 9\n",
             port, more);
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "float 0 good");
    return guardian;
}

CASE(coils_are_switched_and_off_when_the_worker_dies)
{
    int port;
    bench_make("coils");
    pid_t board = peer_board(&port, "coils");
    pid_t guardian = run_with_coil(port, "");
    for (int i = 0; i < 4; i++) {
        tell("water hand 30s");
        CHECK(coils_are("3 ", 5000));
        bench_nap(i * 40);
        kill(bench_worker(guardian), SIGKILL);
        CHECK(coils_are("", OFF_MS));
        CHECK(bench_wait_log("the controller started", i + 2, UP_MS));
        hears("levels", "float 0 good");
    }
    tell("water hand 30s");
    CHECK(coils_are("3 ", 5000));
    /* nobody else may switch what is there meanwhile, by whatever name */
    CHECK_INT(bench_pins_off(), 3);
    CHECK(strstr(what_was_said(), "another program of this machine") != NULL);
    CHECK(coils_are("3 ", 0));
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(coils_are("", 0));
    CHECK_INT(bench_pins_off(), 0);
    peer_end(board);
    bench_remove();
}

CASE(a_board_that_would_drop_a_coil_between_passes_is_refused)
{
    bench_make("drops");
    bench_write("site.ini", "[site]\nname = Slow\nscan = 3s\n"
                            "[water]\nis = pump\nrest = 0s\nport = relay:0\n"
                            "longest = 60s\n");
    bench_write("pins.ini", "[relay]\nthrough = modbus\nhost = 127.0.0.1\n"
                            "unit = 29\ncoils = 3\nholds = 5s\n");
    CHECK_INT(bench_pins_off(), 1);
    const char *said = what_was_said();
    CHECK(strstr(said, "longer than two scans of the site, 6 s") != NULL);
    bench_remove();
}

/* A valve that stays as it is, shut by a pulse of its second line. */
CASE(what_needs_a_pulse_to_be_shut_gets_it_whatever_dies)
{
    bench_make("pulse");
    write_site("[float]\nis = sensor\nform = switch\nport = pin:3\n"
               "every = 200ms\nlost_after = 3s\n"
               "[sluice]\nis = valve\nopen = relay:0\nclose = relay:1\n"
               "travel = 1s\n");
    bench_write("pins.ini", "[relay:0]\nthrough = gpio\nchip = 0\nlines = 4\n"
                            "[relay:1]\nthrough = gpio\nchip = 0\nlines = 5\n"
                            "off_pulse = 700ms\n"
                            "[pin:3]\nthrough = gpio\nchip = 0\nlines = 9\n");
    pid_t guardian = bench_run(NULL);
    hears("levels", "float 0 good");
    CHECK(bench_wait_level(0, 5, false, 5000) >= 0);
    tell("sluice hand 30s");
    CHECK(bench_wait_level(0, 4, true, 5000) >= 0);
    CHECK(!bench_level(0, 5)); /* never both */
    kill(bench_worker(guardian), SIGKILL);
    CHECK(bench_wait_level(0, 4, false, 500) >= 0);
    CHECK(bench_wait_level(0, 5, true, OFF_MS) >= 0);
    CHECK(bench_wait_level(0, 5, false, 1500) >= 0);
    CHECK(bench_wait_log("the controller started", 2, UP_MS));
    hears("levels", "float 0 good");
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(!bench_level(0, 5) && !bench_level(0, 4));
    bench_remove();
}

/* A board of ours */

static const char pond_site[] =
    "[float]\nis = sensor\nform = switch\nport = pin:3\nevery = 200ms\n"
    "lost_after = 3s\n"
    "[bog]\nis = sensor\nmeasures = moisture\nform = counts\nport = adc:2\n"
    "dry = 900\nwet = 400\nevery = 200ms\nlost_after = 3s\n"
    "[water]\nis = pump\nrest = 0s\nport = relay:0\nlongest = 60s\nhand_limit "
    "= 50s\n";

CASE(a_board_of_ours_reads_and_switches_and_lets_go_by_itself)
{
    char line[64];
    char pins[400];
    bench_make("pond");
    pid_t board = peer_own_board(POND, line, sizeof(line), "coils");
    write_site(pond_site);
    snprintf(pins, sizeof(pins),
             "[relay]\nthrough = board\ndevice = %s\nthings = spout\n"
             "holds = 2s\n"
             "[pin:3]\nthrough = board\ndevice = %s\nthings = pond_float\n"
             "[adc:2]\nthrough = board\ndevice = %s\nthings = bog_soil\n",
             line, line, line);
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "float 1 good");
    hears("levels", "bog 50.");
    tell("water hand 30s");
    CHECK(coils_are("0 ", 5000));
    bench_nap(3000); /* past what the board holds by itself */
    CHECK(coils_are("0 ", 0));
    kill(bench_worker(guardian), SIGKILL);
    CHECK(coils_are("", OFF_MS));
    CHECK(bench_wait_log("the controller started", 2, UP_MS));
    hears("levels", "float 1 good");
    tell("water hand 30s");
    CHECK(coils_are("0 ", 5000));
    pid_t worker = bench_worker(guardian);
    pid_t bus = bench_other_child(guardian, worker);
    kill(guardian, SIGSTOP); /* nobody is left who could say off */
    kill(worker, SIGSTOP);
    kill(bus, SIGSTOP);
    CHECK(coils_are("", 4000));
    kill(bus, SIGCONT);
    kill(worker, SIGCONT);
    kill(guardian, SIGCONT);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    peer_end(board);
    bench_remove();
}

CASE(a_board_of_ours_is_looked_at_without_a_pins_file)
{
    char line[64];
    char command[500];
    bench_make("bench");
    pid_t board = peer_own_board(POND, line, sizeof(line), "coils");
    write_site("[pond_float]\nis = sensor\nform = switch\nport = pin:0\n"
               "every = 1s\nlost_after = 5s\n"
               "[bog_soil]\nis = sensor\nmeasures = moisture\n"
               "form = counts\nport = adc:0\ndry = 900\nwet = 400\n"
               "plausible = 300..1000\nevery = 1s\nlost_after = 5s\n"
               "[elsewhere]\nis = sensor\nform = switch\nport = pin:1\n"
               "every = 1s\nlost_after = 2s\n");
    snprintf(command, sizeof(command), "%s look %s --board %s | head -n 16 >%s",
             CUPLATCH_STANDIN, bench_path("site.ini"), line,
             bench_path("said"));
    CHECK_INT(system(command), 0);
    const char *said = what_was_said();
    CHECK(strstr(said, "pond_float  raw 1  good  value 1") != NULL);
    CHECK(strstr(said, "bog_soil  raw 6") != NULL);
    CHECK(strstr(said, "elsewhere  raw -  lost (no-answer)") != NULL);
    peer_end(board);
    bench_remove();
}

CASE(a_bus_whose_process_dies_gets_another)
{
    int port;
    bench_make("bus");
    pid_t board = peer_board(&port, "coils");
    pid_t guardian = run_with_coil(port, "");
    tell("water hand 30s");
    CHECK(coils_are("3 ", 5000));
    pid_t worker = bench_worker(guardian);
    pid_t bus = bench_other_child(guardian, worker);
    if (CHECK(bus > 0)) {
        kill(bus, SIGSTOP); /* a word is under way when it dies */
        bench_nap(500);
        kill(bus, SIGKILL);
    }
    bench_nap(300);
    CHECK(coils_are("3 ", 5000)); /* driven anew, by the same worker */
    CHECK_INT(bench_worker(guardian), worker);
    CHECK(bench_other_child(guardian, worker) != bus);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(coils_are("", 0));
    peer_end(board);
    bench_remove();
}

CASE(a_board_that_is_gone_is_a_pump_that_does_not_obey)
{
    int port;
    bench_make("gone");
    pid_t board = peer_board(&port, NULL);
    pid_t guardian = run_with_coil(port, "timeout = 200ms\n");
    peer_end(board);
    hears("alerts", "water");
    harness_at("%s", bench_ask("alerts"));
    /* off is not certain then: that is said, and it is no success */
    CHECK_INT(bench_end(guardian, SIGTERM), 3);
    CHECK(bench_count_log("OUTPUTS COULD NOT BE PUT OFF") == 1);
    bench_remove();
}

/* Slow ones */

/* One that is powered and hangs holds up the others for its own time alone. */
CASE(a_powered_sensor_that_hangs_does_not_starve_the_others)
{
    bench_make("powered");
    write_site("[stuck]\nis = sensor\nform = volts\nport = adc:0\n"
               "supply = out:0\nwarm_up = 20ms\nevery = 500ms\n"
               "lost_after = 2s\n"
               "[it]\nis = sensor\nform = volts\nport = adc:1\n"
               "every = 200ms\nlost_after = 2s\n");
    bench_write("number", "1234\n");
    char pins[500];
    snprintf(pins, sizeof(pins),
             "[adc:0]\nthrough = program\ntimeout = 200ms\n"
             "command = sleep 1000\n"
             "[adc:1]\nthrough = file\npath = %s\n"
             "[out:0]\nthrough = gpio\nchip = 0\nlines = 9\n",
             bench_path("number"));
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "stuck lost");
    for (int i = 0; i < 20; i++) {
        CHECK(strstr(bench_ask("levels"), "it 1.234 V") != NULL);
        CHECK(strstr(bench_ask("levels"), "it lost") == NULL);
        bench_nap(150);
    }
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    CHECK(!bench_level(0, 9));
    bench_remove();
}

CASE(no_pass_waits_for_a_bus)
{
    static const char line[] = "[soil_%d]\nis = sensor\nform = volts\n"
                               "port = adc:%d\nevery = 1s\nlost_after = 9s\n";
    static const char pin[] = "[adc:%d]\nthrough = program\ntimeout = 6s\n"
                              "command = while read a b; do sleep 5; echo "
                              "%d; done\n";
    char site[3000] = "";
    char pins[3000] = "";
    char made[400] = "";
    bench_make("slow");
    for (int i = 0; i < 8; i++) {
        snprintf(site + strlen(site), sizeof(site) - strlen(site), line, i, i);
        snprintf(pins + strlen(pins), sizeof(pins) - strlen(pins), pin, i,
                 1000 + i);
    }
    snprintf(site + strlen(site), sizeof(site) - strlen(site), line, 8, 8);
    snprintf(pins + strlen(pins), sizeof(pins) - strlen(pins), "%s",
             "[adc:8]\nthrough = program\ntimeout = 4s\n"
             "command = sleep 1000\n");
    write_site(site);
    bench_write("pins.ini", pins);
    pid_t guardian = bench_run(NULL);
    hears("levels", "soil_7 1.007 V good");
    CHECK(strstr(bench_ask("levels"), "soil_8 1") == NULL);
    bench_nap(2000);
    CHECK_INT(bench_end(guardian, SIGTERM), 0);
    FILE *in = fopen(bench_path("log"), "r");
    double late = 1e9;
    while (in && fgets(made, sizeof(made), in)) {
        const char *at = strstr(made, "came at most ");
        if (at)
            late = atof(at + strlen("came at most "));
    }
    if (in)
        fclose(in);
    harness_at("999 in 1000 passes came at most %.1f ms late", late);
    CHECK(late < 2000); /* however busy the machine, no pass waited for 4 s */
    bench_remove();
}
