/* Cells, and the row that they make. */
#include "rows.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "cuplatch/say.h"

/* A number and its comma, or a reason's word. */
#define CELL_MOST 24

/* Where the text of a cell is among those of its row; `count` 0: none. */
struct cell {
    uint32_t at;
    uint32_t count;
};

struct cup_rows {
    const struct cup_plan *plan;
    char *head;
    struct cell *cells; /* sensors, then sources */
    size_t cell_count;
    size_t heard;
    size_t used;
    uint32_t clock_s; /* 0: as before */
    bool begun;
    char texts[CUP_ROW_MOST / 2];
    char row[CUP_ROW_MOST];
};

/* Sources come right behind sensors. */
static cup_index thing_of(const struct cup_plan *plan, size_t cell)
{
    return cell < plan->sensor_count
               ? (cup_index)cell
               : cup_source_thing(plan, (cup_index)(cell - plan->sensor_count));
}

static size_t cell_of(const struct cup_plan *plan, cup_index thing)
{
    return thing < plan->sensor_count
               ? thing
               : (size_t)plan->sensor_count + thing - cup_source_thing(plan, 0);
}

struct cup_rows *cup_rows_make(const struct cup_plan *plan)
{
    static const char first[] = "t_ms,clock_s";
    struct cup_rows *rows = calloc(1, sizeof(*rows));
    size_t count = (size_t)plan->sensor_count + plan->source_count;
    size_t size = sizeof(first) + count * (CUP_NAME_MAX + 2);
    if (!rows || !(rows->head = malloc(size)) ||
        !(rows->cells = calloc(count + 1, sizeof(*rows->cells))))
        abort();
    rows->plan = plan;
    rows->cell_count = count;
    size_t used = (size_t)snprintf(rows->head, size, "%s", first);
    for (size_t i = 0; i < count; i++)
        used += (size_t)snprintf(rows->head + used, size - used, ",%s",
                                 cup_thing_name(plan, thing_of(plan, i)));
    return rows;
}

void cup_rows_free(struct cup_rows *rows)
{
    if (!rows)
        return;
    free(rows->head);
    free(rows->cells);
    free(rows);
}

const char *cup_rows_head(const struct cup_rows *rows)
{
    return rows->head;
}

void cup_rows_clock(struct cup_rows *rows, uint32_t clock_s)
{
    rows->clock_s = clock_s;
}

/* Digits by hand: a year has hundreds of millions of these. */
static size_t put_number(char *to, int64_t value)
{
    char text[CELL_MOST];
    char *at = text + sizeof(text);
    uint64_t left = value < 0 ? 0 - (uint64_t)value : (uint64_t)value;
    do
        *--at = (char)('0' + left % 10);
    while ((left /= 10) > 0);
    if (value < 0)
        *--at = '-';
    size_t count = (size_t)(text + sizeof(text) - at);
    memcpy(to, at, count);
    return count;
}

/* Where a cell's text goes; null when it has one already, or there is no room
 * for so many bytes. */
static char *room_for(struct cup_rows *rows, size_t cell, size_t count)
{
    if (rows->cells[cell].count > 0 || rows->used + count > sizeof(rows->texts))
        return NULL;
    rows->heard++;
    rows->cells[cell].at = (uint32_t)rows->used;
    return rows->texts + rows->used;
}

static void keep(struct cup_rows *rows, size_t cell, size_t count)
{
    rows->cells[cell].count = (uint32_t)count;
    rows->used += count;
}

static size_t put_text(char *to, const char *text)
{
    size_t count = 0;
    for (; text[count]; count++)
        to[count] = text[count];
    return count;
}

bool cup_rows_sample(struct cup_rows *rows, cup_index sensor,
                     struct cup_sample sample)
{
    char *to = room_for(rows, sensor, CELL_MOST);
    if (!to)
        return false;
    size_t count;
    if (sample.reject == CUP_REASON_NONE)
        count = put_number(to, sample.raw);
    else if (sample.reject == CUP_REASON_NO_ANSWER)
        count = put_text(to, "-");
    else
        count = put_text(to, cup_reason_code(sample.reject));
    keep(rows, sensor, count);
    return true;
}

bool cup_rows_bytes(struct cup_rows *rows, cup_index thing,
                    const uint8_t *bytes, size_t count)
{
    static const char digits[] = "0123456789abcdef";
    size_t cell = cell_of(rows->plan, thing);
    char *to = room_for(rows, cell, 2 * count + 1);
    if (!to)
        return false;
    to[0] = count > 0 ? 'x' : '-';
    for (size_t i = 0; i < count; i++) {
        to[1 + 2 * i] = digits[bytes[i] >> 4];
        to[2 + 2 * i] = digits[bytes[i] & 15];
    }
    keep(rows, cell, 2 * count + 1);
    return true;
}

const char *cup_rows_end(struct cup_rows *rows, uint32_t t_ms, size_t *length)
{
    if (rows->heard == 0 && rows->begun && rows->clock_s == 0)
        return NULL;
    char *at = rows->row + put_number(rows->row, t_ms);
    *at++ = ',';
    if (rows->clock_s > 0)
        at += put_number(at, rows->clock_s);
    for (size_t i = 0; i < rows->cell_count; i++) {
        *at++ = ',';
        memcpy(at, rows->texts + rows->cells[i].at, rows->cells[i].count);
        at += rows->cells[i].count;
        rows->cells[i].count = 0;
    }
    *at = '\0';
    rows->heard = 0;
    rows->used = 0;
    rows->clock_s = 0;
    rows->begun = true;
    *length = (size_t)(at - rows->row);
    return rows->row;
}
