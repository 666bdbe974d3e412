/* Steering words with numbers in the place of names. */
#include "numbers.h"

#include "cuplatch/say.h"

#if CUP_USES_STEERING

#define DIGITS_MOST 6 /* so no number overflows */

/* Whether a line begins with a whole word; then `text` is past it. */
static bool eats(const char **text, CUP_FLASH char *word)
{
    const char *at = *text;
    if (!cup_take_word(&at, word) || (*at != ' ' && *at != '\0'))
        return false;
    *text = at;
    return true;
}

/* A number after a space; false when there is none, or it is no number. */
static bool eats_number(const char **text, uint32_t *number)
{
    uint8_t digits = 0;
    if (**text != ' ')
        return false;
    *number = 0;
    for (++*text; **text >= '0' && **text <= '9' && digits < DIGITS_MOST;
         ++*text, digits++)
        *number = *number * 10 + (uint32_t)(**text - '0');
    return digits > 0;
}

static uint8_t find_verb(const char **text)
{
    for (uint8_t verb = 0; verb < CUP_VERB_COUNT; verb++)
        if (eats(text, cup_verb_code(verb)))
            return verb;
    return CUP_VERB_COUNT;
}

/* A pump or a duty, by its number as a thing. */
static bool eats_target(const char **text, const struct cup_site *site,
                        cup_index *target)
{
    uint32_t thing;
    if (!eats_number(text, &thing) || thing < cup_pump_thing(site->plan, 0) ||
        thing >= cup_source_thing(site->plan, 0))
        return false;
    *target = (cup_index)(thing - cup_pump_thing(site->plan, 0));
    return true;
}

static enum cup_error steer(const struct cup_site *site, uint32_t now_ms,
                            const char *text)
{
    struct cup_word word = {.verb = find_verb(&text)};
    if (word.verb > CUP_VERB_QUIET ||
        (word.verb < CUP_VERB_HOLD && !eats_target(&text, site, &word.target)))
        return CUP_ERROR_NAME;
    if (word.verb == CUP_VERB_HAND) {
        if (!eats_number(&text, &word.number))
            return CUP_ERROR_RANGE;
        word.number *= 1000;
    }
    return *text ? CUP_ERROR_NAME : cup_site_steer(site, now_ms, &word);
}

static void say(const struct numbers_out *out, int32_t number)
{
    out->say(out->self, number, false);
}

static void tell_reading(const struct cup_site *site, cup_index thing,
                         const struct numbers_out *out)
{
    struct cup_reading reading = cup_site_reading(site, thing);
    say(out, thing);
    say(out, reading.quality);
    out->say(out->self, reading.value, true);
}

static void tell_pump(const struct cup_site *site, cup_index pump,
                      const struct numbers_out *out)
{
    struct cup_cause why = cup_site_why(site, pump);
    say(out, cup_pump_thing(site->plan, pump));
    say(out, (int32_t)cup_pump_shows(&site->pumps[pump]));
    say(out, why.about);
    say(out, why.reason);
    say(out, why.value);
    out->say(out->self, why.limit, true);
}

static void tell_all(const struct cup_site *site, const struct numbers_out *out)
{
    for (cup_index i = 0; i < cup_pump_thing(site->plan, 0); i++)
        tell_reading(site, i, out);
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        tell_pump(site, i, out);
}

/* A line too long keeps its last place full. */
static void end_line(struct numbers *numbers, const struct cup_site *site,
                     uint32_t now_ms, const struct numbers_out *out)
{
    const char *text = numbers->text;
    bool fits = numbers->count < sizeof(numbers->text);
    if (numbers->count == 0)
        return;
    numbers->text[fits ? numbers->count : 0] = '\0';
    numbers->count = 0;
    if (fits && eats(&text, CUP_TEXT("ask")) && !*text) {
        tell_all(site, out);
        return;
    }
    if (fits && eats(&text, CUP_TEXT("look")) && !*text) {
        numbers->looks = true;
        return;
    }
    enum cup_error error = CUP_ERROR_NAME;
    if (fits)
        error = steer(site, now_ms, numbers->text);
    out->say(out->self, (int32_t)error, true);
}

void numbers_take(struct numbers *numbers, const struct cup_site *site,
                  uint32_t now_ms, char byte, const struct numbers_out *out)
{
    if (byte == '\r' || byte == '\n')
        end_line(numbers, site, now_ms, out);
    else if (numbers->count < sizeof(numbers->text))
        numbers->text[numbers->count++] = byte;
}

#endif
