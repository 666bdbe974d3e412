#include "secret.h"

#include <sodium.h>
#include <string.h>

/* Without those that are taken for others. */
static const char alphabet[] = "abcdefghjkmnpqrstuvwxyz023456789";

void secret_letters(char *text, size_t letters)
{
    for (size_t i = 0; i < letters; i++)
        text[i] = alphabet[randombytes_uniform(sizeof(alphabet) - 1)];
    text[letters] = '\0';
}

void secret_hash(const char *text, char hash[SECRET_HASH_SIZE])
{
    unsigned char bytes[(SECRET_HASH_SIZE - 1) / 2];
    crypto_generichash(bytes, sizeof(bytes), (const unsigned char *)text,
                       strlen(text), NULL, 0);
    sodium_bin2hex(hash, SECRET_HASH_SIZE, bytes, sizeof(bytes));
}
