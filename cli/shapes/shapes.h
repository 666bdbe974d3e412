/* The first site files that `begin` writes: each whole, each with its garden.
 * What a line's comment calls "measure" a person is asked for. The texts come
 * from shapes/, at build time. */
#ifndef CUPLATCH_CLI_SHAPES_SHAPES_H
#define CUPLATCH_CLI_SHAPES_SHAPES_H

#define SHAPES(X)                                                              \
    X(pot, "one pot or bed, watered from a can")                               \
    X(beds, "two beds from a tank, a valve each")                              \
    X(tray, "a tray that is flooded by day and drains back")                   \
    X(well, "a tank that is filled from a well")                               \
    X(line, "a line that is kept under pressure")                              \
    X(tunnel, "a covered bed with a vent and a fan")

#define SHAPE_TEXTS(name, help)                                                \
    extern const char shape_##name##_site[];                                   \
    extern const char shape_##name##_garden[];
SHAPES(SHAPE_TEXTS)

#endif
