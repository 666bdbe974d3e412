/* What the subcommands share: exit codes, arguments, a site ready to run. */
#ifndef CUPLATCH_CLI_COMMON_CLI_H
#define CUPLATCH_CLI_COMMON_CLI_H

#include <popt.h>
#include <stdbool.h>

#include "../../controller/ready.h"

/* The subcommands, each in a file of its own. argv[0] is its name. */
int begin_main(int argc, const char **argv);
int check_main(int argc, const char **argv);
int calibrate_main(int argc, const char **argv);
int look_main(int argc, const char **argv);
int advise_main(int argc, const char **argv);
int report_main(int argc, const char **argv);
int replay_main(int argc, const char **argv);
int run_main(int argc, const char **argv);
int pins_main(int argc, const char **argv);
int ask_main(int argc, const char **argv);
int tell_main(int argc, const char **argv);
int rehearse_main(int argc, const char **argv);
int plot_main(int argc, const char **argv);
int bake_main(int argc, const char **argv);

/* A command line: options as popt wants them, and the words after them. */
struct words {
    poptContext context;
    char name[40];
    const char *usage;
    const char *list[32];
    int count;
};

/* Reads a command line. `usage` is "SITE LOG", `least` and `most` how many
 * words it takes. Returns false when it is wrong, which was told then. */
bool words_read(struct words *words, int argc, const char **argv,
                const struct poptOption *options, const char *usage, int least,
                int most);

void words_free(struct words *words);

/* What popt gathered of an option that may be given again and again: texts,
 * ended by null; or null when it was not given. */
void texts_free(const char **texts);

/* Tells of a wrong use on stderr, with the usage. Returns EXIT_USAGE. */
int wrong_use(struct words *words, const char *form, const char *what);

/* Tells on stderr why a file cannot be opened, from errno. Returns
 * EXIT_USAGE when there is no such file, with the usage, or it is a folder,
 * else EXIT_OUTSIDE. */
int cannot_open(struct words *words, const char *path);

/* "2031-05-10", or with a time of the day "2031-05-10T06:30:00", into s since
 * the year 1970 began; 0 when it is none. */
uint32_t moment_read(const char *text);

/* What a tank, as a thing, holds in ml when it is so full; -1 where it has no
 * volume that could be told. */
int32_t tank_holds(const struct cup_plan *plan, cup_index tank,
                   cup_value pct100);

/* A site file as it would be with this text. Never null; free it with
 * cup_file_free(). */
struct cup_file *site_of_text(const char *path, const char *text);

/* Whether that has no errors; they are told on stderr. */
bool site_text_holds(const char *path, const char *text);

/* Opens the site file that is the first word. Returns EXIT_DONE, or what to
 * exit with: problems and messages were printed on stderr. */
int site_open(struct site *site, struct words *words);
/* Prints a text behind `first`, in lines of 78 at the most; what goes on is set
 * in as far. */
void print_wrapped(FILE *out, const char *first, const char *text);

#endif
