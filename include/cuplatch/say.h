/* Sentences: numbers and names into words a person can read, and back.
 * Bytes in, bytes out; no heap, no floating point. A board may leave this
 * out: the numbers of reasons are always there.
 *
 * In use:
 *
 *     char text[CUP_SENTENCE_SIZE];
 *     cup_say_event(text, sizeof(text), site->plan, event);
 *     print_line(0, text); */
#ifndef CUPLATCH_SAY_H
#define CUPLATCH_SAY_H

#include "codes.h"
#include "site.h"

CUP_C_BEGINS

/* The longest sentence, and a buffer that holds any, with its zero. */
#define CUP_SENTENCE_MAX 100
#define CUP_SENTENCE_SIZE (CUP_SENTENCE_MAX + 1)

/* Codes of the other lists; "" for a number that is none of them. */
CUP_FLASH char *cup_quality_code(uint8_t quality);
CUP_FLASH char *cup_pump_code(uint8_t shows);
CUP_FLASH char *cup_mode_code(uint8_t mode);
CUP_FLASH char *cup_verb_code(uint8_t verb);
CUP_FLASH char *cup_field_code(uint8_t field);
CUP_FLASH char *cup_pattern_code(uint8_t pattern);
CUP_FLASH char *cup_error_text(enum cup_error error);

/* What a level that may be something else is, by what cup_site_span() said:
 * "leapt, not believed yet". */
CUP_FLASH char *cup_span_words(uint8_t reason);

/* What the site file calls a setting: "start", or "flood". */
CUP_FLASH char *cup_setting_code(CUP_FLASH struct cup_plan *plan,
                                 cup_index setting);

/* The unit of a cause's value and limit. */
uint8_t cup_cause_unit(CUP_FLASH struct cup_plan *plan,
                       const struct cup_cause *cause);

/* A thing's name; "site" for CUP_NONE, "?" when the plan has no names. */
CUP_FLASH char *cup_thing_name(CUP_FLASH struct cup_plan *plan,
                               cup_index thing);

/* The same as cup_say_number(); `plan` says whether US units are shown; null:
 * metric ones. */
size_t cup_say_value(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     int32_t value, uint8_t unit);

/* Writes the sentence of a cause: "header 34.92 % is below start 35.00 %".
 * `of` is the thing it explains; `over` says that it has ended. Returns the
 * length. */
size_t cup_say_cause(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     cup_index of, const struct cup_cause *cause, bool over);

/* Writes an event as a sentence: that of its cause, which has ended where the
 * event says so. Returns the length. */
size_t cup_say_event(char *text, size_t size, CUP_FLASH struct cup_plan *plan,
                     const struct cup_event *event);

/* Whether that sentence shows the cause's value ('v') or limit ('l'). */
bool cup_event_shows(const struct cup_event *event, char part);

/* Writes why a pump is as it is and what would end that: "cistern 11.20 % is
 * below dry_below 12.00 %, until above 16.00 %", at most CUP_SENTENCE_MAX
 * characters. The same for a duty. Returns the length. */
size_t cup_say_why(char *text, size_t size, const struct cup_site *site,
                   cup_index pump);
size_t cup_say_why_duty(char *text, size_t size, const struct cup_site *site,
                        cup_index duty);

/* Why a word was refused by cup_site_may(), in a few words. */
CUP_FLASH char *cup_refusal_text(enum cup_error error,
                                 const struct cup_word *word);

/* Moves past a word that a text begins with; false when it does not. */
static inline bool cup_take_word(const char **text, CUP_FLASH char *word)
{
    const char *at = *text;
    while (*word && *at == *word) {
        at++;
        word++;
    }
    if (*word)
        return false;
    *text = at;
    return true;
}

/* Reads steering words such as "lift hand 5m", "lift off", "site hold",
 * "site clock 2031-04-02T06:00:00", "kale.start 30% kale.stop 60%".
 * Returns null, or what is wrong with them in a few words. */
CUP_MUST_USE CUP_FLASH char *cup_read_word(CUP_FLASH struct cup_plan *plan,
                                           const char *text,
                                           struct cup_word *word);

CUP_C_ENDS

#endif
