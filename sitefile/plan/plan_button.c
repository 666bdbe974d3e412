/* What buttons say: words, read and judged as they will be said. */
#include <stdio.h>

#include "../inside.h"
#include "cuplatch/say.h"

/* The pump that a word is for, itself or by its duty. */
static cup_index pump_of(const struct cup_plan *plan,
                         const struct cup_word *word)
{
    return word->target < plan->pump_count
               ? word->target
               : plan->duties[word->target - plan->pump_count].pump;
}

/* Why a word could never be taken; null when it could. */
static const char *refusal_of(const struct cup_plan *plan,
                              const struct cup_word *word)
{
    if (word->verb == CUP_VERB_CLOCK)
        return "a button cannot set the clock";
    if (word->verb == CUP_VERB_HAND &&
        word->number > plan->pumps[pump_of(plan, word)].hand_limit_ms)
        return cup_refusal_text(CUP_ERROR_RANGE, word);
    for (uint8_t i = 0; i < word->change_count; i++) {
        const struct cup_setting *setting =
            &plan->settings[word->changes[i].setting];
        if (word->changes[i].value < setting->low ||
            word->changes[i].value > setting->high)
            return cup_refusal_text(CUP_ERROR_RANGE, word);
    }
    return NULL;
}

/* Whether it can be seen that a word holds still. */
static bool holds_on(const struct cup_word *word)
{
    return word->verb != CUP_VERB_CLEAR && word->verb != CUP_VERB_SET &&
           word->verb != CUP_VERB_IS && word->verb != CUP_VERB_SKIP;
}

static void check_quiet(struct cup_file *file, const struct value *value)
{
    for (cup_index i = 0; i < file->plan.signal_count; i++)
        if (file->plan.signals[i].sounds)
            return;
    problem_warning(&file->problems, value->place,
                    "there is no horn to quiet: no signal is as = horn");
}

static void make_word(struct cup_file *file, const struct thing *thing,
                      struct cup_button *button, struct cup_word *words,
                      int which)
{
    static const char *const keys[] = {"says", "again", "held"};
    const struct value *value = good_value(thing, keys[which]);
    if (!value)
        return;
    const char *wrong = cup_read_word(&file->plan, value->text, &words[which]);
    if (!wrong)
        wrong = refusal_of(&file->plan, &words[which]);
    if (wrong) {
        problem_error(&file->problems, value->place, "%s", wrong);
        return;
    }
    button->has |= (uint8_t)(1u << which);
    if (words[which].verb == CUP_VERB_QUIET)
        check_quiet(file, value);
}

void plan_make_button(struct cup_file *file, const struct thing *thing)
{
    struct cup_button *button = &file->tables.buttons[thing->index];
    struct cup_word *words =
        &file->tables.words[(size_t)thing->index * CUP_BUTTON_WORDS];
    button->words = words;
    for (int which = 0; which < CUP_BUTTON_WORDS; which++)
        make_word(file, thing, button, words, which);
    if (button->has & 1u << CUP_BUTTON_SAYS &&
        value_of(thing, "again")->given && !holds_on(&words[CUP_BUTTON_SAYS]))
        problem_error(&file->problems, value_of(thing, "again")->place,
                      "is said while the first word holds still; expected "
                      "says with hand, off, auto, hold, go or quiet");
}
