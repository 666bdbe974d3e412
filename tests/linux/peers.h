/* What is wired to a machine in a folder: a ranger at a serial line, a board of
 * registers and coils. Each is a process of its own that ends with the test. */
#ifndef CUPLATCH_TESTS_LINUX_PEERS_H
#define CUPLATCH_TESTS_LINUX_PEERS_H

#include <stdbool.h>
#include <stddef.h>
#include <sys/types.h>

/* A pseudo-terminal; its other end, by path, is the serial line. Returns the
 * near end. */
int peer_line(char *path, size_t size);

/* Says a text over and over, every so many ms. */
pid_t peer_talks(int line, const char *text, int every_ms);

/* A board with registers (holding 16 to 19: 291, 65437, 7, 8) and sixteen
 * coils, over TCP; `port` becomes its own. It writes the coils that are on into
 * a file of the folder, as "0 1". */
pid_t peer_board(int *port, const char *coils);

/* The same at a serial line of its own, whose path is written. */
pid_t peer_board_at_line(char *path, size_t size, const char *coils);

/* A board of ours at a serial line of its own, whose path is written: PROGRAM,
 * which writes the outputs that are on into a file of the folder. */
pid_t peer_own_board(const char *program, char *path, size_t size,
                     const char *outputs);

void peer_end(pid_t peer);

#endif
