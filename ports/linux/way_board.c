/* A board of ours at its serial line: its console is asked for raw values, and
 * told by words what to switch, for a while at a time. */
#include <ctype.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "clock.h"
#include "serial.h"
#include "ways.h"

#define BOARD_BAUD 38400
#define THINGS_MOST 255
/* A board looks for a minute; it may have begun anew since. */
#define LOOK_AGAIN_MS 20000
/* A value is as old as this at the most. */
#define FRESH_MS 1500

/* What was told last of a thing of the board. */
struct told {
    char name[32];
    int32_t raw;
    bool answered;
    bool fresh;
    int64_t at_ms;
};

struct board {
    char line[100];
    size_t used;
    bool done; /* a word was taken */
    int64_t asked_ms;
    struct told told[THINGS_MOST];
    size_t count;
};

static struct told *thing_of(struct board *board, const char *name)
{
    for (size_t i = 0; i < board->count; i++)
        if (strcmp(board->told[i].name, name) == 0)
            return &board->told[i];
    if (board->count == THINGS_MOST)
        return NULL;
    struct told *told = &board->told[board->count++];
    *told = (struct told){.fresh = false};
    snprintf(told->name, sizeof(told->name), "%s", name);
    return told;
}

/* "look NAME RAW"; a dash in the place of a number is no answer. */
static void take_sample(struct board *board, const char *text)
{
    char name[32];
    char value[16];
    char *end;
    if (sscanf(text, "look %31s %15s", name, value) != 2)
        return;
    struct told *told = thing_of(board, name);
    if (!told)
        return;
    told->raw = (int32_t)strtol(value, &end, 10);
    told->answered = end != value && *end == '\0';
    told->fresh = true;
    told->at_ms = clock_ms();
}

/* Everything else that a board says is for people: sentences and events. */
static void take_line(struct board *board)
{
    board->line[board->used] = '\0';
    board->used = 0;
    if (strncmp(board->line, "look ", 5) == 0)
        take_sample(board, board->line);
    else if (strcmp(board->line, "done") == 0 || strcmp(board->line, "0") == 0)
        board->done = true;
}

static void take_byte(struct board *board, char byte)
{
    if (byte == '\r' || byte == '\n')
        take_line(board);
    else if (board->used + 1 < sizeof(board->line))
        board->line[board->used++] = byte;
}

/* Its line is that of the first pin of the board. */
static void shut_board(struct duct *duct)
{
    struct duct *line = duct->first;
    if (line->fd >= 0)
        close(line->fd);
    free(line->own);
    line->fd = -1;
    line->own = NULL;
    line->streams = false;
}

static void hear_board(struct duct *duct)
{
    struct duct *line = duct->first;
    char bytes[HEARD_MOST];
    ssize_t got = read(line->fd, bytes, sizeof(bytes));
    if (got <= 0) {
        shut_board(duct);
        return;
    }
    for (ssize_t i = 0; i < got; i++)
        take_byte(line->own, bytes[i]);
}

static bool say(const struct duct *duct, const char *text)
{
    size_t length = strlen(text);
    return write(duct->first->fd, text, length) == (ssize_t)length;
}

/* What was half typed before us is ended first. */
static bool look(struct duct *duct)
{
    ((struct board *)duct->first->own)->asked_ms = clock_ms();
    return say(duct, "\rlook\r");
}

static bool open_board(struct duct *duct, char *wrong, size_t size)
{
    struct duct *line = duct->first;
    const struct pin *pin = duct->pin;
    int baud = pin->baud > 0 ? (int)pin->baud : BOARD_BAUD;
    if (line->fd >= 0)
        return true;
    line->fd = serial_open(pin->device, baud, "8N1", wrong, size);
    line->own = calloc(1, sizeof(struct board));
    line->streams = line->fd >= 0 && line->own;
    if (line->streams && look(duct))
        return true;
    if (line->fd >= 0)
        snprintf(wrong, size, "%s: takes nothing", pin->device);
    shut_board(duct);
    return false;
}

/* Waits until something holds of what the board says. */
static bool awaits(struct duct *duct, const bool *held)
{
    int64_t until_ms = clock_ms() + duct->answer_ms;
    while (duct->first->own && !*held) {
        int64_t left = until_ms - clock_ms();
        if (left <= 0 || !duct_can_read(duct->first->fd, (int)left))
            return false;
        hear_board(duct);
    }
    return duct->first->own && *held;
}

/* What came since it was asked last, and is not old; else what comes now. */
static void read_board(struct duct *duct, struct reply *heard)
{
    struct board *board = duct->first->own;
    struct told *told = thing_of(board, duct->pin->channel);
    if (!told)
        return;
    if (clock_ms() - board->asked_ms > LOOK_AGAIN_MS && !look(duct)) {
        shut_board(duct);
        return;
    }
    if (clock_ms() - told->at_ms > FRESH_MS)
        told->fresh = false;
    if (!awaits(duct, &told->fresh)) {
        if (duct->first->own)
            board->asked_ms = 0; /* it may have begun anew */
        return;
    }
    told->fresh = false;
    if (told->answered)
        *heard = (struct reply){.raw = told->raw};
}

/* A board without names has numbers for them, and says the word first. */
static void make_word(const struct pin *pin, bool on, char *text, size_t size)
{
    const char *name = pin->channel;
    int s = (int)(pin->holds_ms / 1000);
    bool number = isdigit((unsigned char)*name);
    if (on && number)
        snprintf(text, size, "\rhand %s %d\r", name, s);
    else if (on)
        snprintf(text, size, "\r%s hand %ds\r", name, s);
    else if (number)
        snprintf(text, size, "\roff %s\r", name);
    else
        snprintf(text, size, "\r%s off\r", name);
}

/* On is a run by hand that ends by itself, and is begun anew all the while; off
 * is off, whatever else the board has in mind. */
static bool write_board(struct duct *duct, bool high)
{
    char word[80];
    struct board *board = duct->first->own;
    make_word(duct->pin, high != duct->off, word, sizeof(word));
    while (duct->first->own && duct_can_read(duct->first->fd, 0))
        hear_board(duct);
    if (!duct->first->own)
        return false;
    board->done = false;
    return say(duct, word) && awaits(duct, &board->done);
}

const struct way way_board = {.open = open_board,
                              .read = read_board,
                              .write = write_board,
                              .hear = hear_board,
                              .shut = shut_board,
                              .answer_ms = 1500};
