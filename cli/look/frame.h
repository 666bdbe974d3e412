/* A running site on a screen: duty by duty the level with its marks on a scale,
 * the pump with its state and why; what stands on top, what happened last
 * below. Lines of text, whatever shows them. */
#ifndef CUPLATCH_CLI_LOOK_FRAME_H
#define CUPLATCH_CLI_LOOK_FRAME_H

#include <jansson.h>
#include <stdbool.h>

#define FRAME_WIDTH_LEAST 80
#define FRAME_WIDTH_MOST 200
#define FRAME_LINES_MOST 200
#define FRAME_NEWS 8

enum frame_look {
    LOOK_PLAIN,
    LOOK_TITLE,
    LOOK_ALERT,
    LOOK_DIM,
    LOOK_RUNS,
    LOOK_CHOSEN
};

struct frame_line {
    char text[4 * FRAME_WIDTH_MOST + 1]; /* UTF-8 */
    enum frame_look look;
};

/* What was heard of the site; each owned by whoever fills it in. */
struct heard {
    json_t *site;
    json_t *now;
    char news[FRAME_NEWS][160]; /* the newest first */
    bool gone;
};

/* Takes a line of the socket in. */
void heard_take(struct heard *heard, const json_t *line);
void heard_free(struct heard *heard);

struct frame {
    struct frame_line lines[FRAME_LINES_MOST];
    int count;
    int chosen; /* the line of the chosen pump; -1: none */
};

/* Draws it, so wide, with the chosen pump marked. */
void frame_draw(struct frame *frame, const struct heard *heard, int width,
                int chosen);

/* The name of that pump, in the order of the screen; null when there is
 * none. */
const char *frame_pump(const struct heard *heard, int chosen);

#endif
