/* The tables of what tells: alerts, watches, bars, signals, settings, names. */
#include <inttypes.h>
#include <string.h>

#include "fields.h"

static const char *put_text(struct bake *bake, const char *text)
{
    if (!text)
        return NULL;
    struct words *words = words_begin(bake);
    fputc('"', words->to);
    for (const char *at = text; *at; at++)
        if (*at == '"' || *at == '\\')
            fprintf(words->to, "\\%c", *at);
        else if (*at == '?')
            fputs("\\?", words->to);
        else
            fputc(*at, words->to);
    fputc('"', words->to);
    size_t size = strlen(text) + 1;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "char", "text", true, words);
}

const char *bake_alerts(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->alert_count; i++) {
        const struct cup_alert *at = &bake->plan->alerts[i];
        const char *say = bake->named ? put_text(bake, at->say) : NULL;
        words_element(words);
        bake_latch(words, &at->latch, at->about);
        NUMBER(repeat_ms);
        words_pointer(words, "say", say, false);
        INDEX(about);
        words_next(words);
    }
    return bake_table(bake, "struct cup_alert", "alerts", true, words);
}

const char *bake_watches(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->watch_count; i++) {
        const struct cup_watch *at = &bake->plan->watches[i];
        words_element(words);
        NUMBER(change);
        NUMBER(within_ms);
        INDEX(about);
        INDEX(pump);
        NUMBER(kind);
        NUMBER(way);
        words_next(words);
    }
    return bake_table(bake, "struct cup_watch", "watches", true, words);
}

const char *bake_settings(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->setting_count; i++) {
        const struct cup_setting *at = &bake->plan->settings[i];
        words_element(words);
        NUMBER(low);
        NUMBER(high);
        INDEX(duty);
        NUMBER(field);
        words_next(words);
    }
    return bake_table(bake, "struct cup_setting", "settings", true, words);
}

static const char *put_marks(struct bake *bake, const struct cup_bar *bar)
{
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < bar->count; i++)
        fprintf(words->to, "%d, ", (int)bar->marks[i]);
    size_t size = sizeof(*bar->marks) * bar->count;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "cup_value", "marks", true, words);
}

const char *bake_bars(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->bar_count; i++) {
        const struct cup_bar *at = &bake->plan->bars[i];
        const char *marks = put_marks(bake, at);
        words_element(words);
        words_pointer(words, "marks", marks, false);
        INDEX(about);
        NUMBER(count);
        NUMBER(band);
        words_next(words);
    }
    return bake_table(bake, "struct cup_bar", "bars", true, words);
}

const char *bake_signals(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->signal_count; i++) {
        const struct cup_signal *at = &bake->plan->signals[i];
        words_element(words);
        fprintf(words->to, ".sounds = %d", at->sounds);
        words->weight.small++;
        words->weight.wide++;
        words_next(words);
    }
    return bake_table(bake, "struct cup_signal", "signals", true, words);
}

static const char *put_words(struct bake *bake, const struct cup_word *word)
{
    struct words *words = words_begin(bake);
    for (int i = 0; i < CUP_BUTTON_WORDS; i++) {
        const struct cup_word *at = &word[i];
        words_element(words);
        NUMBER(number);
        words_field(words, "changes", 5 * (size_t)CUP_CHANGES_MOST,
                    sizeof(at->changes));
        for (int c = 0; c < CUP_CHANGES_MOST; c++)
            fprintf(words->to, "%s{%" PRId32 ", %u}", c == 0 ? "{" : ", ",
                    at->changes[c].value, at->changes[c].setting);
        fputc('}', words->to);
        words_field_end(words);
        INDEX(target);
        NUMBER(verb);
        NUMBER(change_count);
        words_next(words);
    }
    return bake_table(bake, "struct cup_word", "words", true, words);
}

const char *bake_buttons(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->button_count; i++) {
        const struct cup_button *at = &bake->plan->buttons[i];
        const char *said = put_words(bake, at->words);
        words_element(words);
        words_pointer(words, "words", said, false);
        NUMBER(has);
        words_next(words);
    }
    return bake_table(bake, "struct cup_button", "buttons", true, words);
}

const char *bake_groups(struct bake *bake)
{
    return bake_indexes(bake, "groups", bake->plan->groups,
                        bake->plan->group_count);
}

const char *bake_names(struct bake *bake)
{
    if (!bake->named)
        return NULL;
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < cup_things(bake->plan); i++)
        fprintf(words->to, "%s,\n    ", put_text(bake, bake->plan->names[i]));
    size_t count = cup_things(bake->plan);
    words->weight = (struct weight){2 * count, 4 * count};
    return bake_table(bake, "char *CUP_FLASH", "names", true, words);
}

const char *bake_keys(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < cup_things(bake->plan); i++) {
        words_wrap(words);
        fprintf(words->to, "%uU, ", (unsigned)bake->plan->keys[i]);
    }
    size_t count = cup_things(bake->plan);
    words->weight = (struct weight){4 * count, 4 * count};
    return bake_table(bake, "uint32_t", "keys", true, words);
}
