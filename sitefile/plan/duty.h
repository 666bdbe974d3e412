/* A duty in the making, shared by the files that make it: its marks, its turns,
 * what may be changed of it. */
#ifndef CUPLATCH_SITEFILE_DUTY_H
#define CUPLATCH_SITEFILE_DUTY_H

#include "../inside.h"

struct duty_making {
    struct cup_file *file;
    const struct thing *thing;
    struct cup_duty *duty;
    const struct thing *pump; /* null: not known */
};

bool duty_given(const struct duty_making *making, const char *key);

/* Tells of an error at a key; at the duty when it is not given, or null. */
void duty_wrong(const struct duty_making *making, const char *key,
                const char *message);

/* How long its pump takes for what it is to give, "25L", by its flow; 0 when it
 * has no volume to give, or none that is right. */
uint32_t duty_give_ms(const struct duty_making *making);

/* How far its output is driven by the level it keeps, in plan_speed.c: the
 * marks that this gives are written to `start` and `stop`. False when it has no
 * speed, or none that is right. */
bool duty_make_speed(const struct duty_making *making, struct value *start,
                     struct value *stop);

/* A flood or a timed run; in plan_turn.c. */
void duty_make_turn(const struct duty_making *making);

/* Which of its numbers may be changed while it runs; in plan_change.c. */
void duty_make_change(const struct duty_making *making);

#endif
