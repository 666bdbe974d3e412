/* Pages that are open all at once, for the bench: so many followers of
 * cuplatch-serve, for so many seconds; how far apart the first and the last of
 * them hear the same. Use: bench_pages PORT KEY COUNT SECONDS */
#include <netinet/in.h>
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <time.h>
#include <unistd.h>

#define MOST 390
#define TIMES 4096

static struct {
    long t;
    double first, last;
    int heard;
} times[TIMES];

static double now_s(void)
{
    struct timespec at;
    clock_gettime(CLOCK_MONOTONIC, &at);
    return (double)at.tv_sec + (double)at.tv_nsec / 1e9;
}

static int dial(int port, const char *key)
{
    char text[200];
    struct sockaddr_in address = {.sin_family = AF_INET,
                                  .sin_port = htons((in_port_t)port),
                                  .sin_addr.s_addr = htonl(INADDR_LOOPBACK)};
    int fd = socket(AF_INET, SOCK_STREAM, 0);
    int length = snprintf(text, sizeof(text),
                          "GET /follow HTTP/1.1\r\nHost: localhost\r\n"
                          "Authorization: Bearer %s\r\n\r\n",
                          key);
    if (connect(fd, (struct sockaddr *)&address, sizeof(address)) != 0 ||
        send(fd, text, (size_t)length, 0) != length) {
        perror("the page");
        exit(1);
    }
    return fd;
}

/* Each "now" has its own t. */
static void hear(char *text, double at)
{
    while ((text = strstr(text, "event: now\ndata: {\"t\":"))) {
        text += strlen("event: now\ndata: {\"t\":");
        long t = strtol(text, NULL, 10);
        unsigned i = (unsigned long)t % TIMES;
        if (times[i].t != t) {
            times[i].t = t;
            times[i].first = at;
            times[i].heard = 0;
        }
        times[i].last = at;
        times[i].heard++;
    }
}

static void tell(int count)
{
    int updates = 0;
    double apart = 0;
    for (int i = 0; i < TIMES; i++) {
        if (times[i].heard < count)
            continue;
        updates++;
        if (times[i].last - times[i].first > apart)
            apart = times[i].last - times[i].first;
    }
    printf("%d pages heard %d updates, all of them within %.0f ms\n", count,
           updates, apart * 1000);
}

int main(int argc, char **argv)
{
    static char bytes[262144];
    struct pollfd fds[MOST];
    if (argc != 5 || atoi(argv[3]) < 1 || atoi(argv[3]) > MOST)
        return 2;
    nfds_t count = (nfds_t)atoi(argv[3]);
    for (nfds_t i = 0; i < count; i++)
        fds[i] = (struct pollfd){.fd = dial(atoi(argv[1]), argv[2]),
                                 .events = POLLIN};
    for (double end = now_s() + atof(argv[4]); now_s() < end;) {
        poll(fds, count, 100);
        for (nfds_t i = 0; i < count; i++) {
            if (!(fds[i].revents & (POLLIN | POLLHUP)))
                continue;
            ssize_t got = recv(fds[i].fd, bytes, sizeof(bytes) - 1, 0);
            if (got <= 0) {
                fprintf(stderr, "a page was let go\n");
                return 1;
            }
            bytes[got] = '\0';
            hear(bytes, now_s());
        }
    }
    tell((int)count);
    return 0;
}
