/* A panel of two lines and four inputs, which a port makes of a knob or of
 * buttons. `next` pages through readings, outputs and settings in the order of
 * the plan, and what stands in alerts. On a setting `less` and `more` change
 * it; on an output they choose auto, off, hand or clear; `keep` takes either,
 * and without that it lapses to what it was. On an output `keep` alone reads
 * why it is so, on alerts what they are, two lines at a time. The back-light
 * goes out by itself; an input in the dark only lights it, and shows what
 * stands.
 *
 * In use:
 *
 *     struct cup_panel panel = {0};
 *     char top[CUP_PANEL_SIZE], below[CUP_PANEL_SIZE];
 *     cup_panel_press(&panel, site, now_ms, CUP_INPUT_NEXT);
 *     bool light = cup_panel_show(&panel, site, now_ms, top, below); */
#ifndef CUPLATCH_PANEL_H
#define CUPLATCH_PANEL_H

#include "say.h"

CUP_C_BEGINS

#define CUP_INPUTS(X)                                                          \
    X(NEXT, "next")                                                            \
    X(LESS, "less")                                                            \
    X(MORE, "more")                                                            \
    X(KEEP, "keep")

enum cup_input {
#define X(name, code) CUP_INPUT_##name,
    CUP_INPUTS(X)
#undef X
        CUP_INPUT_COUNT
};

/* A line of the widest panel, with its zero. */
#define CUP_PANEL_MOST 20
#define CUP_PANEL_SIZE (CUP_PANEL_MOST + 1)

/* All zero is the first page, in the dark. */
struct cup_panel {
    uint32_t touched_ms;
    int32_t draft; /* a setting that is being changed, or a word chosen */
    uint16_t page;
    uint16_t part; /* of a text that is being read: which two lines */
    uint8_t flags;
    uint8_t refused; /* the enum cup_error of a keep that was */
};

/* Takes one input. */
void cup_panel_press(struct cup_panel *panel, const struct cup_site *site,
                     uint32_t now_ms, enum cup_input input);

/* Writes the two lines, padded with spaces to the plan's panel_width (at most
 * CUP_PANEL_MOST). Returns whether the back-light is on. */
bool cup_panel_show(struct cup_panel *panel, const struct cup_site *site,
                    uint32_t now_ms, char top[CUP_PANEL_SIZE],
                    char below[CUP_PANEL_SIZE]);

/* The input of a word; CUP_INPUT_COUNT when it is none. */
enum cup_input cup_read_input(const char *word);

CUP_C_ENDS

#endif
