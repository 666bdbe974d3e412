/* Followers of a running controller, for the bench: so many that read, one that
 * is mute, one that speaks garbage as fast as it can, one that says half a line
 * and waits; until the controller ends. Use: bench_followers SOCKET COUNT */
#include <poll.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/socket.h>
#include <sys/un.h>
#include <unistd.h>

#define MOST 32

static int dial(const char *path, const char *first)
{
    struct sockaddr_un address = {.sun_family = AF_UNIX};
    int fd = socket(AF_UNIX, SOCK_STREAM, 0);
    snprintf(address.sun_path, sizeof(address.sun_path), "%s", path);
    if (fd < 0 ||
        connect(fd, (struct sockaddr *)&address, sizeof(address)) != 0 ||
        send(fd, first, strlen(first), 0) < 0) {
        perror(path);
        exit(1);
    }
    return fd;
}

int main(int argc, char **argv)
{
    static char bytes[65536];
    struct pollfd fds[MOST];
    if (argc != 3 || atoi(argv[2]) < 1 || atoi(argv[2]) > MOST - 3)
        return 2;
    nfds_t count = (nfds_t)atoi(argv[2]);
    for (nfds_t i = 0; i < count; i++)
        fds[i] = (struct pollfd){
            .fd = dial(argv[1], "{\"follow\":{\"since\":-1}}\n"),
            .events = POLLIN};
    dial(argv[1], "{\"follow\":{\"since\":-1}}\n"); /* never reads */
    dial(argv[1], "{\"ask\":[\"lev");
    int garbage = dial(argv[1], "}\n");
    unsigned long long heard = 0;
    for (;;) {
        poll(fds, count, 2);
        send(garbage, "[[[\n}{\n", 7, MSG_DONTWAIT | MSG_NOSIGNAL);
        for (nfds_t i = 0; i < count; i++) {
            if (!(fds[i].revents & (POLLIN | POLLHUP)))
                continue;
            ssize_t got = recv(fds[i].fd, bytes, sizeof(bytes), 0);
            if (got <= 0) {
                printf("%llu kB were heard by %d followers\n", heard / 1000,
                       (int)count);
                return 0;
            }
            heard += (unsigned long long)got;
        }
    }
}
