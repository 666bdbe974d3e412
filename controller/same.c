#include "same.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

/* FNV-1a. */
uint64_t same_add(uint64_t said, const char *path)
{
    char *line = NULL;
    size_t size = 0;
    FILE *in = fopen(path, "re");
    while (in && getline(&line, &size, in) > 0) {
        const char *at = line + strspn(line, " \t\r\n");
        size_t length = strlen(at);
        while (length > 0 && strchr(" \t\r\n", at[length - 1]))
            length--;
        if (length == 0 || *at == ';' || *at == '#')
            continue;
        for (size_t i = 0; i < length; i++)
            said = (said ^ (unsigned char)at[i]) * 1099511628211u;
        said = (said ^ '\n') * 1099511628211u;
    }
    free(line);
    if (in)
        fclose(in);
    return said;
}
