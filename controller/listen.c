#include "listen.h"

#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../socket/client.h"
#include "cuplatch/say.h"

/* They live till the program ends. */
static const int32_t *flows_of(const struct site *site)
{
    const struct cup_plan *plan = site->site.plan;
    static int32_t *flows;
    flows = calloc(plan->pump_count + 1u, sizeof(*flows));
    if (!flows)
        abort();
    for (cup_index i = 0; i < plan->pump_count; i++)
        flows[i] = site_flow(site->file,
                             cup_thing_name(plan, cup_pump_thing(plan, i)));
    return flows;
}

struct desk *listen_open(const struct site *site, const char *socket,
                         const char *zone, char *hello, size_t size)
{
    char path[PATH_MAX];
    char wrong[120];
    struct view_about about = {
        .name = cup_file_name(site->file),
        .id = site_id(site),
        .speakers = cup_file_value(site->file, "site", "speakers"),
        .zone = zone,
        .flows = flows_of(site)};
    if (socket)
        snprintf(path, sizeof(path), "%s", socket);
    else if (!client_path(about.id, path, sizeof(path))) {
        fprintf(stderr, "cuplatch: there is no folder for a socket; name one "
                        "with --socket\n");
        return NULL;
    }
    struct desk *desk =
        desk_open(path, &site->site, &about, wrong, sizeof(wrong));
    if (!desk)
        fprintf(stderr, "cuplatch: %s: %s\n", path, wrong);
    snprintf(hello, size, "%s runs; its socket is %s", about.id, path);
    return desk;
}
