/* Pins files of any bytes, held against a site: what comes of them is told or
 * wired, and every port that is wired is one of the site's. */
#include <stdlib.h>

#include "../../ports/linux/bus.h"
#include "bytes.h"

static const struct cup_file *site(void)
{
    static struct cup_file *file;
    if (!file)
        file = cup_file_read(FUZZ_DIR "/../linux/bench.ini");
    if (!file || !cup_file_plan(file))
        abort();
    return file;
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static FILE *nowhere;
    struct pins pins;
    struct wiring wiring;
    struct buses buses;
    char wrong[200];
    if (!nowhere)
        nowhere = fopen("/dev/null", "w");
    if (!pins_read(&pins, bytes_as_file(bytes, count)))
        abort();
    pins_join(&pins, site(), &wiring);
    const struct cup_plan *plan = cup_file_plan(site());
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (pins.problems.errors == 0 && !wiring.sensors[i])
            abort();
    if (buses_make(&buses, &wiring, plan, wrong, sizeof(wrong)) &&
        buses.ask_count > plan->sensor_count + 2u * plan->pump_count)
        abort();
    problems_print(&pins.problems, "pins.ini", nowhere);
    buses_free(&buses);
    wiring_free(&wiring);
    pins_free(&pins);
    return 0;
}
