/* Plays a recorded raw log through a site, row by row. */
#include "log.h"

#include <errno.h>
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/text.h"
#include "cuplatch/say.h"

/* The longest bytes of a cell: those of a source with most registers. */
#define BYTES_MOST 520

/* One cell of a row: whether it was sampled, and what came. */
struct cell {
    struct cup_sample sample;
    uint8_t *bytes; /* null but for a thing that may answer with some */
    size_t count;
    bool sampled;
};

/* In the place of a thing's number: a column of the clock. */
#define CLOCK CUP_NONE

struct cup_log {
    const struct cup_plan *plan;
    const char *path;
    FILE *in;
    char *text;
    size_t size;
    const char *between; /* what parts its cells: "," or ";" */
    size_t line;
    size_t rows;
    uint64_t span_ms;
    uint32_t t_ms;
    uint32_t clock_s; /* to be set at this row; 0: none */
    bool has_clock;
    bool own_clock; /* the log's own does not count */
    const struct cup_onlooker *watch;
    cup_index *columns; /* the thing of each column after t_ms, or CLOCK */
    struct cell *cells;
    size_t count;
    char wrong[200];
};

static bool fail(struct cup_log *log, const char *message, const char *text)
{
    char known[61];
    snprintf(log->wrong, sizeof(log->wrong), "%s:%zu: %s: %s", log->path,
             log->line, text_cut(known, sizeof(known), text), message);
    return false;
}

/* The next line without its end; false when there is none. */
static bool next_line(struct cup_log *log)
{
    ssize_t length = getline(&log->text, &log->size, log->in);
    log->line++;
    if (length < 0 && ferror(log->in))
        return fail(log, strerror(errno), "cannot be read");
    if (length < 0)
        return false;
    if (strlen(log->text) != (size_t)length)
        return fail(log, "there is a zero byte behind this", log->text);
    while (length > 0 && strchr("\r\n", log->text[length - 1]))
        log->text[--length] = '\0';
    return true;
}

/* Cuts the next cell off the line, without the blanks around it. */
static char *next_cell(const struct cup_log *log, char **rest)
{
    char *cell = *rest;
    if (!cell)
        return NULL;
    size_t length = strcspn(cell, log->between);
    *rest = cell[length] ? cell + length + 1 : NULL;
    while (length > 0 && strchr(" \t", cell[length - 1]))
        length--;
    cell[length] = '\0';
    return cell + strspn(cell, " \t");
}

/* The sensor or source of a name; CLOCK when it is neither. */
static cup_index find_thing(const struct cup_plan *plan, const char *name)
{
    for (cup_index i = 0; i < plan->sensor_count; i++)
        if (strcmp(plan->names[i], name) == 0)
            return i;
    for (cup_index i = 0; i < plan->source_count; i++)
        if (strcmp(plan->names[cup_source_thing(plan, i)], name) == 0)
            return cup_source_thing(plan, i);
    return CLOCK;
}

static bool has_bytes(const struct cup_plan *plan, cup_index thing)
{
    return thing >= plan->sensor_count ||
           cup_form_is_bytes(plan->sensors[thing].form);
}

static bool read_column(struct cup_log *log, const char *name)
{
    cup_index thing = find_thing(log->plan, name);
    if (thing == CLOCK && strcmp(name, "clock_s") != 0)
        return fail(log, "the site has no sensor of this name", name);
    for (size_t i = 0; i < log->count; i++)
        if (log->columns[i] == thing)
            return fail(log, "this sensor has a column already", name);
    struct cell *cell = &log->cells[log->count];
    if (thing == CLOCK)
        log->has_clock = true;
    else if (has_bytes(log->plan, thing) && !(cell->bytes = malloc(BYTES_MOST)))
        abort();
    log->columns[log->count++] = thing;
    return true;
}

static bool read_header(struct cup_log *log)
{
    if (!next_line(log))
        return *log->wrong
                   ? false
                   : fail(log, "expected a header: t_ms and sensor names",
                          "empty file");
    char *rest = log->text;
    rest += text_mark(rest);
    log->between = strchr(rest, ',') || !strchr(rest, ';') ? "," : ";";
    char *cell = next_cell(log, &rest);
    if (strcmp(cell, "t_ms") != 0)
        return fail(log,
                    "expected a header: t_ms, then names of sensors, with a "
                    "comma between two",
                    cell);
    while ((cell = next_cell(log, &rest)))
        if (!read_column(log, cell))
            return false;
    return true;
}

