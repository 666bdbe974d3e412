/* How often the journal is written at the most, and how long a flash lasts. */
#include "explain.h"

#include <inttypes.h>

#include "cuplatch/journal.h"
#include "cuplatch/say.h"

/* Erases that a page of flash takes at the least, and an EEPROM. */
#define FLASH_ERASES 10000
#define EEPROM_ERASES 100000
#define YEARS 5

/* Slots that last so many years of so many entries a day; two at the least. */
static unsigned slots_for(uint32_t entries, uint32_t erases)
{
    uint64_t all = (uint64_t)entries * 365 * YEARS;
    uint64_t slots = (all + erases - 1) / erases;
    return slots > 2 ? (unsigned)slots : 2;
}

/* Events, each a line of the stream and a row of a history. */
static void explain_told(const struct cup_plan *plan, FILE *out)
{
    cup_index most = 0;
    fprintf(out,
            "Whatever chatters, no more than %" PRIu64
            " events are told in a day",
            plan_told(plan));
    for (cup_index i = 1; i < plan->pump_count; i++)
        if (plan_told_of(plan, i) > plan_told_of(plan, most))
            most = i;
    if (plan->pump_count > 0 && 2 * plan_told_of(plan, most) > plan_told(plan))
        fprintf(out,
                ",\n%" PRIu64 " of them of %s: a longer rest makes them fewer",
                plan_told_of(plan, most),
                cup_thing_name(plan, cup_pump_thing(plan, most)));
    fprintf(out, ".\n");
}

void explain_journal(const struct cup_plan *plan, FILE *out)
{
    uint32_t entries = plan_entries(plan);
    fprintf(out, "An entry of its journal is %u bytes.\n",
            (unsigned)cup_journal_size(plan));
    explain_told(plan, out);
    if (entries == 0) {
        fprintf(out,
                "One is written for a trip, a setting or a switch, and every "
                "ten minutes\nwhile something runs.\n");
        return;
    }
    fprintf(out,
            "Up to %u are written in a day: for %d years give it %u slots of a "
            "flash that\ntakes %d erases, or %u of one that takes %d.\n",
            (unsigned)entries, YEARS, slots_for(entries, FLASH_ERASES),
            FLASH_ERASES, slots_for(entries, EEPROM_ERASES), EEPROM_ERASES);
}
