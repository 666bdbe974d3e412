/* So many made-up sites of twenty things on one broker, and one cuplatch-serve
 * that follows them: what it takes, and whether every event of every site
 * arrived, once and in order. CUPLATCH_SITES and CUPLATCH_SECONDS say how many
 * and how long. */
#include <arpa/inet.h>
#include <mosquitto.h>
#include <netinet/in.h>
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <time.h>
#include <unistd.h>

#include "../harness/harness.h"
#include "crowd.h"
#include "programs.h"

NEEDS_PROGRAM("mosquitto")

/* Two levels a second of each site, and an event every five seconds: more than
 * a garden tells that is not in trouble. */
#define LEVEL_MS 500
#define EVENT_MS 5000
/* Until all are there, and until all is on the disk. */
#define BEGIN_MS 4000
#define CALM_MS 8000
#define LIST_MOST_MS 2000

static int broker_port, page_port;
static char key[80];

static double clock_ms(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (double)at.tv_sec * 1e3 + (double)at.tv_nsec / 1e6;
}

/* Seconds of the processor, and kB, of a program. */
struct cost {
    double cpu_s;
    long kb;
};

static struct cost cost_of(pid_t pid)
{
    char path[60];
    char line[600] = "";
    struct cost cost = {0, 0};
    unsigned long user = 0, system = 0;
    snprintf(path, sizeof(path), "/proc/%d/stat", (int)pid);
    FILE *in = fopen(path, "r");
    if (in && fgets(line, sizeof(line), in) && strrchr(line, ')'))
        sscanf(strrchr(line, ')') + 2,
               "%*c %*d %*d %*d %*d %*d %*u %*u %*u %*u %*u %lu %lu", &user,
               &system);
    if (in)
        fclose(in);
    cost.cpu_s = (double)(user + system) / (double)sysconf(_SC_CLK_TCK);
    snprintf(path, sizeof(path), "/proc/%d/status", (int)pid);
    in = fopen(path, "r");
    while (in && fgets(line, sizeof(line), in))
        sscanf(line, "VmRSS: %ld", &cost.kb);
    if (in)
        fclose(in);
    return cost;
}

/* Programs */

static void write_files(void)
{
    char text[900];
    broker_port = free_port();
    page_port = free_port();
    snprintf(text, sizeof(text),
             "listener %d 127.0.0.1\nallow_anonymous true\n"
             "max_queued_messages 0\nmax_inflight_messages 0\nuser root\n",
             broker_port);
    write_text("broker.conf", text);
    snprintf(text, sizeof(text),
             "[coop]\nis = sites\nbroker = mqtt://127.0.0.1:%d\nbase = coop\n\n"
             "[history]\nfile = %s\n\n[page]\nlisten = 127.0.0.1:%d\nkeys = "
             "%s\nfiles = %s\n",
             broker_port, in_dir("history.db"), page_port, in_dir("keys"), dir);
    write_text("serve.ini", text);
}

static void make_key(void)
{
    char command[400];
    snprintf(command, sizeof(command), "%s %s --new-key mara 2>/dev/null",
             SERVE, in_dir("serve.ini"));
    FILE *in = popen(command, "r");
    if (!in || !fgets(key, sizeof(key), in))
        abort();
    pclose(in);
    key[strcspn(key, "\n")] = '\0';
}

