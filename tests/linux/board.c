/* Drives the emulated machine of board.sh from outside: its lines and its
 * thermometer over the emulator's own socket, a ranger at its serial line that
 * looks into a simulated header, commands at its console. What happens to pumps
 * is measured at the pins. Run in the folder that board.sh made. */
#include <jansson.h>
#include <poll.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <sys/wait.h>
#include <time.h>
#include <unistd.h>

#include "../harness/harness.h"

#define PUMP "gpioB0"
#define VALVE "gpioB1"
#define FLOAT "gpioB2"
#define STEP_MS 100
#define DEPTH_MM 900
#define GAP_MM 100
#define BOOT_MS 90000
#define OFF_MS 500

struct board {
    pid_t pid;
    int monitor;
    int console;
    int range;
    double level_mm;
    int64_t played_ms;
};
static struct board board = {.level_mm = 300};

static int64_t now_ms(void)
{
    struct timespec now;
    clock_gettime(CLOCK_MONOTONIC, &now);
    return (int64_t)now.tv_sec * 1000 + now.tv_nsec / 1000000;
}

/* The emulator */

static int dial(const char *path)
{
    struct sockaddr_un address = {.sun_family = AF_UNIX};
    snprintf(address.sun_path, sizeof(address.sun_path), "%s", path);
    for (int tries = 0; tries < 500; tries++) {
        int fd = socket(AF_UNIX, SOCK_STREAM, 0);
        if (connect(fd, (struct sockaddr *)&address, sizeof(address)) == 0)
            return fd;
        close(fd);
        poll(NULL, 0, 20);
    }
    perror(path);
    exit(1);
}

/* One line of the monitor; the caller owns it. */
static json_t *monitor_line(void)
{
    static char text[65536];
    size_t used = 0;
    while (used < sizeof(text) - 1 &&
           recv(board.monitor, text + used, 1, 0) == 1)
        if (text[used++] == '\n')
            break;
    return json_loadb(text, used, 0, NULL);
}

/* Asks the emulator; what it returns is the caller's. */
static json_t *monitor(json_t *asked)
{
    char *text = json_dumps(asked, JSON_COMPACT);
    json_decref(asked);
    if (send(board.monitor, text, strlen(text), MSG_NOSIGNAL) < 0)
        perror("monitor");
    free(text);
    for (;;) {
        json_t *line = monitor_line();
        json_t *answer = json_object_get(line, "return");
        if (!line || answer) {
            json_incref(answer);
            json_decref(line);
            return answer;
        }
        json_decref(line); /* an event */
    }
}

static bool line_level(const char *line)
{
    json_t *level = monitor(json_pack("{s:s, s:{s:s, s:s}}", "execute",
                                      "qom-get", "arguments", "path",
                                      "/machine/soc/gpio", "property", line));
    bool high = json_is_true(level);
    json_decref(level);
    return high;
}

static void set(const char *path, const char *property, json_t *value)
{
    json_decref(monitor(json_pack("{s:s, s:{s:s, s:s, s:o}}", "execute",
                                  "qom-set", "arguments", "path", path,
                                  "property", property, "value", value)));
}

/* The water */

static void play_step(void)
{
    char text[16];
    bool fills = line_level(PUMP) && !line_level(VALVE);
    board.level_mm += fills ? 6 : -1.5;
    board.level_mm = board.level_mm < 20 ? 20 : board.level_mm;
    int distance = (int)(DEPTH_MM + GAP_MM - board.level_mm);
    snprintf(text, sizeof(text), "R%04d\r", distance);
    (void)!send(board.range, text, strlen(text), MSG_DONTWAIT | MSG_NOSIGNAL);
    /* what comes back is nobody's */
    (void)!recv(board.range, text, sizeof(text), MSG_DONTWAIT);
}

static void play(int ms)
{
    int64_t until = now_ms() + ms;
    while (now_ms() < until) {
        if (now_ms() - board.played_ms >= STEP_MS) {
            board.played_ms = now_ms();
            play_step();
        }
        poll(NULL, 0, 2);
    }
}

