#include "find.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

static const char *nearest_thing(const struct things *things, const char *word)
{
    const char **list = calloc(things->count + 1, sizeof(*list));
    if (!list)
        abort();
    for (size_t i = 0; i < things->count; i++)
        list[i] = things->list[i].section->name;
    const char *near = nearest_word(word, list);
    free(list);
    return near;
}

bool is_word(const char *const *words, const char *word)
{
    for (; *words; words++)
        if (strcmp(*words, word) == 0)
            return true;
    return false;
}

const struct thing *things_find(const struct things *things,
                                struct problems *problems, struct place place,
                                const char *name, const char *const *kinds)
{
    char words[80];
    char message[200];
    words_list(words, sizeof(words), kinds);
    for (size_t i = 0; i < things->count; i++) {
        const struct thing *thing = &things->list[i];
        if (strcmp(thing->section->name, name) != 0)
            continue;
        if (is_word(kinds, cup_kinds[thing->kind].name) ||
            is_word(kinds, thing->word))
            return thing;
        problem_error(problems, place,
                      "\"%s\" is a %s; expected the name of a %s", name,
                      thing->word, words);
        return NULL;
    }
    snprintf(message, sizeof(message),
             "there is no [%.40s] in this file; expected the name of a %s",
             name, words);
    problem_word(problems, place, message, nearest_thing(things, name));
    return NULL;
}
