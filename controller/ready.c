/* Read, planned, bound. */
#include "ready.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/quantity.h"

int site_read(struct site *site, const char *path)
{
    *site = (struct site){.path = path};
    site->file = cup_file_read(path);
    if (!site->file)
        return tell_unopened(path);
    const struct cup_plan *plan = cup_file_plan(site->file);
    if (!plan) {
        cup_file_problems(site->file, stderr);
        fprintf(stderr, "cuplatch: %s has errors: see cuplatch check %s\n",
                path, path);
        return EXIT_NO;
    }
    size_t size = cup_site_size(plan);
    site->state = malloc(size);
    if (!site->state || cup_site_bind(&site->site, plan, site->state, size))
        return EXIT_OUTSIDE;
    return EXIT_DONE;
}

void site_close(struct site *site)
{
    cup_file_free(site->file);
    free(site->state);
}

const char *site_id(const struct site *site)
{
    static char stem[64];
    const char *id = cup_file_value(site->file, "site", "id");
    const char *name = strrchr(site->path, '/');
    snprintf(stem, sizeof(stem), "%.60s", name ? name + 1 : site->path);
    stem[strcspn(stem, ".")] = '\0';
    return id ? id : stem;
}

int32_t site_flow(const struct cup_file *file, const char *pump)
{
    const char *text = cup_file_value(file, pump, "flow");
    int32_t ml_min = 0;
    return text && !quantity_read(text, CUP_UNIT_FLOW, &ml_min) ? ml_min : 0;
}