static bool read_number(const char *text, int64_t low, int64_t high,
                        int64_t *number)
{
    char *end;
    errno = 0;
    *number = strtoll(text, &end, 10);
    return end != text && *end == '\0' && !errno && *number >= low &&
           *number <= high;
}

/* A dash, or the code of a reason to reject a sample; NONE when it is
 * neither. */
static uint8_t reject_of(const char *text)
{
    if (strcmp(text, "-") == 0)
        return CUP_REASON_NO_ANSWER;
    for (uint8_t i = 1; i <= CUP_REJECTS; i++)
        if (strcmp(text, cup_reason_code(i)) == 0)
            return i;
    return CUP_REASON_NONE;
}

static int digit_of(char letter)
{
    static const char digits[] = "0123456789abcdef";
    const char *at = letter ? strchr(digits, letter) : NULL;
    return at ? (int)(at - digits) : -1;
}

/* Pairs of hex digits up to the end; false when they are none. */
static bool read_bytes(struct cell *cell, const char *text)
{
    cell->count = 0;
    for (; *text; text += 2) {
        int high = digit_of(text[0]);
        int low = high < 0 ? -1 : digit_of(text[1]);
        if (low < 0 || cell->count == BYTES_MOST)
            return false;
        cell->bytes[cell->count++] = (uint8_t)(high << 4 | low);
    }
    return cell->count > 0;
}

static bool read_clock(struct cup_log *log, const char *text)
{
    int64_t clock_s = 0;
    if (*text && !read_number(text, 1, UINT32_MAX, &clock_s))
        return fail(log, "expected a time in s since 1970 began, or nothing",
                    text);
    if (!log->own_clock && *text)
        log->clock_s = (uint32_t)clock_s;
    return true;
}

static bool read_cell(struct cup_log *log, struct cell *cell, const char *text)
{
    int64_t raw;
    cell->sample = (struct cup_sample){.reject = CUP_REASON_NONE};
    cell->count = 0;
    cell->sampled = *text != '\0';
    if (!cell->sampled)
        return true;
    if (cell->bytes && *text == 'x' && read_bytes(cell, text + 1))
        return true;
    cell->sample.reject = reject_of(text);
    if (cell->sample.reject != CUP_REASON_NONE)
        return true;
    if (!read_number(text, INT32_MIN, INT32_MAX, &raw))
        return fail(log,
                    cell->bytes ? "expected bytes such as x0a2f, a raw value, "
                                  "- for no answer, or nothing"
                                : "expected a raw value, - for no answer, a "
                                  "reason such as bad-frame, or nothing",
                    text);
    cell->sample.raw = (int32_t)raw;
    return true;
}

static bool read_row(struct cup_log *log, uint32_t *t_ms)
{
    int64_t time;
    char *rest = log->text;
    char *text = next_cell(log, &rest);
    if (!read_number(text, 0, UINT32_MAX, &time))
        return fail(log, "expected a time from 0 to 4294967295 ms", text);
    *t_ms = (uint32_t)time;
    for (size_t i = 0; i < log->count; i++) {
        text = next_cell(log, &rest);
        if (!text)
            return fail(log, "the row has fewer cells than the header",
                        log->text);
        if (log->columns[i] == CLOCK ? !read_clock(log, text)
                                     : !read_cell(log, &log->cells[i], text))
            return false;
    }
    return rest ? fail(log, "the row has more cells than the header", rest)
                : true;
}

struct cup_log *cup_log_open(const char *path, const struct cup_plan *plan,
                             char *wrong, size_t size)
{
    struct cup_log *log = calloc(1, sizeof(*log));
    if (!log)
        abort();
    log->plan = plan;
    log->path = path;
    size_t most = plan->sensor_count + plan->source_count + 2u;
    log->columns = calloc(most, sizeof(*log->columns));
    log->cells = calloc(most, sizeof(*log->cells));
    log->in = fopen(path, "r");
    if (!log->columns || !log->cells)
        abort();
    if (!log->in)
        snprintf(wrong, size, "%s: %s", path, strerror(errno));
    else if (!read_header(log))
        snprintf(wrong, size, "%s", log->wrong);
    else
        return log;
    cup_log_close(log);
    return NULL;
}

