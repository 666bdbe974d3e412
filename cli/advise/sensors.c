/* What the file has of a sensor, and what its days say of it. */
#include <inttypes.h>
#include <math.h>
#include <stdlib.h>

#include "../../advice/propose.h"
#include "advice.h"

static bool whole_of(const struct advising *advising, const char *name,
                     const char *key, int32_t *number)
{
    char *end;
    const char *text = cup_file_value(advising->site.file, name, key);
    if (!text)
        return false;
    *number = (int32_t)strtol(text, &end, 10);
    return end != text && *end == '\0';
}

/* Between the marks of a duty that keeps it. */
static double way_of(const struct cup_site *site, cup_index sensor)
{
    for (cup_index i = 0; i < site->plan->duty_count; i++)
        if (site->plan->duties[i].keep == sensor && !site->plan->duties[i].turn)
            return fabs((double)cup_site_mark(site, i, true) -
                        cup_site_mark(site, i, false));
    return 0;
}

static struct sensor_now now_of(const struct advising *advising, cup_index i,
                                const struct series_facts *values)
{
    const struct cup_sensor *sensor = &advising->site.site.plan->sensors[i];
    const char *name = advised_name(advising, i);
    struct sensor_now now = {
        .has_plausible =
            cup_file_value(advising->site.file, name, "plausible") != NULL,
        .has_steady =
            cup_file_value(advising->site.file, name, "steady") != NULL,
        .window = sensor->window.size,
        .trim = sensor->window.trim,
        .every_ms = sensor->every_ms,
        .lost_ms = sensor->lost_after_ms,
        .stuck_ms = -1,
        .unit = sensor->unit,
        .way = way_of(&advising->site.site, i),
        .track = &advising->things[i].track,
        .values = values};
    now.silences =
        series_silences(&advising->things[i].raw,
                        (uint64_t)(SILENCE_PART * (double)now.lost_ms));
    now.marked = whole_of(advising, name, "dry", &now.from) &&
                 whole_of(advising, name, "wet", &now.to);
    if (sensor->checks && sensor->checks->stuck_ms > 0)
        now.stuck_ms = sensor->checks->stuck_ms;
    if (sensor->checks)
        now.jump = sensor->checks->jump_per_s;
    return now;
}

static void tell_facts(const char *name, const struct series *series,
                       const struct series_facts *facts)
{
    printf("%s: %zu samples, scatters by %.1f counts, %" PRIu64 " spikes", name,
           series->count, facts->noise, facts->spikes);
    if (facts->spikes > 0)
        printf(", %u in a row at most", facts->in_a_row);
    printf("; %.1f %% without an answer.\n", 100 * facts->unanswered);
}

/* What of its kind has no raw values that could be looked at; null: it has. */
static const char *why_none(const struct advising *advising,
                            const struct cup_sensor *sensor)
{
    if (advising->from_history)
        return "a history has no raw samples of it";
    if (sensor->form == CUP_FORM_SWITCH)
        return "is open or closed";
    if (sensor->form == CUP_FORM_PULSES)
        return "counts pulses";
    if (sensor->several || sensor->source != CUP_NONE ||
        cup_form_is_bytes(sensor->form))
        return "says no raw numbers of its own";
    return NULL;
}

/* What its days say; false where they are too few. */
static bool look(struct advising *advising, cup_index i,
                 struct series_facts *facts)
{
    struct advised *advised = &advising->things[i];
    struct series_facts values;
    if (!series_look(&advised->raw, facts))
        return false;
    (void)series_look(&advised->values, &values);
    struct sensor_now now = now_of(advising, i, &values);
    advised->count = propose(&now, facts, advised->proposals);
    return true;
}

/* One that was not chosen is looked at, too: a pump may depend on it. */
static void advise(struct advising *advising, cup_index i)
{
    const struct advised *advised = &advising->things[i];
    struct series_facts facts;
    const char *name = advised_name(advising, i);
    const char *none =
        why_none(advising, &advising->site.site.plan->sensors[i]);
    bool known = !none && look(advising, i, &facts);
    if (!advised->chosen)
        return;
    if (none) {
        printf("%s: %s; nothing is advised.\n", name, none);
        return;
    }
    if (!known) {
        printf("%s: %zu samples are too few; expected %d.\n", name,
               advised->raw.count, SERIES_LEAST);
        return;
    }
    tell_facts(name, &advised->raw, &facts);
    advice_tell(advising, i);
}

void advice_of_sensors(struct advising *advising)
{
    for (cup_index i = 0; i < advising->site.site.plan->sensor_count; i++)
        advise(advising, i);
}
