/* Rangers and boards, as processes. */
#include "peers.h"

#include <arpa/inet.h>
#include <errno.h>
#include <fcntl.h>
#include <modbus.h>
#include <netinet/in.h>
#include <poll.h>
#include <pty.h>
#include <signal.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/prctl.h>
#include <sys/socket.h>
#include <sys/wait.h>
#include <termios.h>
#include <unistd.h>

#include "bench.h"

#define UNIT 29
#define COILS 16

/* Both ends stay open, so that neither sees the other go. */
int peer_line(char *path, size_t size)
{
    int near;
    int far;
    struct termios raw;
    if (openpty(&near, &far, NULL, NULL, NULL) != 0)
        abort();
    tcgetattr(far, &raw);
    cfmakeraw(&raw);
    tcsetattr(far, TCSANOW, &raw);
    if (ttyname_r(far, path, size) != 0)
        abort();
    fcntl(near, F_SETFD, FD_CLOEXEC);
    fcntl(far, F_SETFD, FD_CLOEXEC);
    return near;
}

static pid_t begin(void)
{
    pid_t pid = fork();
    if (pid == 0)
        prctl(PR_SET_PDEATHSIG, SIGKILL);
    return pid;
}

void peer_end(pid_t peer)
{
    kill(peer, SIGKILL);
    waitpid(peer, NULL, 0);
}

pid_t peer_talks(int line, const char *text, int every_ms)
{
    pid_t pid = begin();
    if (pid != 0)
        return pid;
    while (write(line, text, strlen(text)) > 0)
        bench_nap(every_ms);
    _exit(0);
}

static modbus_mapping_t *registers(void)
{
    modbus_mapping_t *map = modbus_mapping_new(COILS, 0, 32, 0);
    if (!map)
        abort();
    map->tab_registers[16] = 291;
    map->tab_registers[17] = 65437;
    map->tab_registers[18] = 7;
    map->tab_registers[19] = 8;
    return map;
}

static void note_coils(const modbus_mapping_t *map, const char *coils)
{
    char text[100] = "";
    for (int i = 0; i < COILS; i++) {
        size_t used = strlen(text);
        if (map->tab_bits[i])
            snprintf(text + used, sizeof(text) - used, "%d ", i);
    }
    if (coils)
        bench_write(coils, text);
}

static void serve(modbus_t *board, const char *coils)
{
    uint8_t asked[MODBUS_TCP_MAX_ADU_LENGTH];
    modbus_mapping_t *map = registers();
    note_coils(map, coils);
    for (;;) {
        int got = modbus_receive(board, asked);
        if (got < 0 && errno != EMBBADCRC && errno != ETIMEDOUT)
            break;
        if (got > 0 && modbus_reply(board, asked, got, map) < 0)
            break;
        note_coils(map, coils);
    }
    modbus_mapping_free(map);
}

pid_t peer_board(int *port, const char *coils)
{
    struct sockaddr_in at = {.sin_family = AF_INET};
    socklen_t size = sizeof(at);
    at.sin_addr.s_addr = htonl(INADDR_LOOPBACK);
    int listens = socket(AF_INET, SOCK_STREAM | SOCK_CLOEXEC, 0);
    if (bind(listens, (struct sockaddr *)&at, size) != 0 ||
        listen(listens, 4) != 0 ||
        getsockname(listens, (struct sockaddr *)&at, &size) != 0)
        abort();
    *port = ntohs(at.sin_port);
    pid_t pid = begin();
    if (pid == 0) {
        modbus_t *board = modbus_new_tcp("127.0.0.1", *port);
        modbus_set_slave(board, UNIT);
        for (;;) {
            if (modbus_tcp_accept(board, &listens) < 0)
                _exit(1);
            serve(board, coils);
        }
    }
    close(listens);
    return pid;
}

/* Two pseudo-terminals back to back: each end of the line is one to its own. */
static void carry(int one, int two)
{
    char bytes[256];
    struct pollfd ends[2] = {{.fd = one, .events = POLLIN},
                             {.fd = two, .events = POLLIN}};
    while (poll(ends, 2, -1) > 0)
        for (int i = 0; i < 2; i++) {
            ssize_t got =
                ends[i].revents ? read(ends[i].fd, bytes, sizeof(bytes)) : 0;
            if (got > 0 && write(ends[1 - i].fd, bytes, (size_t)got) != got)
                _exit(1);
        }
    _exit(0);
}

pid_t peer_own_board(const char *program, char *path, size_t size,
                     const char *outputs)
{
    char own[64];
    int near = peer_line(path, size);
    int far = peer_line(own, sizeof(own));
    pid_t pid = begin();
    if (pid != 0)
        return pid;
    if (begin() == 0)
        carry(near, far);
    setenv("BOARD_LINE", own, 1);
    setenv("BOARD_OUTPUTS", bench_path(outputs), 1);
    execl(program, program, (char *)NULL);
    _exit(1);
}

pid_t peer_board_at_line(char *path, size_t size, const char *coils)
{
    char own[64];
    int near = peer_line(path, size);
    int far = peer_line(own, sizeof(own));
    pid_t pid = begin();
    if (pid != 0)
        return pid;
    if (begin() == 0)
        carry(near, far);
    modbus_t *board = modbus_new_rtu(own, 9600, 'N', 8, 1);
    modbus_set_slave(board, UNIT);
    if (modbus_connect(board) != 0)
        _exit(1);
    for (;;)
        serve(board, coils);
}