/* How long the list of all takes, and its bytes; 0: it did not come. */
static size_t ask_list(double *ms)
{
    static char answer[2000000];
    struct sockaddr_in at = {.sin_family = AF_INET,
                             .sin_port = htons((in_port_t)page_port),
                             .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    size_t length = 0;
    ssize_t got;
    double began = clock_ms();
    int fd = socket(AF_INET, SOCK_STREAM, 0);
    if (connect(fd, (struct sockaddr *)&at, sizeof(at)) != 0)
        return 0;
    dprintf(
        fd,
        "GET /sites HTTP/1.1\r\nHost: 127.0.0.1:%d\r\nAuthorization: Bearer "
        "%s\r\nConnection: close\r\n\r\n",
        page_port, key);
    while (length < sizeof(answer) - 1 &&
           (got = read(fd, answer + length, sizeof(answer) - 1 - length)) > 0)
        length += (size_t)got;
    close(fd);
    answer[length] = '\0';
    *ms = clock_ms() - began;
    return strstr(answer, "200 OK") ? length : 0;
}

/* What arrived */

/* Events of each site in the order in which they were written: their values are
 * their numbers. Returns how many sites are not as they should be. */
static int count_wrong(const struct crowd *crowd, int sites, long *events)
{
    sqlite3 *file;
    sqlite3_stmt *row;
    int wrong = 0;
    *events = 0;
    if (sqlite3_open(in_dir("history.db"), &file) != SQLITE_OK)
        abort();
    if (sqlite3_prepare_v2(
            file,
            "SELECT value FROM events JOIN sites USING (site) WHERE id = ?1 "
            "ORDER BY event",
            -1, &row, NULL) != SQLITE_OK)
        abort();
    for (int i = 0; i < sites; i++) {
        char id[40];
        long next = 0;
        bool right = true;
        snprintf(id, sizeof(id), "plot-%d", i);
        sqlite3_bind_text(row, 1, id, -1, SQLITE_TRANSIENT);
        while (sqlite3_step(row) == SQLITE_ROW)
            right = sqlite3_column_int64(row, 0) == next++ && right;
        sqlite3_reset(row);
        *events += next;
        if (!right || next != crowd_told(crowd, i)) {
            wrong++;
            printf("%s: told %ld, arrived %ld%s\n", id, crowd_told(crowd, i),
                   next, right ? "" : ", not in order");
        }
    }
    sqlite3_finalize(row);
    sqlite3_close(file);
    return wrong;
}

static long number_of(const char *name, long otherwise)
{
    const char *text = getenv(name);
    return text ? atol(text) : otherwise;
}

CASE(every_event_of_every_site_arrives_once_and_in_order)
{
    int sites = (int)number_of("CUPLATCH_SITES", 60);
    int seconds = (int)number_of("CUPLATCH_SECONDS", 8);
    double list_ms = 0;
    long events;
    signal(SIGPIPE, SIG_IGN);
    mosquitto_lib_init();
    folder_begin("many");
    write_files();
    make_key();
    const char *const words[] = {find_program("mosquitto"), "-c",
                                 in_dir("broker.conf"), NULL};
    pid_t broker = start(words, "broker.log", 0);
    nap(500);
    pid_t serve = start_serve(0);
    CHECK(wait_log("the broker is there"));
    struct crowd *crowd =
        crowd_open(broker_port, "coop", sites, LEVEL_MS, EVENT_MS);
    crowd_live(crowd, BEGIN_MS);
    struct cost serve_was = cost_of(serve), broker_was = cost_of(broker);
    crowd_live(crowd, seconds * 1000);
    struct cost serve_is = cost_of(serve), broker_is = cost_of(broker);
    crowd_calm(crowd, CALM_MS);
    size_t list = ask_list(&list_ms);
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(count_wrong(crowd, sites, &events), 0);
    crowd_close(crowd);
    finish(broker, SIGTERM);
    printf("%d sites for %d s: %ld events; serve %.1f %% of a processor, %ld "
           "kB; broker %.1f %%, %ld kB; list %.0f ms, %zu bytes\n",
           sites, seconds, events,
           100 * (serve_is.cpu_s - serve_was.cpu_s) / seconds, serve_is.kb,
           100 * (broker_is.cpu_s - broker_was.cpu_s) / seconds, broker_is.kb,
           list_ms, list);
    CHECK(events >= sites);
    CHECK(list > 0 && list_ms < LIST_MOST_MS);
    mosquitto_lib_cleanup();
    folder_end();
}
