/* The sim port: a simulated garden is the hardware. Things of the site and of
 * the garden are the same when they have the same name. */
#ifndef CUPLATCH_PORTS_SIM_H
#define CUPLATCH_PORTS_SIM_H

#include "../../garden/garden.h"
#include "../common/onlooker.h"
#include "../common/table.h"
#include "cuplatch/journal.h"

struct cup_sim;

/* Joins a garden to a site whose plan has names. Null when a sensor or an
 * output of the site is not in the garden, or somebody there says what is no
 * word to this site; `wrong` of `size` bytes says which. Both must live as
 * long. */
struct cup_sim *cup_sim_join(struct garden *garden, const struct cup_site *site,
                             char *wrong, size_t size);
void cup_sim_close(struct cup_sim *sim);

/* Where events go, and, when not null, what each pass heard. */
void cup_sim_watch(struct cup_sim *sim, const struct cup_sink *sink,
                   struct cup_onlooker *onlooker);

/* Who is told what somebody in the garden said to the controller, and why it
 * was refused; null when it was not. */
struct cup_ear {
    void (*said)(void *self, const char *text, const char *refused);
    void *self;
};
void cup_sim_hear(struct cup_sim *sim, const struct cup_ear *ear);

/* A scan goes by in the garden, then a pass is made. The journal outlives a
 * power cut of the garden; what else was in the state does not. */
void cup_sim_pass(struct cup_sim *sim);

/* The end: everything off, and the journal written. */
void cup_sim_stop(struct cup_sim *sim);

/* What a sensor or tank of the plan would read in its unit now if its sensor
 * were perfect. False where that cannot be told: of floats, of pulses, of a
 * place of several probes, or past what is plausible. */
bool cup_sim_truth(const struct garden *garden, const struct cup_plan *plan,
                   cup_index thing, cup_value *value);

/* The site's time. */
uint32_t cup_sim_now_ms(const struct cup_sim *sim);

#endif
