/* Steering words: inputs of a pass like any other. */
#include "inside.h"

#if CUP_USES_STEERING

/* Whether the site is on hold once the words before this one were taken. */
static bool is_on_hold(const struct cup_site *site, const struct cup_said *said)
{
    bool hold = site->pass->flags & PASS_ON_HOLD;
    for (const struct cup_word *at = said->words; at < said->word; at++)
        if (at->verb == CUP_VERB_HOLD || at->verb == CUP_VERB_GO)
            hold = at->verb == CUP_VERB_HOLD;
    return hold;
}

/* The pump of a duty, by its number as a target. */
static cup_index pump_behind(CUP_FLASH struct cup_plan *plan, cup_index target)
{
    return plan->duties[target - plan->pump_count].pump;
}

/* A pump that a person switched off, or that runs for another duty: by hand
 * under this one it is not to be had. */
static bool is_taken(const struct cup_site *site, cup_index pump,
                     cup_index duty)
{
    const struct cup_pump_state *state = &site->pumps[pump];
    return state->mode == CUP_MODE_OFF ||
           (state->duty != duty && (state->mode == CUP_MODE_HAND ||
                                    cup_pump_is(state, CUP_PUMP_IS_ON)));
}

/* By hand for no longer than its limit; never during a hold, to lie in wait for
 * its end. */
static enum cup_error may_hand(const struct cup_site *site,
                               const struct cup_said *said)
{
    const struct cup_word *word = said->word;
    const bool duty = word->target >= site->plan->pump_count;
    const cup_index p =
        duty ? pump_behind(site->plan, word->target) : word->target;
    if (word->number == 0 || word->number > site->plan->pumps[p].hand_limit_ms)
        return CUP_ERROR_RANGE;
    if (is_on_hold(site, said))
        return CUP_ERROR_REFUSED;
    return duty && is_taken(site, p,
                            (cup_index)(word->target - site->plan->pump_count))
               ? CUP_ERROR_BUSY
               : CUP_OK;
}

/* An end of what is chosen, if it has any, is a time. */
static enum cup_error may_choose(const struct cup_word *word)
{
    return word->number == 0 || (CUP_USES_CHOICES &&
                                 (word->verb == CUP_VERB_OFF ||
                                  word->verb == CUP_VERB_HOLD) &&
                                 word->number <= CUP_TIME_MAX_MS)
               ? CUP_OK
               : CUP_ERROR_RANGE;
}

/* No clock was right before this: the first of January 2020. */
#define CLOCK_LEAST UINT32_C(1577836800)

static enum cup_error may_site(const struct cup_site *site,
                               const struct cup_said *said)
{
    const struct cup_word *word = said->word;
    (void)site;
    switch (word->verb) {
    case CUP_VERB_SET:
        return CUP_IF_ELSE(SETTINGS, cup_in_settings_may(site, said),
                           CUP_ERROR_NAME);
    case CUP_VERB_QUIET:
        return CUP_USES_LAMPS ? CUP_OK : CUP_ERROR_NAME;
    case CUP_VERB_CLOCK:
        if (!CUP_USES_CLOCK)
            return CUP_ERROR_NAME;
        return word->number < CLOCK_LEAST ? CUP_ERROR_RANGE : CUP_OK;
    default:
        return word->verb == CUP_VERB_HOLD ? may_choose(word) : CUP_OK;
    }
}

#if CUP_USES_SPANS
/* A person may say how full a tank is that has a span; floats show it. */
static enum cup_error may_level(CUP_FLASH struct cup_plan *plan,
                                const struct cup_word *word)
{
    if (word->target >= plan->tank_count || !plan->tanks[word->target].span)
        return CUP_ERROR_NAME;
    return word->number <= CUP_TANK_FULL ? CUP_OK : CUP_ERROR_RANGE;
}
#endif

#if CUP_USES_CHOICES
/* A duty that comes at its times; of what goes by a level nothing is next. */
static bool has_turn(CUP_FLASH struct cup_plan *plan, cup_index target)
{
    if (target < plan->pump_count ||
        target >= plan->pump_count + plan->duty_count)
        return false;
    CUP_WHERE(TURNS, {
        if (plan->duties[target - plan->pump_count].turn)
            return true;
    })
    return false;
}
#endif

/* What is said to a pump or a duty. */
static enum cup_error may_turn(const struct cup_site *site,
                               const struct cup_said *said)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    const struct cup_word *word = said->word;
    if (word->target >= plan->pump_count + plan->duty_count ||
        (!CUP_USES_CHOICES && word->verb != CUP_VERB_CLEAR &&
         word->target >= plan->pump_count))
        return CUP_ERROR_NAME;
    if (word->verb == CUP_VERB_OFF)
        return may_choose(word);
    return word->verb == CUP_VERB_HAND ? may_hand(site, said) : CUP_OK;
}

