#include "tries.h"

#include <stdio.h>
#include <string.h>

#define FORGET_S 3600

/* Of an address, made where it is new. */
static struct try_of *of(struct tries *tries, const char *address, int64_t now)
{
    struct try_of *oldest = &tries->list[0];
    for (size_t i = 0; i < TRIES_ADDRESSES; i++) {
        struct try_of *one = &tries->list[i];
        if (strcmp(one->address, address) == 0) {
            if (now - one->heard > FORGET_S)
                one->wrong = 0;
            return one;
        }
        if (one->heard < oldest->heard)
            oldest = one;
    }
    *oldest = (struct try_of){.heard = now};
    snprintf(oldest->address, sizeof(oldest->address), "%s", address);
    return oldest;
}

int64_t tries_wait(struct tries *tries, const char *address, int64_t now)
{
    const struct try_of *one = of(tries, address, now);
    return one->until > now ? one->until - now : 0;
}

void tries_wrong(struct tries *tries, const char *address, int64_t now)
{
    struct try_of *one = of(tries, address, now);
    one->heard = now;
    if (++one->wrong < TRIES_FREE)
        return;
    unsigned past = one->wrong - TRIES_FREE;
    int64_t wait = past < 6 ? INT64_C(1) << past : TRIES_WAIT_MOST_S;
    one->until = now + wait;
}