void cup_log_close(struct cup_log *log)
{
    if (!log)
        return;
    if (log->in)
        fclose(log->in);
    for (size_t i = 0; log->cells && i < log->count; i++)
        free(log->cells[i].bytes);
    free(log->text);
    free(log->columns);
    free(log->cells);
    free(log);
}

/* Passes between two rows, as a running controller would have made. */
static void fill_in(struct cup_log *log, const struct cup_site *site,
                    uint32_t to_ms, const struct cup_sink *sink)
{
    uint32_t gap = to_ms - log->t_ms;
    if (log->rows == 0 || gap >= CUP_TIME_BACK)
        return;
    log->span_ms += gap;
    uint32_t scan = log->plan->scan_ms;
    uint32_t next = scan;
    for (uint32_t gone = 0; gone < gap;) {
        uint32_t ends = cup_site_ends(site);
        gone = ends < next - gone ? gone + ends : next;
        if (gone == next)
            next += scan;
        if (gone < gap)
            cup_site_decide(site, log->t_ms + gone, sink);
    }
}

/* For who looks on: the value of bytes is known once they are decoded. */
static void show(const struct cup_log *log, cup_index thing,
                 struct cup_sample sample)
{
    const struct cup_plan *plan = log->plan;
    if (!log->watch)
        return;
    if (thing < plan->sensor_count) {
        log->watch->sensors[thing] = (struct cup_seen){sample, true};
        return;
    }
    cup_index source = (cup_index)(thing - cup_source_thing(plan, 0));
    for (cup_index i = plan->sources[source].sensor; i != CUP_NONE;
         i = plan->sensors[i].sibling)
        log->watch->sensors[i] = (struct cup_seen){sample, true};
}

static void hear(struct cup_log *log, const struct cup_site *site,
                 uint32_t t_ms, size_t i)
{
    const struct cell *cell = &log->cells[i];
    cup_index thing = log->columns[i];
    if (thing >= log->plan->sensor_count)
        cup_site_answer(site,
                        (cup_index)(thing - cup_source_thing(log->plan, 0)),
                        t_ms, cell->bytes, cell->count);
    else if (cell->count > 0)
        cup_site_hear_bytes(site, thing, t_ms, cell->bytes, cell->count);
    else
        cup_site_hear(site, thing, t_ms, cell->sample);
    show(log, thing, cell->sample);
}

void cup_log_clock(struct cup_log *log, uint32_t clock_s)
{
    log->clock_s = clock_s;
    log->own_clock = clock_s != 0;
}

bool cup_log_has_clock(const struct cup_log *log)
{
    return log->has_clock;
}

/* A word of the plan's own site is not refused but for a clock before 2020. */
static bool set_clock(struct cup_log *log, const struct cup_site *site,
                      uint32_t t_ms)
{
    struct cup_word clock = {.verb = CUP_VERB_CLOCK, .number = log->clock_s};
    log->clock_s = 0;
    if (clock.number == 0 || cup_site_steer(site, t_ms, &clock) == CUP_OK)
        return true;
    return fail(log, "the clock cannot be set to what this says",
                "a time before 2020");
}

void cup_log_watch(struct cup_log *log, const struct cup_onlooker *watch)
{
    log->watch = watch;
}

bool cup_log_play(struct cup_log *log, const struct cup_site *site,
                  const struct cup_sink *sink)
{
    uint32_t t_ms = 0;
    do {
        if (!next_line(log))
            return false;
    } while (*log->text == '\0');
    if (!read_row(log, &t_ms))
        return false;
    fill_in(log, site, t_ms, sink);
    if (!set_clock(log, site, t_ms))
        return false;
    for (size_t i = 0; i < log->count; i++)
        if (log->cells[i].sampled)
            hear(log, site, t_ms, i);
    cup_site_decide(site, t_ms, sink);
    if (log->watch)
        log->watch->passed(log->watch->self, t_ms);
    log->t_ms = t_ms;
    log->rows++;
    return true;
}

const char *cup_log_wrong(const struct cup_log *log)
{
    return *log->wrong ? log->wrong : NULL;
}

size_t cup_log_rows(const struct cup_log *log)
{
    return log->rows;
}

uint64_t cup_log_span_ms(const struct cup_log *log)
{
    return log->span_ms;
}
