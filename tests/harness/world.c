/* Sites of a text. */
#include "world.h"

#include <stdlib.h>
#include <string.h>

void world_take_numbers(const struct cup_plan *plan, const char *text)
{
    if (!plan || strstr(text, "believe"))
        return;
    for (cup_index i = 0; i < plan->tank_count; i++)
        ((struct cup_tank *)plan->tanks)[i].span = NULL;
    ((struct cup_plan *)plan)->spans = 0;
}

void world_open(struct world *world, const char *text)
{
    FILE *in = fmemopen((void *)text, strlen(text), "r");
    memset(world, 0, sizeof(*world));
    world->file = cup_file_read_from(in, "site");
    fclose(in);
    const struct cup_plan *plan = cup_file_plan(world->file);
    if (!plan)
        cup_file_problems(world->file, stdout);
    world_take_numbers(plan, text);
    world->state = plan ? malloc(cup_site_size(plan)) : NULL;
    if (!world->state ||
        cup_site_bind(&world->site, plan, world->state, cup_site_size(plan)))
        abort();
}

void world_close(struct world *world)
{
    cup_file_free(world->file);
    free(world->state);
}