/* How many ms until a line has a level; -1: not within so many. */
static int wait_line(const char *line, bool high, int most_ms)
{
    int64_t began = now_ms();
    while (line_level(line) != high) {
        if (now_ms() - began > most_ms)
            return -1;
        play(2);
    }
    return (int)(now_ms() - began);
}

/* The console */

/* Adds what the console says to what it said; false when it is gone. */
static bool hear(char *text, size_t *used, size_t size)
{
    struct pollfd one = {.fd = board.console, .events = POLLIN};
    if (poll(&one, 1, 1) == 1) {
        ssize_t got = recv(board.console, text + *used, size - *used - 1, 0);
        if (got <= 0)
            return false;
        *used += (size_t)got;
    }
    text[*used] = '\0';
    return true;
}

/* Until it has booted: what is typed before is heard by nobody. */
static bool wait_boot(char *text, size_t size)
{
    size_t used = 0;
    int64_t until = now_ms() + BOOT_MS;
    while (now_ms() < until && hear(text, &used, size))
        if (strstr(text, "the board is up"))
            return true;
    harness_at("%s", text);
    return false;
}

/* Runs a command; what it said goes into `said`, and the exit code is
 * returned; -1 when it does not end in its time. */
static int shell_for(const char *command, char *text, size_t size, int ms)
{
    char line[600];
    size_t used = 0;
    int64_t until = now_ms() + ms;
    snprintf(line, sizeof(line), "%s; echo '<'$?'>'\n", command);
    *text = '\0';
    if (send(board.console, line, strlen(line), 0) < 0)
        return -1;
    while (now_ms() < until && hear(text, &used, size)) {
        const char *end = strrchr(text, '<');
        if (end && strchr(end, '>') && end[1] != '\'')
            return atoi(end + 1);
        if (now_ms() - board.played_ms >= STEP_MS)
            play(1);
    }
    return -1;
}

static char said[65536];

static int shell(const char *command)
{
    return shell_for(command, said, sizeof(said), 20000);
}

static bool shell_says(const char *command, const char *text, int ms)
{
    for (int64_t until = now_ms() + ms; now_ms() < until; play(200))
        if (shell(command) >= 0 && strstr(said, text))
            return true;
    harness_at("%s: %s", command, said);
    return false;
}

/* The machine */

static void become_emulator(void)
{
    execlp("qemu-system-arm", "qemu-system-arm", "-M", "ast2600-evb", "-m",
           "1G", "-kernel", "kernel", "-initrd", "disk.gz", "-dtb", "tree",
           "-append", "console=ttyS4,115200 quiet", "-nodefaults", "-nographic",
           "-no-reboot", "-device",
           "tmp105,id=shed,bus=aspeed.i2c.bus.0,address=0x4a", "-chardev",
           "socket,id=con,path=con.sock,server=on,wait=off", "-serial",
           "chardev:con", "-chardev",
           "socket,id=range,path=range.sock,server=on,wait=off", "-serial",
           "chardev:range", "-qmp", "unix:qmp.sock,server=on,wait=off",
           (char *)NULL);
    perror("qemu-system-arm");
    _exit(127);
}

static void start_machine(void)
{
    unlink("con.sock");
    unlink("range.sock");
    unlink("qmp.sock");
    board.pid = fork();
    if (board.pid == 0)
        become_emulator();
    board.monitor = dial("qmp.sock");
    json_decref(monitor_line());
    json_decref(monitor(json_pack("{s:s}", "execute", "qmp_capabilities")));
    board.console = dial("con.sock");
    board.range = dial("range.sock");
    int64_t began = now_ms();
    CHECK(wait_boot(said, sizeof(said)));
    printf("up after %.1f s\n", (double)(now_ms() - began) / 1000);
    set("/machine/peripheral/shed", "temperature", json_integer(21500));
    set("/machine/soc/gpio", FLOAT, json_true());
    shell("echo lm75 0x4a >/sys/bus/i2c/devices/i2c-0/new_device");
}

static void start_controller(void)
{
    CHECK_INT(shell("cuplatch run /etc/board.ini --port linux --pins "
                    "/etc/board.pins.ini --journal /tmp/journal --socket "
                    "/run/s --trust-clock >>/tmp/log 2>&1 & G=$!"),
              0);
    if (!CHECK(shell_says("cuplatch ask --socket /run/s levels", "header_range",
                          20000)))
        shell("cat /tmp/log");
}

