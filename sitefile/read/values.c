/* Reads the value of a key by its type, and finds the things it names. */
#include "values.h"

#include <stdlib.h>
#include <string.h>

#include "../../grammar/quantity.h"
#include "cuplatch/decode.h"
#include "cuplatch/say.h"
#include "cuplatch/window.h"
#include "find.h"

/* One reader for each type of key */

static void read_text(struct reading *reading)
{
    if (*reading->value->text == '\0')
        problem_error(reading->problems, reading->value->place,
                      "there is nothing after =; expected %s",
                      reading->key->help);
}

static void read_port(struct reading *reading)
{
    const char *colon = strchr(reading->value->text, ':');
    if (!colon || colon == reading->value->text || colon[1] == '\0')
        problem_error(reading->problems, reading->value->place,
                      "expected KIND:WHERE, such as adc:0 or relay:1");
}

static void read_choice(struct reading *reading)
{
    char words[160];
    char message[200];
    const char *const *word = reading->key->words;
    for (int32_t i = 0; word[i]; i++)
        if (strcmp(word[i], reading->value->text) == 0) {
            reading->value->number = i;
            return;
        }
    words_list(words, sizeof(words), word);
    snprintf(message, sizeof(message), "expected %s", words);
    problem_word(reading->problems, reading->value->place, message,
                 nearest_word(reading->value->text, word));
}

static void read_thing(struct reading *reading)
{
    const struct thing *found =
        things_find(reading->things, reading->problems, reading->value->place,
                    reading->value->text, reading->key->words);
    if (found)
        reading->value->number = (int32_t)(found - reading->things->list);
}

static void report(struct reading *reading, const char *wrong)
{
    if (wrong)
        problem_error(reading->problems, reading->value->place, "%s", wrong);
}

static void read_count(struct reading *reading)
{
    report(reading,
           quantity_read_whole(reading->value->text, reading->key->low,
                               reading->key->high, &reading->value->number));
}

static void read_quantity(struct reading *reading)
{
    char low[24];
    char high[24];
    const struct key *key = reading->key;
    struct value *value = reading->value;
    const char *wrong = quantity_read(value->text, key->unit, &value->number);
    report(reading, wrong);
    if (wrong || (value->number >= key->low && value->number <= key->high))
        return;
    cup_say_value(low, sizeof(low), NULL, key->low, (uint8_t)key->unit);
    cup_say_value(high, sizeof(high), NULL, key->high, (uint8_t)key->unit);
    problem_error(reading->problems, value->place, "expected %s to %s", low,
                  high);
}

/* Read whole once the unit is known, in plan.c. */
static void read_later(struct reading *reading)
{
    read_text(reading);
}

static void read_read(struct reading *reading)
{
    struct value *value = reading->value;
    char what[8] = "";
    int first = -1;
    int count = 0;
    int used = 0;
    sscanf(value->text, "%7s %d %d%n", what, &first, &count, &used);
    bool holding = strcmp(what, "holding") == 0;
    bool right = (holding || strcmp(what, "input") == 0) && first >= 0 &&
                 count >= 1 && count <= CUP_MODBUS_REGISTERS &&
                 first + count <= 65536 && value->text[used] == '\0';
    if (!right)
        problem_error(reading->problems, value->place,
                      "expected holding or input, the first register and how "
                      "many (1 to %d), such as holding 0 7",
                      CUP_MODBUS_REGISTERS);
    value->number = !holding;
    value->second = first;
    value->third = count;
}

/* "x0.1" in millionths; 0 when it is none. */
static int32_t read_scale(const char *text)
{
    char *end = NULL;
    double scale = *text == 'x' ? strtod(text + 1, &end) : 0;
    if (!end || *end || scale <= 0 || scale > 1000)
        return 0;
    return (int32_t)(scale * 1e6 + 0.5);
}

/* Finds a name that is only a part of the value. */
static void find_part(struct reading *reading, const char *name,
                      const char *kind)
{
    const struct thing *found =
        things_find(reading->things, reading->problems, reading->value->place,
                    name, (const char *const[]){kind, NULL});
    if (found)
        reading->value->number = (int32_t)(found - reading->things->list);
}

