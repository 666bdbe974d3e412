/* Events: one record per change, with its reason in it. Everything that
 * happened leaves this way, numbers only; say.h makes sentences of them. */
#ifndef CUPLATCH_EVENT_H
#define CUPLATCH_EVENT_H

#include "reason.h"

CUP_C_BEGINS

/*   t_ms  the caller's time of the pass
 *   of    the thing that changed; CUP_NONE is the site itself
 *   kind  an enum cup_kind */
struct cup_event {
    uint32_t t_ms;
    struct cup_cause cause;
    cup_index of;
    uint8_t kind;
};

/* Where events go. `take` may be null: then they are dropped. It must not
 * call back into the site. */
struct cup_sink {
    void (*take)(void *self, const struct cup_event *event);
    void *self;
};

CUP_C_ENDS

#endif
