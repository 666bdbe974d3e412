/* The cuplatch command: finds the subcommand and hands over. */
#include <errno.h>
#include <fcntl.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/problems.h"
#include "common/cli.h"

static const struct command {
    const char *name;
    int (*run)(int argc, const char **argv);
    const char *help;
} commands[] = {
    {"begin", begin_main,
     "a first site file, and a garden to rehearse it with"},
    {"check", check_main, "read a site file: its errors, or what it will do"},
    {"look", look_main, "bench: watch raw values, quality and rejects"},
    {"calibrate", calibrate_main,
     "bench: from dry and wet, or empty and full, into the site file"},
    {"rehearse", rehearse_main, "days in seconds, against a simulated garden"},
    {"plot", plot_main, "a rehearsal, or days of a history, as a picture"},
    {"replay", replay_main, "play a recorded log: what would it have done?"},
    {"report", report_main, "what a history tells: sentences, a page, numbers"},
    {"advise", advise_main, "what recorded days say of a site file's numbers"},
    {"bake", bake_main, "the site as C tables, for firmware"},
    {"pins", pins_main,
     "what this machine has; whether the pins of a site are there"},
    {"run", run_main, "run a site over a port"},
    {"ask", ask_main, "ask a controller that runs"},
    {"tell", tell_main, "tell a controller that runs: hand, off, auto, skip"},
};
#define COMMANDS (sizeof(commands) / sizeof(commands[0]))

static void usage(FILE *out)
{
    fprintf(out, "Usage: cuplatch COMMAND [OPTION...]\n\n");
    for (size_t i = 0; i < COMMANDS; i++)
        fprintf(out, "  %-10s %s\n", commands[i].name, commands[i].help);
    fprintf(out, "\n  cuplatch COMMAND --help tells more of one\n"
                 "  cuplatch --version tells which one this is\n");
}

static void version(void)
{
    printf("cuplatch %s, plan layout %d, %s build\n", CUP_VERSION, CUP_LAYOUT,
#ifdef CUP_CHECKED
           "checked"
#else
           "plain"
#endif
    );
}

/* A descriptor that was closed when we were started must not become that of
 * some file: what is written to it fails instead. */
static void secure_streams(void)
{
    for (int fd = 0; fd <= 2; fd++)
        if (fcntl(fd, F_GETFD) < 0 && open("/dev/null", O_RDONLY) != fd)
            _exit(EXIT_OUTSIDE);
}

static void tell_unknown(const char *name)
{
    const char *names[COMMANDS + 1] = {NULL};
    for (size_t i = 0; i < COMMANDS; i++)
        names[i] = commands[i].name;
    const char *near = nearest_word(name, names);
    fprintf(stderr, "cuplatch: no such command: \"%s\"", name);
    if (near)
        fprintf(stderr, "; did you mean %s?", near);
    fputc('\n', stderr);
}

static int run_command(int argc, const char **argv)
{
    const char *name = argc > 1 ? argv[1] : "";
    for (size_t i = 0; i < COMMANDS; i++)
        if (strcmp(commands[i].name, name) == 0)
            return commands[i].run(argc - 1, argv + 1);
    if (strcmp(name, "--help") == 0) {
        usage(stdout);
        return EXIT_DONE;
    }
    if (strcmp(name, "--version") == 0) {
        version();
        return EXIT_DONE;
    }
    if (*name)
        tell_unknown(name);
    usage(stderr);
    return EXIT_USAGE;
}

/* A result that could not be written is no result. */
int main(int argc, const char **argv)
{
    secure_streams();
    int code = run_command(argc, argv);
    if (fflush(stdout) == 0 && !ferror(stdout))
        return code;
    if (code != EXIT_OUTSIDE)
        fprintf(stderr, "cuplatch: the result cannot be written: %s\n",
                strerror(errno));
    return EXIT_OUTSIDE;
}
