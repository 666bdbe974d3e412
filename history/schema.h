/* The tables of a history, as its file has them. */
#ifndef CUPLATCH_HISTORY_SCHEMA_H
#define CUPLATCH_HISTORY_SCHEMA_H

/* What makes an empty file one of the newest version. */
extern const char history_schema[];

/* What brings a file of each version to the next, by its number; there is none
 * of version 0. */
extern const char *const history_steps[];

#endif
