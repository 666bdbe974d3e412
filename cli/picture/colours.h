/* The colours of our pictures. Neighbours differ in lightness as well as in
 * hue, so that they are told apart without red and green, too: a test measures
 * it. */
#ifndef CUPLATCH_CLI_PICTURE_COLOURS_H
#define CUPLATCH_CLI_PICTURE_COLOURS_H

#define COLOURS 6
static const char *const colours[COLOURS] = {"#14507a", "#d9822b", "#22ab8e",
                                             "#7a1610", "#7ebbf5", "#704de3"};

#define COLOUR_RUN "#14507a"
#define COLOUR_BLOCK "#d0741e"
#define COLOUR_TROUBLE "#7a1610"
#define COLOUR_SUN "#f2d16b"
#define COLOUR_RAIN "#3d7fc4"
#define COLOUR_NIGHT "#eceaf4"

#endif
