/* Keys, by the command. */
#include <stdio.h>

#include "keys.h"
#include "page.h"

int page_new_key(const char *keys_path, const char *name, bool steers)
{
    static struct keys keys;
    char made[KEY_SIZE];
    char wrong[240];
    if (!keys_open(&keys, keys_path, wrong, sizeof(wrong)) ||
        !keys_add(&keys, name, steers, made, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s; nothing was changed\n",
                keys_path, wrong);
        return 1;
    }
    printf("%s\n", made);
    fprintf(stderr,
            "This is the key of %s, who may %s. It is not shown again;\n"
            "%s keeps only its hash.\n",
            name, steers ? "look and steer" : "look", keys_path);
    return 0;
}

int page_drop_key(const char *keys_path, const char *name)
{
    static struct keys keys;
    char wrong[240];
    if (!keys_open(&keys, keys_path, wrong, sizeof(wrong)) ||
        !keys_drop(&keys, name, wrong, sizeof(wrong))) {
        fprintf(stderr, "cuplatch-serve: %s: %s; nothing was changed\n",
                keys_path, wrong);
        return 1;
    }
    printf("The key of %s opens nothing any more; who was signed in with it is "
           "out.\n",
           name);
    return 0;
}
