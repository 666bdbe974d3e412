/* When a text may go out, quiet hours and what a day has of them; and how often
 * a person may be wrong. Numbers in, numbers out. */
#ifndef CUPLATCH_SERVE_TEXTS_WHEN_H
#define CUPLATCH_SERVE_TEXTS_WHEN_H

#include <stdbool.h>
#include <stddef.h>
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

/* Six digits are found by trying: after so many wrong codes of a person no code
 * of theirs counts until a day has gone by without one. */
#define WHEN_WRONG_MOST 5
#define WHEN_WRONG_S 86400
struct wrong_codes {
    char name[26];
    int count;
    int64_t last_s;
};

/* Those of a person in a list; the one that was wrong longest ago makes room.
 */
struct wrong_codes *when_wrong_by(struct wrong_codes *list, size_t count,
                                  const char *name);
bool when_codes_count(const struct wrong_codes *wrong, int64_t now_s);
void when_wrong_code(struct wrong_codes *wrong, int64_t now_s);

#endif
