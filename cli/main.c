/* The cuplatch command: finds the subcommand and hands over. */
#include <stdio.h>
#include <string.h>

#include "cli.h"

static const struct command {
    const char *name;
    int (*run)(int argc, const char **argv);
    const char *help;
} commands[] = {
    {"check", check_main, "read a site file: its errors, or what it will do"},
    {"look", look_main, "bench: watch raw values, quality and rejects"},
    {"calibrate", calibrate_main,
     "bench: from dry and wet, or empty and full, into the site file"},
    {"rehearse", rehearse_main, "days in seconds, against a simulated garden"},
    {"plot", plot_main, "a rehearsal as a picture"},
    {"replay", replay_main, "play a recorded log: what would it have done?"},
    {"bake", bake_main, "the site as C tables, for firmware"},
    {"run", run_main, "run a site over a port"},
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

int main(int argc, const char **argv)
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
        fprintf(stderr, "cuplatch: no such command: \"%s\"\n", name);
    usage(stderr);
    return EXIT_USAGE;
}
