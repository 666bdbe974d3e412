/* A machine in a folder, and a controller that runs on it. */
#ifndef CUPLATCH_TESTS_BENCH_H
#define CUPLATCH_TESTS_BENCH_H

#include <stdbool.h>
#include <stdint.h>
#include <sys/types.h>

/* A folder with two chips of 40 lines; everything below is in it. */
void bench_make(const char *name);
void bench_remove(void);

/* A path in the folder; good until the fourth call after. */
const char *bench_path(const char *name);

/* Writes a small file, its folders too. */
void bench_write(const char *name, const char *text);

/* A line's level, and putting an input there. */
bool bench_level(int chip, int line);
void bench_put(int chip, int line, bool high);

/* Starts "cuplatch run" with site.ini and pins.ini of the folder and more
 * words, ended by null; what it says goes into "log". Returns the guardian. */
pid_t bench_run(const char *const *more);

/* Waits until a line has a level; how many ms it took, or -1 when it had not
 * within so many. */
int bench_wait_level(int chip, int line, bool high, int most_ms);

/* Waits until the log has a text so many times; false when it had not within
 * so many ms. */
bool bench_wait_log(const char *text, int times, int most_ms);
int bench_count_log(const char *text);

/* The worker of a guardian; 0 when it has none. */
pid_t bench_worker(pid_t guardian);

/* The newest child of a process beside one; 0: there is none. */
pid_t bench_other_child(pid_t parent, pid_t beside);

/* The child of a process that has a file of the folder open; 0: none has. */
pid_t bench_child_with(pid_t parent, const char *name);

/* Ends it by a signal, 0 if it ends by itself, and returns its exit code; -1
 * when it does not end. */
int bench_end(pid_t guardian, int signal);

void bench_nap(int ms);

/* What "cuplatch ask" says, as a text that the next call uses again. */
const char *bench_ask(const char *question);

/* What "cuplatch tell" says, in the same place. */
const char *bench_tell(const char *word);

/* Runs "cuplatch pins" with words, ended by null, and returns its exit code;
 * what it said is in the file "said". */
int bench_pins(const char *const *words);

/* "cuplatch pins site.ini pins.ini --off", of the folder: everything off. */
int bench_pins_off(void);

/* The same as bench_pins(), still running: its guardian. */
pid_t bench_begin_pins(const char *const *words);

#endif
