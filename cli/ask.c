/* cuplatch ask QUESTION, cuplatch tell WORD: to a controller that runs, over
 * its local socket. */
#include <stdlib.h>
#include <string.h>

#include "../grammar/text.h"
#include "common/cli.h"
#include "common/reach.h"

/* What was given after the command: one question or one word to steer by. */
struct saying {
    char *socket;
    int json;
    char text[400];
};

static void join(const struct words *words, struct saying *saying)
{
    size_t used = 0;
    for (int i = 0; i < words->count && used < sizeof(saying->text); i++)
        used +=
            (size_t)snprintf(saying->text + used, sizeof(saying->text) - used,
                             "%s%s", i ? " " : "", words->list[i]);
}

/* The answer, or that there was none. */
static int print_answer(const json_t *answer, bool as_json)
{
    if (!answer) {
        fprintf(stderr, "cuplatch: the controller went away, or is stuck\n");
        return EXIT_OUTSIDE;
    }
    bool done = json_is_true(json_object_get(answer, "done"));
    const char *error = json_string_value(json_object_get(answer, "error"));
    size_t i;
    json_t *text;
    if (as_json) {
        json_dumpf(answer, stdout, JSON_COMPACT);
        putchar('\n');
        return done ? EXIT_DONE : EXIT_NO;
    }
    json_array_foreach(json_object_get(answer, "answers"), i, text)
    {
        printf("%s\n", json_is_string(text) ? json_string_value(text) : "");
    }
    if (error)
        printf("%s\n", error);
    return done ? EXIT_DONE : EXIT_NO;
}

static int say(const struct saying *saying, const char *how)
{
    struct client *client = client_reach(saying->socket);
    if (!client)
        return EXIT_OUTSIDE;
    json_t *line = json_pack("{s:i, s:[s]}", "id", 1, how, saying->text);
    if (!line) {
        client_close(client);
        fprintf(stderr, "cuplatch: %s: is not UTF-8 text\n", how);
        return EXIT_USAGE;
    }
    json_t *answer = NULL;
    if (client_say(client, line))
        answer = client_hear(client, 10000);
    int code = print_answer(answer, saying->json);
    json_decref(answer);
    client_close(client);
    return code;
}

static int ask_or_tell(int argc, const char **argv, const char *how,
                       const char *usage)
{
    struct saying saying = {NULL, 0, ""};
    struct poptOption options[] = {
        {"socket", 's', POPT_ARG_STRING, &saying.socket, 0,
         "where the controller listens, if more than one runs", "PATH"},
        {"json", 'j', POPT_ARG_NONE, &saying.json, 0, "the answer as JSON",
         NULL},
        POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (words_read(&words, argc, argv, options, usage, 1, 12)) {
        join(&words, &saying);
        code = say(&saying, how);
    }
    free(saying.socket);
    words_free(&words);
    return code;
}

int ask_main(int argc, const char **argv)
{
    return ask_or_tell(argc, argv, "ask",
                       "levels|pumps|duties|days|alerts|settings|why NAME");
}

int tell_main(int argc, const char **argv)
{
    return ask_or_tell(argc, argv, "tell", "WORD, such as lift hand 5m");
}
