/* Steering words: inputs of a pass like any other. */
#include "inside.h"

static enum cup_error may_hand(CUP_FLASH struct cup_pump *pump,
                               const struct cup_word *word)
{
    bool fits =
        word->hand_for_ms > 0 && word->hand_for_ms <= pump->hand_limit_ms;
    return fits ? CUP_OK : CUP_ERROR_RANGE;
}

enum cup_error cup_site_may(const struct cup_site *site,
                            const struct cup_word *word)
{
    if (word->verb == CUP_VERB_HOLD || word->verb == CUP_VERB_GO)
        return CUP_OK;
    if (word->verb >= CUP_VERB_COUNT || word->pump >= site->plan->pump_count)
        return CUP_ERROR_NAME;
    if (word->verb == CUP_VERB_HAND)
        return may_hand(&site->plan->pumps[word->pump], word);
    return CUP_OK;
}

static void steer_site(struct cup_pass_state *pass, bool hold)
{
    bool was = pass->flags & PASS_ON_HOLD;
    if (was != hold)
        pass->flags |= PASS_HOLD_NEW;
    unsigned kept = pass->flags & ~(unsigned)PASS_ON_HOLD;
    pass->flags = (uint16_t)(hold ? kept | PASS_ON_HOLD : kept);
}

static void clear_pump(struct cup_pump_state *pump)
{
    if (!cup_pump_is(pump, CUP_PUMP_IS_TRIPPED))
        return;
    cup_pump_clear(pump);
    cup_pump_set(pump, CUP_PUMP_IS_CLEARED, true);
}

enum cup_error cup_site_steer(const struct cup_site *site, uint32_t now_ms,
                              const struct cup_word *word)
{
    static CUP_FLASH uint8_t modes[] = {CUP_MODE_AUTO, CUP_MODE_OFF,
                                        CUP_MODE_HAND};
    enum cup_error error = cup_site_may(site, word);
    if (error)
        return error;
    if (!(site->pass->flags & PASS_BEGUN))
        cup_site_begin(site, now_ms);
    site->pass->flags |= PASS_TOUCHED;
    if (word->verb == CUP_VERB_HOLD || word->verb == CUP_VERB_GO)
        steer_site(site->pass, word->verb == CUP_VERB_HOLD);
    else if (word->verb == CUP_VERB_CLEAR)
        clear_pump(&site->pumps[word->pump]);
    else
        cup_pump_turn(&site->pumps[word->pump],
                      (enum cup_mode)modes[word->verb],
                      inner_time(site->pass, now_ms), word->hand_for_ms);
    return CUP_OK;
}