static enum cup_error may_say(const struct cup_site *site,
                              const struct cup_said *said)
{
    const struct cup_word *word = said->word;
    if (word->verb >= CUP_VERB_COUNT)
        return CUP_ERROR_NAME;
    if (word->verb == CUP_VERB_IS)
        return CUP_IF_ELSE(SPANS, may_level(site->plan, word), CUP_ERROR_NAME);
    if (word->verb == CUP_VERB_SKIP)
        return CUP_IF(CHOICES, has_turn(site->plan, word->target))
                   ? CUP_OK
                   : CUP_ERROR_NAME;
    return word->verb >= CUP_VERB_HOLD ? may_site(site, said)
                                       : may_turn(site, said);
}

enum cup_error cup_site_may_all(const struct cup_site *site,
                                const struct cup_word *words, size_t count,
                                size_t *wrong)
{
    for (size_t i = 0; i < count; i++) {
        struct cup_said said = {words, count, &words[i]};
        enum cup_error error = may_say(site, &said);
        if (error && wrong)
            *wrong = i;
        if (error)
            return error;
    }
    return CUP_OK;
}

enum cup_error cup_site_may(const struct cup_site *site,
                            const struct cup_word *word)
{
    return cup_site_may_all(site, word, 1, NULL);
}

/* A person says hold, for so long, or go. */
static void steer_site(const struct cup_site *site, uint32_t now,
                       const struct cup_word *word)
{
    const bool hold = word->verb == CUP_VERB_HOLD;
    cup_in_hold_set(site, now, hold);
    CUP_WHERE(CHOICES, {
        cup_index row =
            (cup_index)(site->plan->pump_count + site->plan->duty_count);
        if (hold)
            cup_in_choices_take(site, row, now, word->number);
        else
            cup_in_choices_end(site, row);
    })
}

#if CUP_USES_DOSES
static void clear_doses(const struct cup_site *site, cup_index duty)
{
    CUP_FLASH struct cup_duty *plan = &site->plan->duties[duty];
    if (plan->dose)
        cup_dose_clear(
            &site->doses[cup_in_pass_own(site->plan->doses, plan->dose_own)],
            &site->duties[duty].latch);
}
#endif

/* A pump tries again, and its count of tries is set back at any time; a duty
 * has all its doses again. */
/* It is in the journal before anything comes of it, as all that people say. */
static void clear(const struct cup_site *site, cup_index target)
{
    if (CUP_USES_JOURNAL)
        cup_set_bits(&site->pass->flags, PASS_AT_ONCE, true);
    cup_index pumps = site->plan->pump_count;
    if (target >= pumps) {
        cup_index duty = (cup_index)(target - pumps);
        CUP_WHERE(DOSES, clear_doses(site, duty);)
        CUP_WHERE(TRIES, cup_in_trips_clear(site, duty);)
        (void)duty;
        return;
    }
    struct cup_pump_state *pump = &site->pumps[target];
    CUP_WHERE(SPANS, cup_in_spans_clear(site, target);)
    CUP_WHERE(TRIES, cup_in_trips_clear_all(site, target);)
    cup_pump_clear(pump);
    cup_pump_set(pump, CUP_PUMP_IS_CLEARED, true);
}

#if CUP_USES_CHOICES
/* By hand, by its own route; what it was before returns. */
static void hand_duty(const struct cup_site *site, cup_index duty, uint32_t now,
                      uint32_t for_ms)
{
    struct cup_pump_state *pump = &site->pumps[site->plan->duties[duty].pump];
    pump->duty = duty;
    cup_pump_switch(pump, CUP_MODE_HAND, now, for_ms);
}

/* A hand run under it is over; what is off and goes on in one moment is both.
 */
static void turn_duty(const struct cup_site *site, cup_index row, uint32_t now,
                      const struct cup_word *word)
{
    const cup_index duty = (cup_index)(row - site->plan->pump_count);
    struct cup_pump_state *pump = &site->pumps[site->plan->duties[duty].pump];
    const bool its = pump->duty == duty;
    if (its && pump->mode == CUP_MODE_HAND)
        cup_pump_end_hand(pump, now);
    if (word->verb == CUP_VERB_OFF) {
        cup_in_choices_take(site, row, now, word->number);
        return;
    }
    if (its && cup_pump_is(pump, CUP_PUMP_IS_ON) &&
        cup_choice_is(&site->choices[row], CUP_CHOICE_NEW))
        cup_pump_set(pump, CUP_PUMP_SAID_OFF, true);
    cup_latch_release(&site->duties[duty].latch);
    cup_in_choices_end(site, row);
}

