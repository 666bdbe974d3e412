/* A line a session: its hash, its name, the hash of its key, when it ends. */
#include "sessions.h"

#include <inttypes.h>
#include <sodium.h>
#include <stdio.h>
#include <string.h>

#include "../common/private.h"

void sessions_open(struct sessions *sessions, const char *keys_path)
{
    char line[300];
    *sessions = (struct sessions){.count = 0};
    snprintf(sessions->path, sizeof(sessions->path), "%s.sessions", keys_path);
    FILE *in = fopen(sessions->path, "re");
    while (in && sessions->count < SESSIONS_MOST &&
           fgets(line, sizeof(line), in)) {
        struct session *one = &sessions->list[sessions->count];
        if (sscanf(line, "%64s %25s %64s %" SCNd64, one->hash, one->name,
                   one->key, &one->ends) == 4)
            sessions->count++;
    }
    if (in)
        fclose(in);
}

static bool save(const struct sessions *sessions)
{
    static char text[SESSIONS_MOST * 200];
    size_t used = 0;
    text[0] = '\0';
    for (size_t i = 0; i < sessions->count; i++) {
        const struct session *one = &sessions->list[i];
        used += (size_t)snprintf(text + used, sizeof(text) - used,
                                 "%s %s %s %" PRId64 "\n", one->hash, one->name,
                                 one->key, one->ends);
    }
    return private_put(sessions->path, text);
}

static void forget(struct sessions *sessions, size_t at)
{
    sessions->count--;
    memmove(&sessions->list[at], &sessions->list[at + 1],
            (sessions->count - at) * sizeof(sessions->list[0]));
}

bool sessions_begin(struct sessions *sessions, const struct key *key,
                    int64_t now, char token[TOKEN_SIZE])
{
    for (size_t i = sessions->count; i-- > 0;)
        if (sessions->list[i].ends <= now)
            forget(sessions, i);
    if (sessions->count == SESSIONS_MOST)
        forget(sessions, 0);
    struct session *one = &sessions->list[sessions->count++];
    secret_letters(token, TOKEN_SIZE - 1);
    secret_hash(token, one->hash);
    memcpy(one->name, key->name, sizeof(one->name));
    memcpy(one->key, key->hash, sizeof(one->key));
    one->ends = now + SESSION_S;
    return save(sessions);
}

/* -1: there is none. */
static int find(const struct sessions *sessions, const char *token)
{
    char hash[SECRET_HASH_SIZE];
    int found = -1;
    secret_hash(token, hash);
    for (size_t i = 0; i < sessions->count; i++)
        if (sodium_memcmp(sessions->list[i].hash, hash, SECRET_HASH_SIZE) == 0)
            found = (int)i;
    return found;
}

const struct key *sessions_find(const struct sessions *sessions,
                                const struct keys *keys, const char *token,
                                int64_t now)
{
    int at = find(sessions, token);
    if (at < 0 || sessions->list[at].ends <= now)
        return NULL;
    const struct key *key = keys_named(keys, sessions->list[at].name);
    return key && strcmp(key->hash, sessions->list[at].key) == 0 ? key : NULL;
}

bool sessions_holds(const struct sessions *sessions, const char *hash,
                    int64_t now)
{
    for (size_t i = 0; i < sessions->count; i++)
        if (strcmp(sessions->list[i].hash, hash) == 0)
            return sessions->list[i].ends > now;
    return false;
}

void sessions_end(struct sessions *sessions, const char *token)
{
    int at = find(sessions, token);
    if (at < 0)
        return;
    forget(sessions, (size_t)at);
    (void)save(sessions);
}