/* The worker is the guardian's only child. */
#define WORKER "$(cat /proc/$G/task/$G/children)"

static void it_fills_and_stops(void)
{
    CHECK(wait_line(PUMP, true, 20000) >= 0);
    CHECK(!line_level(VALVE)); /* which is on while it is low */
    CHECK(wait_line(PUMP, false, 60000) >= 0);
    harness_at("level %.0f mm", board.level_mm);
    CHECK(board.level_mm > 0.78 * DEPTH_MM && board.level_mm < DEPTH_MM);
    harness_at(NULL);
    CHECK(shell_says("cuplatch ask --socket /run/s levels",
                     "shed_air 21.50 C good", 10000));
    CHECK(strstr(said, "float 1 good") != NULL);
    CHECK(strstr(said, "slow ") != NULL && !strstr(said, "slow 0"));
}

/* Another guardian, which makes no pause before its first worker. */
static void start_anew(void)
{
    CHECK_INT(shell("kill $G; wait $G"), 0);
    start_controller();
}

static void it_is_killed(int times)
{
    struct chance chance = chance_from(harness_seed());
    int worst = 0;
    for (int i = 0; i < times && !harness_failed(); i++) {
        board.level_mm = 200;
        CHECK(wait_line(PUMP, true, 30000) >= 0);
        play(chance_between(&chance, 0, 400));
        int64_t began = now_ms();
        shell("kill -9 " WORKER);
        int took = wait_line(PUMP, false, 3000);
        int all = (int)(now_ms() - began);
        harness_at("kill %d: off after %d ms", i, all);
        CHECK(took >= 0 && all <= OFF_MS);
        CHECK(line_level(VALVE));
        if (i % 2 == 1)
            start_anew();
        worst = all > worst ? all : worst;
    }
    harness_at(NULL);
    printf(
        "%d kills, off after at most %d ms, the command's own way included\n",
        times, worst);
    CHECK_INT(shell("grep -q 'controller started' /tmp/log"), 0);
    int bad = shell("grep -B2 -A2 'journal cannot be' /tmp/log");
    harness_at("%s", said);
    CHECK_INT(bad, 1);
    harness_at(NULL);
}

static void it_hangs(void)
{
    CHECK(wait_line(PUMP, true, 30000) >= 0);
    shell("kill -STOP " WORKER);
    int took = wait_line(PUMP, false, 8000);
    printf("hung, off after %d ms\n", took);
    CHECK(took >= 0 && took <= 3000 + OFF_MS);
    start_anew();
}

static void its_guardian_is_killed(void)
{
    board.level_mm = 200;
    CHECK(wait_line(PUMP, true, 30000) >= 0);
    shell("kill -9 $G");
    int took = wait_line(PUMP, false, 3000);
    printf("without a guardian, off after %d ms\n", took);
    CHECK(took >= 0 && took <= OFF_MS);
}

/* Nobody feeds the kernel's watchdog any more: it resets the machine. */
static void the_watchdog_bites(void)
{
    int status;
    int64_t began = now_ms();
    while (now_ms() - began < 90000) {
        if (waitpid(board.pid, &status, WNOHANG) == board.pid) {
            printf("reset by its watchdog after %.1f s\n",
                   (double)(now_ms() - began) / 1000);
            board.pid = -1;
            return;
        }
        poll(NULL, 0, 50);
    }
    CHECK(board.pid == -1);
}

CASE(a_linux_machine_is_safe_whatever_dies)
{
    const char *times = getenv("CUPLATCH_KILLS");
    signal(SIGPIPE, SIG_IGN);
    start_machine();
    if (!harness_failed())
        start_controller();
    if (!harness_failed()) {
        it_fills_and_stops();
        it_is_killed(times ? atoi(times) : 50);
        it_hangs();
        its_guardian_is_killed();
        the_watchdog_bites();
    }
    if (board.pid > 0)
        kill(board.pid, SIGKILL);
}
