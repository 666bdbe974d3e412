/* A modem that is none: commands in, answers out, and whatever can be wrong
 * with them. Written from TS 27.005 and 27.007, as the block is. */
#ifndef CUPLATCH_TESTS_SIMULATED_H
#define CUPLATCH_TESTS_SIMULATED_H

#include <stdbool.h>
#include <stddef.h>
#include <stdint.h>

#define SIM_PLACES 10
#define SIM_OUT 4096

/* What is wrong with it. */
struct sim_faults {
    bool echoes;  /* though it was told not to */
    bool repeats; /* each answer comes twice */
    bool rings;   /* it talks in between */
    bool dumb;    /* it says nothing */
    bool no_net;  /* there is no network */
    bool refuses; /* what is to be sent */
    bool no_prompt;
    bool garbles;     /* a byte in each answer is another */
    uint32_t late_ms; /* each answer */
    unsigned tears;   /* an answer ends after so many bytes; 0: whole */
    const char *pin;  /* it wants; null: none */
};

struct sim_kept {
    bool there;
    char from[80];
    char text[700];
    char time[24];
};

struct sim {
    struct sim_faults faults;
    char line[900];
    size_t used;
    char out[SIM_OUT];
    size_t out_used, out_at;
    uint32_t due_ms;
    bool reads_text; /* of one to be sent */
    bool unlocked;
    unsigned pins; /* that were tried */
    char to[80];
    char last_to[20]; /* in letters, and the text that was sent last */
    char last_text[400];
    unsigned sent;
    struct sim_kept kept[SIM_PLACES];
};

void sim_open(struct sim *sim, const struct sim_faults *faults);

/* A byte to it, and the next from it; false: there is none now. */
void sim_take(struct sim *sim, uint32_t now_ms, char byte);
bool sim_give(struct sim *sim, uint32_t now_ms, char *byte);

/* A message comes, in ASCII, of a time as the service centre has it. False: it
 * is full. */
bool sim_comes(struct sim *sim, uint32_t now_ms, const char *from,
               const char *text, const char *time);

/* Messages that it holds. */
unsigned sim_count(const struct sim *sim);

#endif
