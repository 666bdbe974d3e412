/* What a button said holds as its own until somebody says the same or the
 * contrary. */
#include "inside.h"

#if CUP_USES_BUTTONS
/* Whether two words are about the same switch, or the same hold. */
static bool is_of_same(CUP_FLASH struct cup_word *one,
                       const struct cup_word *two)
{
    const bool site = one->verb >= CUP_VERB_HOLD;
    return site ? two->verb == CUP_VERB_HOLD || two->verb == CUP_VERB_GO
                : two->verb < CUP_VERB_CLEAR && one->target == two->target;
}

void cup_in_presses_disown(const struct cup_site *site,
                           const struct cup_word *word)
{
    for (cup_index i = 0; i < site->plan->button_count; i++)
        if (is_of_same(&site->plan->buttons[i].words[CUP_BUTTON_SAYS], word))
            site->buttons[i].own = 0;
}
#endif
