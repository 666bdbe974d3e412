/* Plain and small; as the C standard says. */
#include <string.h>

void *memcpy(void *to, const void *from, size_t count)
{
    unsigned char *at = to;
    for (const unsigned char *byte = from; count > 0; count--)
        *at++ = *byte++;
    return to;
}

void *memset(void *to, int byte, size_t count)
{
    for (unsigned char *at = to; count > 0; count--)
        *at++ = (unsigned char)byte;
    return to;
}

void *memchr(const void *in, int byte, size_t count)
{
    for (const unsigned char *at = in; count > 0; count--, at++)
        if (*at == (unsigned char)byte)
            return (void *)at;
    return NULL;
}

int memcmp(const void *a, const void *b, size_t count)
{
    const unsigned char *x = a;
    const unsigned char *y = b;
    for (; count > 0; count--, x++, y++)
        if (*x != *y)
            return *x - *y;
    return 0;
}

char *strchr(const char *in, int byte)
{
    return memchr(in, byte, strlen(in) + 1);
}

int strcmp(const char *a, const char *b)
{
    return strncmp(a, b, (size_t)-1);
}

int strncmp(const char *a, const char *b, size_t most)
{
    for (; most > 0; most--, a++, b++)
        if (*a != *b || *a == '\0')
            return (unsigned char)*a - (unsigned char)*b;
    return 0;
}

size_t strlen(const char *text)
{
    size_t length = 0;
    while (text[length])
        length++;
    return length;
}

size_t strspn(const char *text, const char *of)
{
    size_t length = 0;
    while (text[length] && memchr(of, text[length], strlen(of)))
        length++;
    return length;
}
