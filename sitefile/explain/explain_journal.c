/* How often the journal is written at the most, and how long a flash lasts. */
#include "explain.h"

#include "cuplatch/journal.h"

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

void explain_journal(const struct cup_plan *plan, FILE *out)
{
    uint32_t entries = plan_entries(plan);
    fprintf(out, "An entry of its journal is %u bytes.\n",
            (unsigned)cup_journal_size(plan));
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
