/* Programs beside each other in a folder of their own: a garden that runs live,
 * cuplatch-serve, whatever else. */
#ifndef CUPLATCH_TESTS_PROGRAMS_H
#define CUPLATCH_TESTS_PROGRAMS_H

#include <stdbool.h>
#include <stdio.h>
#include <sys/resource.h>
#include <sys/types.h>

#define WAIT_MS 60000

extern char dir[60];

/* A new folder for a case; and its end. */
void folder_begin(const char *name);
void folder_end(void);

/* A path in it, in one of four buffers. */
const char *in_dir(const char *name);
void write_text(const char *name, const char *text);

/* How many lines a file of it has. */
long count_lines(const char *name);

void nap(int ms);

/* A port of this machine that nobody listens at. */
int free_port(void);

/* Its cases want a program of this machine: where there is none, nothing of it
 * runs; it says so and ends with 77, or with 1 where CUPLATCH_NOTHING_LEFT_OUT
 * is set. */
#define NEEDS_PROGRAM(name)                                                    \
    __attribute__((constructor)) static void look_for_it(void)                 \
    {                                                                          \
        need_program(name);                                                    \
    }

void need_program(const char *name);

/* Where a program is: in PATH, or where Debian has what only root starts. NULL
 * if it is nowhere; else good until the next call. */
const char *find_program(const char *name);

/* Starts a program whose words go into a file of the folder, with files of at
 * most so many bytes; 0: any. Ends it with a signal; its status, or less than
 * 0. */
pid_t start(const char *const *words, const char *log, rlim_t most);
int finish(pid_t pid, int signal);

/* Keeper's Garden by a site file, so many times as fast, with its record. */
pid_t start_garden_of(const char *site, const char *speed);

/* A site file of Keeper's Garden that calls somebody all day long. */
const char *site_that_calls(void);

/* cuplatch-serve with serve.ini of the folder, and its log from then on. What
 * is said from afar counts, whatever the clock of this machine. */
pid_t start_serve(rlim_t most);

/* The same with another file, and a log of that name that goes on. */
pid_t start_serve_of(const char *config, const char *log);
bool log_has(const char *text);
bool wait_log(const char *text);

/* Whether so many words, refused for a reason, are events of the history. */
bool wait_refused(const char *reason, int least);

/* Runs cuplatch-serve with a file of the folder and three words; what it says
 * goes into `said`. Its exit code. */
int run_serve(const char *config, const char *option, const char *site,
              const char *word, char *said, size_t size);

#endif
