/* Takes samples and works out what they come to. */
#include "samples.h"

#include <ctype.h>
#include <errno.h>
#include <jansson.h>
#include <math.h>
#include <stdlib.h>
#include <string.h>

#define BETWEEN ", \t\r\n"

/* Numbers apart by commas or blanks; false at anything else. */
static bool read_samples(struct end *end, const char *text)
{
    for (text += strspn(text, BETWEEN); *text; text += strspn(text, BETWEEN)) {
        char *rest;
        size_t length = strcspn(text, BETWEEN);
        long raw = strtol(text, &rest, 10);
        if (rest != text + length || end->count == SAMPLES_MOST) {
            snprintf(end->wrong, sizeof(end->wrong), "%.*s", (int)length, text);
            return false;
        }
        end->samples[end->count++] = (double)raw;
        text = rest;
    }
    return true;
}

static bool ask_typed(struct sampling *sampling, struct end *end)
{
    fprintf(stderr,
            "%s: put the sensor there and type %zu or more raw values, an "
            "empty line ends:\n",
            end->name, sampling->wanted);
    while (end->count == 0 || end->count < sampling->wanted) {
        if (reader_next(&sampling->in) != READER_LINE)
            return false;
        if (*sampling->in.text == '\0')
            return true;
        if (!read_samples(end, sampling->in.text))
            fprintf(stderr,
                    "\"%s\" is not a whole number; what was before it counts\n",
                    end->wrong);
        *end->wrong = '\0';
    }
    return true;
}

static bool take_line(struct end *end, const char *name, const char *line)
{
    json_t *json = json_loads(line, 0, NULL);
    json_t *raw = json_object_get(json_object_get(json, "raw"), name);
    bool given = json_is_integer(raw);
    if (given && end->count < SAMPLES_MOST)
        end->samples[end->count++] = (double)json_integer_value(raw);
    json_decref(json);
    return given;
}

/* A line of the stream; one that is too long is passed over. */
static bool next_line(struct sampling *sampling)
{
    enum reader_got got;
    do {
        got = reader_next(&sampling->in);
    } while (got == READER_TOO_LONG);
    if (got == READER_FAILED)
        fprintf(stderr, "\ncuplatch: standard input: %s\n", strerror(errno));
    return got == READER_LINE;
}

/* What a person types: among the samples, or beside the stream of them. */
static bool next_answer(struct sampling *sampling, char *answer, size_t size)
{
    if (!sampling->answers)
        return false;
    if (sampling->lines)
        return fgets(answer, (int)size, sampling->answers);
    if (reader_next(&sampling->in) != READER_LINE)
        return false;
    snprintf(answer, size, "%s", sampling->in.text);
    return true;
}

static bool ask_lines(struct sampling *sampling, struct end *end)
{
    char line[80];
    if (sampling->answers) {
        fprintf(stderr,
                "%s: put the sensor there, then press Enter: ", end->name);
        if (!next_answer(sampling, line, sizeof(line)))
            return false;
        reader_drop(&sampling->in);
    }
    while (end->count < sampling->wanted && next_line(sampling))
        if (take_line(end, sampling->sensor, sampling->in.text))
            fprintf(stderr, "\r%zu of %zu ", end->count, sampling->wanted);
    fputc('\n', stderr);
    return end->count == sampling->wanted;
}

static void measure_end(struct end *end)
{
    double sum = 0;
    double square = 0;
    end->low = end->high = end->samples[0];
    for (size_t i = 0; i < end->count; i++) {
        sum += end->samples[i];
        end->low = fmin(end->low, end->samples[i]);
        end->high = fmax(end->high, end->samples[i]);
    }
    end->mean = sum / (double)end->count;
    for (size_t i = 0; i < end->count; i++)
        square += pow(end->samples[i] - end->mean, 2);
    if (end->count > 1)
        end->noise = sqrt(square / (double)(end->count - 1));
}

bool samples_take(struct sampling *sampling, struct end *end)
{
    bool right;
    if (end->given)
        right = read_samples(end, end->given);
    else if (sampling->lines)
        right = ask_lines(sampling, end);
    else
        right = ask_typed(sampling, end);
    if (!right || end->count < SAMPLES_LEAST)
        return false;
    measure_end(end);
    return true;
}

bool samples_ask_value(struct sampling *sampling, struct end *end,
                       const char *example)
{
    char line[80];
    if (!sampling->answers)
        return false;
    fprintf(stderr, "%s: its known value, such as %s: ", end->name, example);
    if (!next_answer(sampling, line, sizeof(line)))
        return false;
    size_t start = strspn(line, " \t");
    snprintf(end->value, sizeof(end->value), "%.*s",
             (int)strcspn(line + start, " \t\r\n"), line + start);
    return true;
}

bool samples_agreed(struct sampling *sampling, const char *question)
{
    char line[20];
    if (!sampling->answers)
        return false;
    fprintf(stderr, "%s [y/N] ", question);
    return next_answer(sampling, line, sizeof(line)) &&
           (*line == 'y' || *line == 'Y');
}
