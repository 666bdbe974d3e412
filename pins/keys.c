/* The table of keys, and how each is read. */
#include "keys.h"

#include <string.h>

#include "../grammar/quantity.h"

#define ON(way) (1u << PIN_##way)
#define TAKES(name, type, needed, may, field, low, high)                       \
    {                                                                          \
        name, type, needed, may, offsetof(struct pin, field), low, high, NULL  \
    }
#define CHOOSES(name, may, field, words)                                       \
    {                                                                          \
        name, PIN_KEY_WORD, 0, may, offsetof(struct pin, field), 0, 0, words   \
    }

static const char *const pulls[] = {"as-is", "up", "down", "off", NULL};
static const char *const yes_no[] = {"no", "yes", NULL};

#define LINES_MOST 1023
#define MINUTE_MS 60000

const struct pin_key pin_keys[] = {
    TAKES("chip", PIN_KEY_TEXT, ON(GPIO) | ON(TRIGGER_ECHO) | ON(PULSES), 0,
          chip, 0, 0),
    TAKES("lines", PIN_KEY_COUNTS, ON(GPIO), 0, line, 0, LINES_MOST),
    CHOOSES("pull", ON(GPIO) | ON(PULSES), pull, pulls),
    TAKES("trigger", PIN_KEY_COUNT, ON(TRIGGER_ECHO), 0, trigger, 0,
          LINES_MOST),
    TAKES("echo", PIN_KEY_COUNT, ON(TRIGGER_ECHO), 0, echo, 0, LINES_MOST),
    TAKES("timeout", PIN_KEY_TIME, 0,
          ON(TRIGGER_ECHO) | ON(SERIAL) | ON(MODBUS) | ON(BOARD) | ON(PROGRAM) |
              ON(I2C) | ON(IIO) | ON(W1) | ON(FILE),
          timeout_ms, 5, MINUTE_MS),
    TAKES("line", PIN_KEY_COUNT, ON(PULSES), 0, line, 0, LINES_MOST),
    TAKES("device", PIN_KEY_TEXT, ON(IIO) | ON(W1) | ON(SERIAL) | ON(BOARD),
          ON(MODBUS), device, 0, 0),
    TAKES("things", PIN_KEY_TEXTS, ON(BOARD), 0, channel, 0, 0),
    TAKES("channels", PIN_KEY_TEXTS, ON(IIO), 0, channel, 0, 0),
    CHOOSES("scaled", ON(IIO), scaled, yes_no),
    TAKES("bus", PIN_KEY_COUNT, ON(I2C), 0, bus, 0, 255),
    TAKES("address", PIN_KEY_COUNT, ON(I2C), 0, address, 3, 119),
    TAKES("write", PIN_KEY_HEX, 0, ON(I2C), write, 0, 0),
    TAKES("read", PIN_KEY_COUNT, ON(I2C), 0, read, 1, PIN_READ_MOST),
    TAKES("wait", PIN_KEY_TIME, 0, ON(I2C), wait_ms, 0, MINUTE_MS),
    TAKES("baud", PIN_KEY_COUNT, 0, ON(SERIAL) | ON(MODBUS) | ON(BOARD), baud,
          300, 921600),
    TAKES("frame", PIN_KEY_FRAME, 0, ON(SERIAL) | ON(MODBUS), frame, 0, 0),
    TAKES("host", PIN_KEY_TEXT, 0, ON(MODBUS), host, 0, 0),
    TAKES("unit", PIN_KEY_COUNT, 0, ON(MODBUS), unit, 1, 247),
    TAKES("coils", PIN_KEY_COUNTS, 0, ON(MODBUS), coil, 0, 65535),
    TAKES("holds", PIN_KEY_HOLDS, 0, ON(MODBUS) | ON(BOARD), holds_ms, 1000,
          600000),
    TAKES("off_pulse", PIN_KEY_TIME, 0, ON(GPIO), off_pulse_ms, 10, 5000),
    TAKES("command", PIN_KEY_TEXT, ON(PROGRAM), 0, command, 0, 0),
    TAKES("path", PIN_KEY_TEXT, ON(FILE), 0, path, 0, 0),
};
const size_t pin_key_count = sizeof(pin_keys) / sizeof(pin_keys[0]);

