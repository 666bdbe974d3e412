/* [history] of the file. */
#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "../common/entries.h"
#include "past.h"

#define MINUTES_LEAST_S 86400
#define AT_MOST_LEAST (INT64_C(1) << 20)

/* "500MB" or "2GB": bytes. */
static bool read_size(const char *text, int64_t *bytes)
{
    char *end;
    double number = strtod(text, &end);
    double unit = strcmp(end, "MB") == 0   ? 1e6
                  : strcmp(end, "GB") == 0 ? 1e9
                                           : 0;
    if (end == text || unit <= 0 || !(number > 0) || number * unit > 9e15)
        return false;
    *bytes = (int64_t)(number * unit);
    return true;
}

static bool take_minutes(void *part, const char *text)
{
    struct past_config *config = part;
    double span_s = 0;
    if (quantity_read_time(text, &span_s) || span_s < MINUTES_LEAST_S)
        return false;
    config->minutes_s = (int64_t)span_s;
    return true;
}

static bool take_at_most(void *part, const char *text)
{
    int64_t *bytes = &((struct past_config *)part)->at_most;
    return read_size(text, bytes) && *bytes >= AT_MOST_LEAST;
}

void past_read(struct past_config *config, const struct ini_section *section,
               struct problems *problems)
{
    struct place place = entries_place(section);
    const struct entry_key keys[] = {
        {"file", &config->file, entry_is_path,
         "a whole path, such as /var/lib/cuplatch-serve/history.db"},
        {"minutes", NULL, take_minutes, "a time from 1d on, such as 90d"},
        {"at_most", NULL, take_at_most,
         "a size from 2MB on, such as 500MB or 2GB"},
        {NULL, NULL, NULL, NULL}};
    entries_read(problems, section, keys, config);
    if (!config->file)
        problem_error(problems, place, "needs file = where it is kept");
}
