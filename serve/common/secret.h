/* What nobody can guess, and what is kept of it. */
#ifndef CUPLATCH_SERVE_COMMON_SECRET_H
#define CUPLATCH_SERVE_COMMON_SECRET_H

#include <stddef.h>

/* As hexadecimal digits, and a zero. */
#define SECRET_HASH_SIZE 65

/* The hash of any text (BLAKE2b), as digits. */
void secret_hash(const char *text, char hash[SECRET_HASH_SIZE]);

/* So many letters by chance, and a zero: 5 bits each. */
void secret_letters(char *text, size_t letters);

#endif
