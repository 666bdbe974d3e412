/* The few functions of <string.h> that the core uses, for parts that come
 * without a standard library; declared as there. */
#ifndef CUPLATCH_FIRMWARE_STRING_H
#define CUPLATCH_FIRMWARE_STRING_H

#include <stddef.h>

void *memcpy(void *to, const void *from, size_t count);
void *memset(void *to, int byte, size_t count);
void *memchr(const void *in, int byte, size_t count);
int memcmp(const void *a, const void *b, size_t count);
char *strchr(const char *in, int byte);
int strcmp(const char *a, const char *b);
int strncmp(const char *a, const char *b, size_t most);
size_t strlen(const char *text);
size_t strspn(const char *text, const char *of);

#endif
