/* What people chose, read back after a power cut; or the site is on hold. */
#include "entry.h"
#include "inside.h"

#if CUP_USES_CHOICES

/* As the record says, whatever the journal does. */
static void apply_record(const struct cup_site *site)
{
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        site->pumps[i].mode =
            cup_choice_is(&site->choices[i], CUP_CHOICE_STANDS) ? CUP_MODE_OFF
                                                                : CUP_MODE_AUTO;
    cup_set_bits(&site->pass->flags, PASS_ON_HOLD | PASS_HOLD_NEW,
                 cup_choice_is(cup_in_choices_site(site), CUP_CHOICE_STANDS));
}

/* There is none yet: the journal knows. */
static void adopt_journal(const struct cup_site *site)
{
    const uint32_t now = site->pass->clock_ms;
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (site->pumps[i].mode == CUP_MODE_OFF)
            cup_in_choices_take(site, i, now, 0);
    if (site->pass->flags & PASS_ON_HOLD)
        cup_in_choices_take(
            site, (cup_index)(cup_in_record_rows(site->plan) - 1), now, 0);
}

/* Something was off, or to be skipped, that is not there by that name. */
static bool is_strange(const struct cup_site *site)
{
    struct cup_choice_state *hold = cup_in_choices_site(site);
    if (!cup_choice_is(hold, CUP_CHOICE_STRANGE))
        return false;
    cup_set_bits(&hold->flags, CUP_CHOICE_STRANGE, false);
    cup_in_hold_set(site, site->pass->clock_ms, true);
    cup_in_choices_take(site, (cup_index)(cup_in_record_rows(site->plan) - 1),
                        site->pass->clock_ms, 0);
    return true;
}

static enum cup_in_chosen settle_words(const struct cup_site *site, bool unkept,
                                       enum cup_in_chosen read)
{
    if (is_strange(site))
        return CUP_CHOSEN_STRANGE;
    cup_in_choices_recount(site, unkept);
    return read;
}

enum cup_in_chosen cup_in_chosen_read(struct cup_journal *journal,
                                      const struct cup_site *site, bool known)
{
    const struct cup_store copies = cup_in_record_store(journal->store);
    const bool is_there = copies.slot_size >= cup_record_size(site->plan);
    struct cup_found best = {.whole = false};
    unsigned spoilt = 0;
    uint8_t slot = 0;
    if (is_there)
        slot = cup_in_recall_newest(&copies, &best, &spoilt);
    journal->record = best.sequence;
    if (best.whole && cup_in_recall(&copies, site, slot, &best)) {
        apply_record(site);
        return settle_words(site, spoilt > 0, CUP_CHOSEN_READ);
    }
    const bool lost = spoilt > 0 || best.whole || (is_there && !known);
    if (lost)
        cup_in_hold_set(site, site->pass->clock_ms, true);
    adopt_journal(site);
    return settle_words(site, true, lost ? CUP_CHOSEN_LOST : CUP_CHOSEN_NONE);
}

#endif
