/* Scenarios: at this time, these raw values and words, expect these outputs
 * and these events. The test owns the clock. */
#ifndef CUPLATCH_TESTS_SCENARIO_H
#define CUPLATCH_TESTS_SCENARIO_H

#include <stddef.h>

/*   at      "1h 2m 3s" since the first row; passes are made every scan
 *   raw     "soil=2900 echo=-": what sensors answer from now on; - is nothing
 *   tell    steering words, apart by commas; or, for the test itself:
 *           "!reboot": the power was cut, the journal is read back
 *           "!spoil 0 3": nobody can read these slots (0 and 1) or copies of
 *           what people chose (2 to 4)
 *           "!fail pump", "!work pump": the port cannot drive it, or can
 *           "!not pump hand 5m": a word that must be refused
 *           "?pump sentence": what ask why pump answers after the pass
 *   out     "pump=1 fan=0" after the pass; a vent's place, "vent=35.00"
 *   events  "pump start below-start, ..." since the row before; null: any */
struct row {
    const char *at;
    const char *raw;
    const char *tell;
    const char *out;
    const char *events;
};

/* A scenario by its title in a file, which is read for the lines of its rows:
 * what fails names its own. */
struct scenario {
    const char *file, *title, *text;
    const struct row *rows;
    size_t count;
};

/* Plays the rows on a site made of the text, from 0 and from just before the
 * clock wraps, and checks each. */
void scenario_play(const struct scenario *scenario);

#define SCENARIO(title, text, ...)                                             \
    CASE(title)                                                                \
    {                                                                          \
        static const struct row rows[] = {__VA_ARGS__};                        \
        scenario_play(&(struct scenario){__FILE__, #title, text, rows,         \
                                         sizeof(rows) / sizeof(rows[0])});     \
    }

#endif
