/* A trial of each way to call somebody: the command asks the service that runs
 * for it by a file, and hears by another what came of it. */
#ifndef CUPLATCH_SERVE_ALERTS_TRIAL_H
#define CUPLATCH_SERVE_ALERTS_TRIAL_H

#include <jansson.h>
#include <stdbool.h>

/* So long until nothing more is expected. */
#define TRIAL_WAIT_S 90

/* Whether a trial is asked for beside a queue; it is taken. */
bool trial_is_wanted(const char *queue);

/* The alert of a trial; and whether one is. */
json_t *trial_alert(void);
bool trial_is(const json_t *alert);

/* What came of it, by which way. */
void trial_said(const char *queue, const char *way, const char *what);

/* Asks for a trial beside each queue (null: there is no such way) of so many
 * answers in all, and prints what came of it. 0: each was sent. */
int trial_run(const char *const queues[2], const int answers[2]);

#endif
