#include "middle.h"

#include <stdlib.h>

static int by_number(const void *a, const void *b)
{
    int32_t one = *(const int32_t *)a;
    int32_t two = *(const int32_t *)b;
    return (one > two) - (one < two);
}

int32_t middle_of(int32_t *list, size_t count)
{
    qsort(list, count, sizeof(*list), by_number);
    return list[count / 2];
}