static void choose(const struct cup_site *site, uint32_t now,
                   const struct cup_word *word)
{
    if (word->verb == CUP_VERB_OFF)
        cup_in_choices_take(site, word->target, now, word->number);
    if (word->verb == CUP_VERB_AUTO)
        cup_in_choices_end(site, word->target);
}
#endif

static void turn(const struct cup_site *site, uint32_t now,
                 const struct cup_word *word)
{
    CUP_WHERE(CHOICES, {
        const cup_index pumps = site->plan->pump_count;
        if (word->target >= pumps && word->verb == CUP_VERB_HAND)
            hand_duty(site, (cup_index)(word->target - pumps), now,
                      word->number);
        else if (word->target >= pumps)
            turn_duty(site, word->target, now, word);
        if (word->target >= pumps)
            return;
        choose(site, now, word);
    })
    cup_pump_switch(&site->pumps[word->target], cup_in_steer_mode(word->verb),
                    now, word->verb == CUP_VERB_HAND ? word->number : 0);
}

/* Takes a word that was judged. */
static void obey(const struct cup_site *site, uint32_t now_ms,
                 const struct cup_word *word)
{
    CUP_WHERE(SETTINGS, {
        if (word->verb == CUP_VERB_SET) {
            cup_in_settings_take(site, word);
            return;
        }
    })
    CUP_WHERE(CLOCK, {
        if (word->verb == CUP_VERB_CLOCK) {
            cup_in_clock_set(site, cup_in_pass_time(site->pass, now_ms),
                             word->number);
            return;
        }
    })
    CUP_WHERE(LAMPS, {
        if (word->verb == CUP_VERB_QUIET) {
            site->pass->mood |= CUP_MOOD_QUIET | CUP_MOOD_QUIETED;
            return;
        }
    })
    CUP_WHERE(SPANS, {
        if (word->verb == CUP_VERB_IS) {
            cup_in_spans_see(site, cup_in_pass_time(site->pass, now_ms), word);
            return;
        }
    })
    CUP_WHERE(CHOICES, {
        if (word->verb == CUP_VERB_SKIP) {
            cup_in_choices_skip(
                site, (cup_index)(word->target - site->plan->pump_count));
            return;
        }
    })
    if (word->verb == CUP_VERB_HOLD || word->verb == CUP_VERB_GO)
        steer_site(site, cup_in_pass_time(site->pass, now_ms), word);
    else if (word->verb == CUP_VERB_CLEAR)
        clear(site, word->target);
    else
        turn(site, cup_in_pass_time(site->pass, now_ms), word);
}

enum cup_error cup_site_steer_all(const struct cup_site *site, uint32_t now_ms,
                                  const struct cup_word *words, size_t count,
                                  size_t *wrong)
{
    enum cup_error error = cup_site_may_all(site, words, count, wrong);
    if (error)
        return error;
    if (!(site->pass->flags & PASS_BEGUN))
        cup_in_bind_begin(site, now_ms);
    site->pass->flags |= PASS_TOUCHED;
    for (size_t i = 0; i < count; i++) {
        CUP_WHERE(BUTTONS, cup_in_presses_disown(site, &words[i]);)
        obey(site, now_ms, &words[i]);
    }
    return CUP_OK;
}

enum cup_error cup_site_steer(const struct cup_site *site, uint32_t now_ms,
                              const struct cup_word *word)
{
    return cup_site_steer_all(site, now_ms, word, 1, NULL);
}

#else
/* No word is known. */
enum cup_error cup_site_may(const struct cup_site *site,
                            const struct cup_word *word)
{
    (void)site, (void)word;
    return CUP_ERROR_NAME;
}

enum cup_error cup_site_steer(const struct cup_site *site, uint32_t now_ms,
                              const struct cup_word *word)
{
    (void)site, (void)now_ms, (void)word;
    return CUP_ERROR_NAME;
}

enum cup_error cup_site_may_all(const struct cup_site *site,
                                const struct cup_word *words, size_t count,
                                size_t *wrong)
{
    (void)site, (void)words, (void)count, (void)wrong;
    return CUP_ERROR_NAME;
}

enum cup_error cup_site_steer_all(const struct cup_site *site, uint32_t now_ms,
                                  const struct cup_word *words, size_t count,
                                  size_t *wrong)
{
    (void)site, (void)now_ms, (void)words, (void)count, (void)wrong;
    return CUP_ERROR_NAME;
}
#endif
