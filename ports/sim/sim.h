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
 * output of the site is not in the garden; `wrong` of `size` bytes says
 * which. Both must live as long. */
struct cup_sim *cup_sim_join(struct garden *garden, const struct cup_site *site,
                             char *wrong, size_t size);
void cup_sim_close(struct cup_sim *sim);

/* Where events go, and, when not null, what each pass heard. */
void cup_sim_watch(struct cup_sim *sim, const struct cup_sink *sink,
                   struct cup_onlooker *onlooker);

/* A scan goes by in the garden, then a pass is made. The journal outlives a
 * power cut of the garden; what else was in the state does not. */
void cup_sim_pass(struct cup_sim *sim);

/* The site's time. */
uint32_t cup_sim_now_ms(const struct cup_sim *sim);

#endif
