/* The post part: a command of the keeper's own is run for each alert, which it
 * gets as JSON on its standard input. By a thread of its own, since it may take
 * its time; what is not yet sent is in a file, over restarts. */
#ifndef CUPLATCH_SERVE_ALERTS_POST_H
#define CUPLATCH_SERVE_ALERTS_POST_H

#include "../../grammar/inifile.h"
#include "alerts.h"

/* A command that takes longer is ended, and counts as failed. */
#define POST_ANSWER_S 30
/* One that failed is run again after so long, and twice that each time. */
#define POST_PAUSE_FIRST_S 10
#define POST_PAUSE_MOST_S 600

/*   command  the whole path of a program, and its words; null: no post
 *   queue    the file of what is not yet sent */
struct post_config {
    const char *command;
    const char *queue;
};

struct post;

/* Reads [post]; what is wrong is among the problems. */
void post_read(struct post_config *config, const struct ini_section *section,
               struct problems *problems);

struct post *post_open(const struct post_config *config);

/* What is under way is ended, and done again at the next start. */
void post_close(struct post *post);

/* What stands, as it tells of it. */
struct alerts *post_alerts(struct post *post);

/* One more controller: who hears of it. `name` must live as long. */
struct link_ear post_ear(struct post *post, const char *name);

#endif
