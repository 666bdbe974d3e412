/* When a text may go out: quiet hours, and what a day has of them. Numbers in,
 * numbers out. */
#ifndef CUPLATCH_SERVE_TEXTS_WHEN_H
#define CUPLATCH_SERVE_TEXTS_WHEN_H

#include <stdbool.h>
#include <stdint.h>

/* What went out on a day, and how many of these were answers. */
struct today {
    int day, count, answers;
};

/* Whether a minute of the day is quiet; over midnight where `from` is the later
 * one, never where both are the same. */
bool when_is_quiet(int from, int to, int minute);

/* It is that day now: with a new one it counts from 0. Whether it is new. */
bool when_begins(struct today *today, int day);

/* How many messages went out since a modem had counted `before`: one that was
 * plugged in again counts from 0. */
int when_sent(uint16_t before, uint16_t sent);

/* Nobody's questions use up what alerts need: answers have half of `a_day`. */
bool when_may_answer(const struct today *today, int a_day);

/* What does harm is under no limit. */
bool when_may_alert(const struct today *today, int a_day, bool harm);

#endif