static void read_take(struct reading *reading)
{
    struct value *value = reading->value;
    char name[32] = "";
    char one[16] = "";
    char two[16] = "";
    int words = sscanf(value->text, "%31s %d %15s %15s", name, &value->second,
                       one, two);
    value->minus = strcmp(one, "signed") == 0;
    const char *scale = value->minus ? two : one;
    value->third = *scale ? read_scale(scale) : 1000000;
    if (words < 2 || value->third == 0 || value->second < 0) {
        problem_error(reading->problems, value->place,
                      "expected SOURCE WORD, then signed and xSCALE where "
                      "needed, such as soil_bus 2 signed x0.1");
        return;
    }
    find_part(reading, name, "source");
}

static void read_range(struct reading *reading)
{
    struct value *value = reading->value;
    char *end;
    long low = strtol(value->text, &end, 10);
    long high = low;
    bool right = end != value->text && strncmp(end, "..", 2) == 0;
    if (right) {
        const char *second = end + 2;
        high = strtol(second, &end, 10);
        right = end != second && *end == '\0';
    }
    if (!right || low >= high || low < -32768 || high > 65535)
        problem_error(reading->problems, value->place,
                      "expected raw LOW..HIGH, such as 300..3800");
    value->number = (int32_t)low;
    value->second = (int32_t)high;
}

/* "median 5" into window and trim; false when it is none of ours. */
static bool parse_smooth(const char *text, int32_t *size, int32_t *trim)
{
    int used = 0;
    int n = 0;
    int k = 0;
    if (sscanf(text, "median %d%n", &n, &used) == 1)
        k = (n - 1) / 2;
    else if (sscanf(text, "mean %d%n", &n, &used) == 1)
        k = 0;
    else if (sscanf(text, "trimmed %d %d%n", &n, &k, &used) != 2)
        return false;
    *size = n;
    *trim = k;
    return text[used] == '\0' && n >= 1 && n <= CUP_WINDOW_MAX && n % 2 == 1 &&
           k >= 0 && k <= (n - 1) / 2;
}

static void read_smooth(struct reading *reading)
{
    struct value *value = reading->value;
    if (!parse_smooth(value->text, &value->number, &value->second))
        problem_error(reading->problems, value->place,
                      "expected median N, mean N or trimmed N K; N odd from "
                      "1 to 31, K below half of N");
}

static void read_retry(struct reading *reading)
{
    struct value *value = reading->value;
    char pause[32];
    int tries = 0;
    int used = 0;
    if (sscanf(value->text, "%31s x%d%n", pause, &tries, &used) != 2 ||
        value->text[used] != '\0' || tries < 1 || tries > 200) {
        problem_error(reading->problems, value->place,
                      "expected TIME xN, such as 10m x3");
        return;
    }
    report(reading, quantity_read(pause, CUP_UNIT_SECOND, &value->number));
    value->second = tries;
}

static void (*const readers[])(struct reading *) = {
    [KEY_TEXT] = read_text,     [KEY_PORT] = read_port,
    [KEY_CHOICE] = read_choice, [KEY_THING] = read_thing,
    [KEY_COUNT] = read_count,   [KEY_QUANTITY] = read_quantity,
    [KEY_MARK] = read_later,    [KEY_RANGE] = read_range,
    [KEY_SMOOTH] = read_smooth, [KEY_RETRY] = read_retry,
    [KEY_POINTS] = read_later,  [KEY_STEADY] = read_later,
    [KEY_RATE] = read_later,    [KEY_READ] = read_read,
    [KEY_TAKE] = read_take,     [KEY_PER_DAY] = read_later,
    [KEY_LATER] = read_later,
};
_Static_assert(sizeof(readers) / sizeof(readers[0]) == KEY_TYPE_COUNT,
               "one reader a type");

void value_read(struct reading *reading)
{
    readers[reading->key->type](reading);
}
