/* Files of any bytes as what cuplatch-serve is to do: told what is wrong, or
 * whole. */
#include <stdlib.h>

#include "../../serve/config.h"
#include "bytes.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static FILE *nowhere;
    struct config config;
    if (!nowhere)
        nowhere = fopen("/dev/null", "w");
    if (!config_read(&config, bytes_as_file(bytes, count)))
        abort();
    if (config.problems.errors == 0 &&
        (config.site_count == 0 || config.site_count > LINKS_MOST ||
         config.history.minutes_s < 86400 || config.history.at_most < 0))
        abort();
    for (size_t i = 0; i < config.site_count; i++)
        if (*config.sites[i].socket != '/')
            abort();
    problems_print(&config.problems, "serve.ini", nowhere);
    config_free(&config);
    return 0;
}
