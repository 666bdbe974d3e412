/* [post] of the file. */
#include <errno.h>
#include <stdio.h>
#include <string.h>
#include <unistd.h>

#include "../common/entries.h"
#include "post.h"

void post_read(struct post_config *config, const struct ini_section *section,
               struct problems *problems)
{
    struct place place = entries_place(section);
    const char *command = NULL;
    const struct entry_key keys[] = {{"command", &command, NULL, NULL},
                                     {NULL, NULL, NULL, NULL}};
    char program[400];
    entries_read(problems, section, keys, config);
    snprintf(program, sizeof(program), "%.*s",
             command ? (int)strcspn(command, " ") : 0, command ? command : "");
    if (*program != '/')
        problem_error(problems, place,
                      "needs command = the whole path of a program, such as "
                      "/usr/local/bin/page-me");
    else if (access(program, X_OK) != 0)
        problem_error(problems, place,
                      "%s: %s; expected a program that may be run", program,
                      strerror(errno));
    config->command = command;
}
