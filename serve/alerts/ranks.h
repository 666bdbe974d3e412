/* Who is called for what, and what to do then. The rank of a thing that stands
 * decides how it is told, and not the place where it was found. */
#ifndef CUPLATCH_SERVE_ALERTS_RANKS_H
#define CUPLATCH_SERVE_ALERTS_RANKS_H

#include <jansson.h>
#include <stdbool.h>

/* HARM: at once, quiet hours or not, under no daily limit. HELP: at once, but
 * in quiet hours in the morning. CHOICE: a person's. NOTE: log and report. */
enum rank { RANK_NOTE, RANK_CHOICE, RANK_HELP, RANK_HARM };

enum rank_how { RANK_NOTHING, RANK_ONCE, RANK_COMES, RANK_GOES };

/* What an event is, for whoever is called.
 *   how     nothing; said once and over; a thing comes, or goes
 *   thing   what comes and goes, of one site: "header alert"
 *   to_do   a sentence; "" for none
 *   settles whether it has to last for a while before anybody is called */
struct ranked {
    enum rank rank;
    enum rank_how how;
    char thing[100];
    const char *to_do;
    int settles;
};

struct ranked rank_of(const json_t *event);

/* "harm", "help", "choice", "note". */
const char *rank_word(enum rank rank);

/* Whether an alert that carries its `rank` is of harm. */
bool rank_is_harm(const json_t *alert);

/* What an event or an alert says under a key; "" for nothing. */
const char *event_text(const json_t *json, const char *key);

#endif
