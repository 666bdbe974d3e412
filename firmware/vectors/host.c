/* A host as the part under test: the recording is the standard input. */
#include <stdio.h>
#include <stdlib.h>

#include "target.h"

int target_next(void)
{
    return getchar();
}

void target_say(const char *text)
{
    puts(text);
}

void target_mark(enum target_mark mark)
{
    (void)mark;
}

void target_exit(int code)
{
    exit(code);
}
