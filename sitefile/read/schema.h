/* What a site file may say: the kinds of things, their keys, and what each
 * key takes. Reference docs and messages are made from this one list. */
#ifndef CUPLATCH_SITEFILE_SCHEMA_H
#define CUPLATCH_SITEFILE_SCHEMA_H

#include "cuplatch/reason.h"

/* How a key's value is read.
 *   TEXT      any text                     PORT    KIND:WHERE
 *   CHOICE    one of `words`               THING   the name of a thing whose
 *   COUNT     a whole number                       kind is one of `words`
 *   QUANTITY  a number with a unit         MARK    a quantity in the unit of
 *   RANGE     raw LOW..HIGH                        the thing it is about
 *   SMOOTH    median N and its kin         RETRY   TIME xN
 *   POINTS    RAW:VALUE pairs              STEADY  BAND TIME
 *   RATE      a quantity/s                 READ    holding|input FIRST COUNT
 *   TAKE      SOURCE WORD signed xSCALE    PER_DAY  TIME VOL Nstarts
 *   LATER     whatever its maker reads once the things it names are known */
enum key_type {
    KEY_TEXT,
    KEY_PORT,
    KEY_CHOICE,
    KEY_THING,
    KEY_COUNT,
    KEY_QUANTITY,
    KEY_MARK,
    KEY_RANGE,
    KEY_SMOOTH,
    KEY_RETRY,
    KEY_POINTS,
    KEY_STEADY,
    KEY_RATE,
    KEY_READ,
    KEY_TAKE,
    KEY_PER_DAY,
    KEY_LATER,
    KEY_TYPE_COUNT
};

/* `low` and `high` bound a COUNT or a QUANTITY, in the unit's steps. */
struct key {
    const char *name;
    enum key_type type;
    bool required;
    enum cup_unit unit;
    int32_t low;
    int32_t high;
    const char *const *words;
    const char *help;
};

struct kind {
    const char *name;
    const struct key *keys;
    size_t count;
    const char *help;
};

enum kind_number {
    KIND_SITE,
    KIND_SENSOR,
    KIND_TANK,
    KIND_PUMP,
    KIND_DUTY,
    KIND_SOURCE,
    KIND_DAY,
    KIND_ALERT,
    KIND_GROUP,
    KIND_BAR,
    KIND_SIGNAL,
    KIND_PANEL,
    KIND_BUTTON,
    KIND_COUNT
};

extern const struct kind cup_kinds[KIND_COUNT];

/* What a pump may be called instead: the same keys, other defaults. Ends with
 * null. */
#define PUMP_STYLES(X)                                                         \
    X(PUMP, "pump")                                                            \
    X(VALVE, "valve")                                                          \
    X(FAN, "fan")                                                              \
    X(LAMP, "lamp")                                                            \
    X(VENT, "vent")                                                            \
    X(SOUNDER, "sounder")

enum pump_style {
#define X(style, word) STYLE_##style,
    PUMP_STYLES(X)
#undef X
};
extern const char *const cup_pump_styles[];

/* What a sensor may measure, and in which unit: by the number of the word. */
#define MEASURED(X)                                                            \
    X("moisture", PERCENT)                                                     \
    X("level", PERCENT)                                                        \
    X("light", PERCENT)                                                        \
    X("humidity", PERCENT)                                                     \
    X("distance", MM)                                                          \
    X("temperature", CELSIUS)                                                  \
    X("pressure", PASCAL)                                                      \
    X("voltage", VOLT)                                                         \
    X("current", AMPERE)                                                       \
    X("flow", FLOW)                                                            \
    X("contact", CONTACT)                                                      \
    X("conductivity", CONDUCTIVITY)                                            \
    X("nutrient", NUTRIENT)
extern const enum cup_unit cup_measured_units[];

#endif
