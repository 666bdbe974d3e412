/* The site is the site file that SITE_FILE names. */
#include <stdlib.h>

#include "../../sitefile/sitefile.h"

const struct cup_site *target_site(void);
const struct cup_site *target_site(void)
{
    static struct cup_site site;
    static uint32_t state[4096];
    if (site.plan)
        return &site;
    struct cup_file *file = cup_file_read(getenv("SITE_FILE"));
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan || cup_site_bind(&site, plan, state, sizeof(state)))
        exit(2);
    return &site;
}
