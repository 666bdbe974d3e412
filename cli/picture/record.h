/* The picture of what a rehearsal left in a folder. */
#ifndef CUPLATCH_CLI_PICTURE_RECORD_H
#define CUPLATCH_CLI_PICTURE_RECORD_H

/* Draws what is in a directory into a file, PNG or SVG by its end. Returns an
 * exit code. */
int plot_record(const char *dir, const char *to);

#endif
