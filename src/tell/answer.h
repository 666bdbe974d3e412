/* An answer to a person under way, for the files that make them. */
#ifndef CUPLATCH_TELL_ANSWER_H
#define CUPLATCH_TELL_ANSWER_H

#include "cuplatch/console.h"
#include "texts.h"

/* The longest answer: two names, a word for the state and a sentence. */
#define LINE_SIZE (2 * CUP_NAME_MAX + 32 + CUP_SENTENCE_SIZE)

/* An answer under way. */
struct answer {
    const struct cup_site *site;
    const struct cup_printer *printer;
    char text[LINE_SIZE];
    size_t used;
};

/* Adds a text, a value in its unit, the name of a thing and a blank. */
void cup_answer_add(struct answer *answer, CUP_FLASH char *text);
void cup_answer_value(struct answer *answer, int32_t value, uint8_t unit);
void cup_answer_name(struct answer *answer, cup_index thing);

/* Adds a level, of a sensor or a tank; of a pump or a duty, as a thing, why it
 * is as it is, of any other its level. */
void cup_answer_level(struct answer *answer, cup_index i);
void cup_answer_why(struct answer *answer, cup_index thing);

/* The line is whole. */
void cup_answer_send(struct answer *answer);

/* Whatever stands, a line each; how many. */
unsigned cup_answer_standing(struct answer *answer);

#endif
