/* What people chose, in three copies apart from the journal: any two may be
 * spoilt, and the journal, too. */
#include "entry.h"
#include "inside.h"

#if CUP_USES_CHOICES

#define RECORD_COPIES 3
/* Ages and what is left, in minutes, and six of them. */
#define RECORD_MINUTE_MS UINT32_C(60000)
#define RECORD_AGE_MS (6 * RECORD_MINUTE_MS)
CUP_ASSERT(CUP_CHOICE_DAY_MS / RECORD_AGE_MS <= UINT8_MAX, "it fits a byte");
CUP_ASSERT(CUP_TIME_MAX_MS / RECORD_MINUTE_MS < UINT16_MAX,
           "it fits two bytes");

struct cup_store cup_in_record_store(const struct cup_store *store)
{
    struct cup_store copies = *store;
    copies.first += store->slots * store->slot_size;
    copies.slot_size = store->record_size;
    copies.slots = RECORD_COPIES;
    return copies;
}

cup_index cup_in_record_rows(CUP_FLASH struct cup_plan *plan)
{
    return (cup_index)(plan->pump_count + plan->duty_count + 1);
}

/* The site has no name of its own. */
uint32_t cup_in_record_key(CUP_FLASH struct cup_plan *plan, cup_index row)
{
    return row + 1 == cup_in_record_rows(plan)
               ? 0
               : plan->keys[cup_pump_thing(plan, row)];
}

cup_index cup_in_record_count(const struct cup_site *site)
{
    uint8_t bytes[ITEM_MOST];
    cup_index count = 0;
    for (cup_index row = 0; row < cup_in_record_rows(site->plan); row++)
        count = (cup_index)(count + cup_in_record_row(site, row, bytes));
    return count;
}

bool cup_in_record_row(const struct cup_site *site, cup_index row,
                       uint8_t *bytes)
{
    const struct cup_choice_state *state = &site->choices[row];
    const uint32_t now = site->pass->clock_ms;
    const uint32_t left = cup_choice_left(state, now);
    const uint32_t age =
        cup_least(cup_elapsed(now, state->since_ms), CUP_CHOICE_DAY_MS - 1);
    bytes[0] = (uint8_t)(state->flags & (CUP_CHOICE_STANDS | CUP_CHOICE_ENDS |
                                         CUP_CHOICE_TOLD | CUP_CHOICE_SKIP));
    put16(bytes + 1, (left + RECORD_MINUTE_MS - 1) / RECORD_MINUTE_MS);
    bytes[3] = (uint8_t)cup_least(state->days, UINT8_MAX);
    bytes[4] = (uint8_t)(age / RECORD_AGE_MS);
    return cup_choice_is(state, CUP_CHOICE_STANDS | CUP_CHOICE_SKIP);
}

/* While something ends by itself the record is as old as the journal. */
bool cup_in_record_is_due(const struct cup_site *site)
{
    bool due = site->pass->unkept;
    for (cup_index i = 0; i < cup_in_record_rows(site->plan); i++)
        due |= cup_choice_is(&site->choices[i], CUP_CHOICE_ENDS);
    return due;
}

void cup_in_record_take(const struct cup_site *site, uint32_t key,
                        const uint8_t *bytes)
{
    const uint32_t age = bytes[4] * RECORD_AGE_MS;
    const cup_index rows = cup_in_record_rows(site->plan);
    cup_index i = 0;
    while (i < rows && cup_in_record_key(site->plan, i) != key)
        i++;
    /* what it was of may be there by another name: nothing is sure to be off */
    if (i == rows)
        cup_in_choices_site(site)->flags |= CUP_CHOICE_STRANGE;
    else
        site->choices[i] = (struct cup_choice_state){
            .since_ms = site->pass->clock_ms - age,
            .left_ms = age + get16(bytes + 1) * RECORD_MINUTE_MS,
            .days = bytes[3],
            .flags = (uint16_t)(bytes[0] |
                                (site->choices[i].flags & CUP_CHOICE_STRANGE))};
}

uint32_t cup_record_size(CUP_FLASH struct cup_plan *plan)
{
    return HEAD_SIZE + CRC_SIZE +
           cup_in_record_rows(plan) *
               (uint32_t)(ITEM_HEAD + item_size(ITEM_CHOICE));
}

#endif