const struct pin_key *pin_key_of(enum pin_way way, const char *name)
{
    for (size_t i = 0; i < pin_key_count; i++)
        if (strcmp(pin_keys[i].name, name) == 0 &&
            ((pin_keys[i].needed | pin_keys[i].may) >> way & 1u))
            return &pin_keys[i];
    return NULL;
}

static char expected[160];

/* Text that goes into a field of a fixed size, whole. */
static const char *take_short(const char *text, char *to, size_t size)
{
    if (strlen(text) >= size) {
        snprintf(expected, sizeof(expected), "longer than %zu letters",
                 size - 1);
        return expected;
    }
    memcpy(to, text, strlen(text) + 1);
    return NULL;
}

static const char *take_word(const struct pin_key *key, const char *text,
                             int32_t *to)
{
    char list[80];
    for (int32_t i = 0; key->words[i]; i++)
        if (strcmp(key->words[i], text) == 0) {
            *to = i;
            return NULL;
        }
    words_list(list, sizeof(list), key->words);
    snprintf(expected, sizeof(expected), "expected %s", list);
    return expected;
}

static const char *take_time(const struct pin_key *key, const char *text,
                             int32_t *to)
{
    const char *wrong = quantity_read(text, CUP_UNIT_SECOND, to);
    if (wrong)
        return wrong;
    if (*to >= key->low && *to <= key->high)
        return NULL;
    snprintf(expected, sizeof(expected), "expected %dms to %ds", (int)key->low,
             (int)(key->high / 1000));
    return expected;
}

static int hex_of(char letter)
{
    static const char digits[] = "0123456789abcdef";
    const char *at = letter ? strchr(digits, letter | 0x20) : NULL;
    return at ? (int)(at - digits) : -1;
}

static const char *take_hex(const char *text, struct pin *pin)
{
    pin->write_count = 0;
    for (const char *at = text; *at; at++) {
        if (*at == ' ')
            continue;
        int high = hex_of(at[0]);
        int low = high < 0 ? -1 : hex_of(at[1]);
        if (low < 0)
            return "expected bytes of two hex digits, such as a3 5c";
        if (pin->write_count == PIN_WRITE_MOST)
            return "expected at most 16 bytes";
        pin->write[pin->write_count++] = (uint8_t)(high << 4 | low);
        at++;
    }
    return pin->write_count ? NULL
                            : "expected bytes of two hex digits, such as a3 5c";
}

static const char *take_frame(const char *text, char *to)
{
    if (strlen(text) == 3 && (text[0] == '7' || text[0] == '8') &&
        strchr("NEO", text[1]) && (text[2] == '1' || text[2] == '2'))
        return take_short(text, to, 4);
    return "expected data bits, parity and stop bits: 8N1, 8E1, 8O1, 7E1, 8N2";
}

const char *pin_key_take(const struct pin_key *key, const char *text,
                         struct pin *pin)
{
    void *to = (char *)pin + key->at;
    switch (key->type) {
    case PIN_KEY_TEXT:
        *(const char **)to = text;
        return *text ? NULL : "expected a value behind the =";
    case PIN_KEY_WORD:
        return take_word(key, text, to);
    case PIN_KEY_TIME:
        return take_time(key, text, to);
    case PIN_KEY_HOLDS:
        if (strcmp(text, "never") == 0) {
            *(int32_t *)to = PIN_NEVER;
            return NULL;
        }
        return take_time(key, text, to);
    case PIN_KEY_HEX:
        return take_hex(text, pin);
    case PIN_KEY_FRAME:
        return take_frame(text, to);
    case PIN_KEY_TEXTS:
        return take_short(text, to, sizeof(pin->channel));
    default:
        return quantity_read_whole(text, key->low, key->high, to);
    }
}
