/* Who is let in, and codes, by the command. */
#include <stdio.h>

#include "people.h"
#include "texts.h"

int texts_let_in(const char *people_path)
{
    char code[7];
    char wrong[240];
    if (!people_let_in(people_path, code, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s\n", people_path, wrong);
        return 1;
    }
    printf("%s\n", code);
    fprintf(stderr,
            "Whoever texts this first, within %d minutes, is entered and may "
            "ask.\nAfter %d wrong texts nobody is.\n",
            PEOPLE_LET_IN_S / 60, PEOPLE_TRIES);
    return 0;
}

int texts_new_codes(const char *people_path, const char *name)
{
    char codes[PEOPLE_CODES][7];
    char wrong[240];
    if (!people_new_codes(people_path, name, codes, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s; nothing was changed\n",
                people_path, wrong);
        return 1;
    }
    for (size_t i = 0; i < PEOPLE_CODES; i++)
        printf("%s\n", codes[i]);
    fprintf(stderr,
            "Codes of %s for words that need one, as in \"%s lift auto\": each "
            "counts\nonce. They are not shown again, and those from before are "
            "void.\n",
            name, codes[0]);
    return 0;
}
