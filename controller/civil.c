/* Asked of the kernel and the C library. */
#include "civil.h"

#include <limits.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>
#include <unistd.h>

uint32_t civil_s(int32_t *ahead_s)
{
    time_t now = time(NULL);
    struct tm local;
    localtime_r(&now, &local);
    *ahead_s = (int32_t)local.tm_gmtoff;
    return (uint32_t)((int64_t)now + local.tm_gmtoff);
}

void civil_zone(const struct site *site)
{
    const char *zone = cup_file_value(site->file, "site", "zone");
    if (zone)
        setenv("TZ", zone, 1);
    tzset();
}

bool civil_zone_is_known(const struct cup_file *file, const char *path)
{
    const char *zone = cup_file_value(file, "site", "zone");
    char known[PATH_MAX];
    snprintf(known, sizeof(known), "/usr/share/zoneinfo/%s", zone ? zone : "");
    if (!zone || (!strstr(zone, "..") && access(known, R_OK) == 0))
        return true;
    fprintf(stderr,
            "cuplatch: %s: zone = %s: this machine knows no such zone; "
            "expected a file of /usr/share/zoneinfo, such as Europe/Lisbon\n",
            path, zone);
    return false;
}
