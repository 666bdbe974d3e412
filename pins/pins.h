/* The pins file: what the ports of a site are on this machine. A section is
 * one port ("[echo:0]") or a kind ("[relay]"), whose lists give its ports in
 * order; the first key, `through`, says how it is reached. */
#ifndef CUPLATCH_PINS_H
#define CUPLATCH_PINS_H

#include "../grammar/inifile.h"
#include "../sitefile/sitefile.h"

/* The ways to a port: name, code, what it brings in (NUMBER, BIT of
 * one line, ECHO, COUNT, BYTES, STREAM or REGISTERS, or ANY of a program), and
 * whether it can switch. */
#define PIN_WAYS(X)                                                            \
    X(GPIO, "gpio", BIT, true)                                                 \
    X(TRIGGER_ECHO, "trigger-echo", ECHO, false)                               \
    X(PULSES, "pulses", COUNT, false)                                          \
    X(IIO, "iio", NUMBER, false)                                               \
    X(W1, "w1", BYTES, false)                                                  \
    X(I2C, "i2c", BYTES, false)                                                \
    X(SERIAL, "serial", STREAM, false)                                         \
    X(MODBUS, "modbus", REGISTERS, true)                                       \
    X(BOARD, "board", NUMBER | BIT | ECHO | COUNT, true)                       \
    X(PROGRAM, "program", ANY, false)                                          \
    X(FILE, "file", NUMBER, false)

enum pin_way {
#define X(name, ...) PIN_##name,
    PIN_WAYS(X)
#undef X
        PIN_WAY_COUNT
};

/* The word of a way. */
const char *pin_way_code(enum pin_way way);

enum pin_pull { PULL_AS_IS, PULL_UP, PULL_DOWN, PULL_OFF };

#define PIN_PORT_MOST 32
/* The port of the machine's own watchdog, which no site names. */
#define PIN_WATCHDOG "watchdog:0"
#define PIN_WRITE_MOST 16
#define PIN_READ_MOST 64
/* Never: what `holds` says then. */
#define PIN_NEVER INT32_MAX

/* One port. Texts are the file's, null where not given; numbers are those of
 * the keys of the same name, -1 where not given; times are in ms. */
struct pin {
    char port[PIN_PORT_MOST];
    struct place place;
    enum pin_way way;
    const char *chip;
    const char *device;
    const char *host;
    const char *command;
    const char *path;
    char channel[32];
    char frame[4];
    int32_t line;
    int32_t trigger;
    int32_t echo;
    int32_t coil;
    int32_t pull;
    int32_t scaled;
    int32_t bus;
    int32_t address;
    int32_t unit;
    int32_t baud;
    int32_t read;
    int32_t wait_ms;
    int32_t timeout_ms;
    int32_t holds_ms;
    int32_t off_pulse_ms;
    uint8_t write[PIN_WRITE_MOST];
    uint8_t write_count;
};

/* One of which nothing is given. */
extern const struct pin pin_none;

struct pins {
    char *path;
    struct ini_file ini;
    struct problems problems;
    struct pin *list;
    size_t count;
};

/* Reads a pins file. False, with errno set, when it cannot be opened or read;
 * what is wrong with its text is among its problems. Free it with
 * pins_free(). */
bool pins_read(struct pins *pins, const char *path);
void pins_free(struct pins *pins);

/* The pin of a port; null when the file has none. */
struct pin *pins_find(const struct pins *pins, const char *port);

/* What of a site is at which pin, by the numbers of the plan: null where there
 * is none. An output has a second pin when it has two lines. Lamps of bars are
 * one after another, in the order of the file. */
struct pin_button {
    struct pin *pin;
    bool low; /* while it is closed */
};
struct pin_lamp {
    struct pin *pin;
    cup_index lamp;
    uint8_t part;
};
struct wiring {
    struct pin **sensors;
    struct pin **sources;
    struct pin *(*outputs)[2];
    struct pin **supplies;
    struct pin_button *buttons;
    struct pin_lamp *lamps;
    size_t lamp_count;
};

/* Finds the pin of each port of a site; each that is missing, is there twice
 * over, or cannot be what it is for, is a problem of the pins. Free it with
 * wiring_free(). */
void pins_join(struct pins *pins, const struct cup_file *file,
               struct wiring *wiring);
void wiring_free(struct wiring *wiring);

/* Pins of a site whose sensors are all those of one board, by the same names;
 * no output is among them. */
void pins_of_board(struct pins *pins, const struct cup_file *file,
                   const char *device, struct wiring *wiring);

#endif
