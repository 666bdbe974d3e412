/* Pictures by gnuplot, a program of its own: what it reads is a script and data
 * in a folder of ours, under fixed names. No text of a user's is ever a command
 * to it, nor to a shell: there is none. */
#ifndef CUPLATCH_CLI_PICTURE_DRAW_H
#define CUPLATCH_CLI_PICTURE_DRAW_H

#include <stdbool.h>
#include <stdio.h>

/* A picture in the making: `folder` is ours alone. */
struct drawing {
    char folder[64];
    FILE *script;
};

/* The name that the script gives the picture. */
#define DRAWING_PICTURE "picture"

/* Makes the folder and begins the script; false when that fails, which was told
 * on stderr. */
bool drawing_begin(struct drawing *drawing);

/* A file in the folder, to write data to; null when that fails, which was told.
 */
FILE *drawing_file(const struct drawing *drawing, const char *name);

/* The name of its data file of that number, up to DRAWING_FILES. */
#define DRAWING_FILES 10
#define DRAWING_NAME_SIZE 12
void drawing_data(char *name, int number);

/* Puts a text into the script, quoted, so that it is drawn as it is. In the
 * label of a tic a per cent sign is doubled. */
void drawing_text(const struct drawing *drawing, const char *text, bool tic);

/* Runs the script and puts the picture at a path. False when that fails, which
 * was told. In any case the folder is gone. */
bool drawing_end(struct drawing *drawing, const char *to);

/* Gives it up. */
void drawing_drop(struct drawing *drawing);

#endif
