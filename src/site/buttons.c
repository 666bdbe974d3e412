/* What buttons say. */
#include "inside.h"

#if CUP_USES_BUTTONS
/* Whether what a word said holds still. */
static bool holds_still(const struct cup_site *site,
                        CUP_FLASH struct cup_word *word)
{
    bool on_hold = site->pass->flags & PASS_ON_HOLD;
    switch (word->verb) {
    case CUP_VERB_HOLD:
        return on_hold;
    case CUP_VERB_GO:
        return !on_hold;
    case CUP_VERB_QUIET:
        return site->pass->mood & CUP_MOOD_QUIET;
    default:
        if (word->target >= site->plan->pump_count)
            return CUP_IF(CHOICES,
                          word->verb == CUP_VERB_OFF &&
                              cup_in_choices_off(
                                  site, (cup_index)(word->target -
                                                    site->plan->pump_count)));
        return word->verb < CUP_VERB_CLEAR &&
               site->pumps[word->target].mode == cup_in_steer_mode(word->verb);
    }
}

static enum cup_error say_word(const struct cup_site *site, uint32_t now_ms,
                               CUP_FLASH struct cup_word *word)
{
    struct cup_word said = *word;
    return cup_site_steer(site, now_ms, &said);
}

enum cup_error cup_site_press(const struct cup_site *site, cup_index button,
                              uint32_t now_ms, bool closed)
{
    if (button >= site->plan->button_count)
        return CUP_ERROR_NAME;
    CUP_FLASH struct cup_button *plan = &site->plan->buttons[button];
    CUP_FLASH struct cup_word *words = plan->words;
    enum cup_press press =
        cup_button_step(&site->buttons[button], now_ms, closed,
                        plan->has & 1u << CUP_BUTTON_HELD);
    if (press == CUP_PRESS_NONE)
        return CUP_OK;
    const bool held = holds_still(site, &words[CUP_BUTTON_SAYS]);
    const bool again = (plan->has & 1u << CUP_BUTTON_AGAIN) && held &&
                       site->buttons[button].own;
    if (press == CUP_PRESS_LONG)
        return say_word(site, now_ms, &words[CUP_BUTTON_HELD]);
    if (again)
        return say_word(site, now_ms, &words[CUP_BUTTON_AGAIN]);
    enum cup_error error = say_word(site, now_ms, &words[CUP_BUTTON_SAYS]);
    if (!error && (!held || words[CUP_BUTTON_SAYS].verb == CUP_VERB_HAND))
        site->buttons[button].own = 1;
    return error;
}
#endif
