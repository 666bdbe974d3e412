/* A site over lines at work, shared by the files of this room. */
#ifndef CUPLATCH_PORTS_LINES_INSIDE_H
#define CUPLATCH_PORTS_LINES_INSIDE_H

#include <jansson.h>

#include "cuplatch/console.h"
#include "cuplatch/journal.h"
#include "cuplatch/panel.h"
#include "lines.h"

/* The most bytes a line may give for one sensor. */
#define BYTES_MOST 1024
/* The most steering words of a line. */
#define WORDS_MOST 64

/* What the port answers when a sensor is asked: a number until it is told
 * otherwise, or bytes once. */
struct answer {
    struct cup_sample sample;
    uint8_t *bytes;
    size_t count;
};

/* `answers` has one for every thing; only sensors and sources have any.
 * `closed` has one for every button. */
struct lines {
    const struct cup_site *site;
    struct answer *answers;
    bool *closed;
    const struct cup_onlooker *watch;
    const struct cup_store *store;
    struct cup_journal journal;
    json_t *events;
    json_t *lamps;
    struct cup_panel panel;
    json_t *answers_to_ask;
    bool journal_fails;
    uint32_t faster;  /* the site's time runs so many times */
    uint32_t told_ms; /* the time of the line, as it was told */
    uint32_t t_ms;
    bool begun;   /* a line was taken */
    void *before; /* the state before the first line, with a journal */
    struct cup_word words[WORDS_MOST];
    size_t word_count;
    char wrong[300];
};

/* One line that was found right. */
struct line {
    uint32_t t_ms;
    json_t *raws;
    json_t *asked;
    json_t *pressed;
};

/* judge.c: says in `wrong` what is wrong, in a form of printf(); false. */
bool lines_fail(struct lines *lines, const char *form, ...)
    __attribute__((format(printf, 2, 3)));

/* Whether a line is right but for its words; nothing of it is taken yet. */
bool lines_judge(struct lines *lines, json_t *json, struct line *line);

/* Whether its words may be said, as things stand now. */
bool lines_judge_words(struct lines *lines, json_t *words);

/* A sensor or a source by its name; a digit of hex, -1 if it is none. */
bool lines_find(const struct cup_plan *plan, const char *name,
                cup_index *thing);
int lines_hex(char letter);

/* A button by its name. */
bool lines_button(const struct cup_plan *plan, const char *name,
                  cup_index *button);

#endif
