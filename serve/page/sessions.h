/* Who is signed in: a token that a browser holds, of which only the hash is
 * kept, beside the keys, over restarts. A session ends with its key. */
#ifndef CUPLATCH_SERVE_PAGE_SESSIONS_H
#define CUPLATCH_SERVE_PAGE_SESSIONS_H

#include <stdint.h>

#include "keys.h"

#define SESSION_S (INT64_C(30) * 86400)
#define SESSIONS_MOST 256
#define TOKEN_SIZE 41

struct session {
    char hash[SECRET_HASH_SIZE];
    char name[KEY_NAME_SIZE];
    char key[SECRET_HASH_SIZE]; /* the hash of its key, so that a new one of the
                                same name does not take it over */
    int64_t ends;
};

struct sessions {
    char path[4096];
    struct session list[SESSIONS_MOST];
    size_t count;
};

/* Reads those of before; what cannot be read is forgotten. */
void sessions_open(struct sessions *sessions, const char *keys_path);

/* A new one; the oldest makes room. False: it was not kept on the disk, and
 * ends with the program. */
bool sessions_begin(struct sessions *sessions, const struct key *key,
                    int64_t now, char token[TOKEN_SIZE]);

/* Whose a token is; null: nobody's, or it is over. */
const struct key *sessions_find(const struct sessions *sessions,
                                const struct keys *keys, const char *token,
                                int64_t now);

/* The same of the hash of a token, for who follows on. */
bool sessions_holds(const struct sessions *sessions, const char *hash,
                    int64_t now);

void sessions_end(struct sessions *sessions, const char *token);

#endif
