/* Text of C tables in the making, shared by the files that bake. */
#ifndef CUPLATCH_SITEFILE_BAKING_H
#define CUPLATCH_SITEFILE_BAKING_H

#include "inside.h"

/* Bytes on parts of 8 bits, where nothing is padded and pointers and indexes
 * are short, and on those of 32. */
struct weight {
    size_t small;
    size_t wide;
};

/* A table that was written: those with the same words are written once. */
struct table_text {
    char *type;
    char *words;
    char *name;
};

struct bake {
    const struct cup_plan *plan;
    bool bare; /* without names */
    bool uses[CUP_BLOCK_COUNT];
    FILE *out;
    struct table_text *tables;
    size_t count;
    struct weight flash;
};

/* One initializer in the making. `where` is the block without which what comes
 * next is not there; ALWAYS when it always is. */
struct words {
    const struct bake *bake;
    int where;
    char *text;
    size_t size;
    FILE *to;
    long line; /* where it began */
    struct weight weight;
};

struct words *words_begin(const struct bake *bake);

/* A field of so many bytes; one that is zero is left out. */
void words_number(struct words *words, const char *field, size_t bytes,
                  int64_t value);
void words_value(struct words *words, const char *field, int32_t value);
void words_share(struct words *words, uint32_t share);
void words_index(struct words *words, const char *field, cup_index value);
void words_pointer(struct words *words, const char *field, const char *name,
                   bool of_one);

/* Any other field, to be filled by whoever calls; ends with words_close(). It
 * is of so many bytes on parts of 8 and of 32 bits. */
void words_open(struct words *words, const char *field, size_t small,
                size_t wide);
void words_close(struct words *words);

/* A new line when this one is long. */
void words_wrap(struct words *words);

/* One element of an array begins and ends. */
void words_element(struct words *words);
void words_next(struct words *words);

/* Writes a table of `type` unless the same was written before; returns its
 * name, null when there are no words. `array` adds []. Frees the words. */
const char *bake_table(struct bake *bake, const char *type, const char *stem,
                       bool array, struct words *words);

/* The tables of each kind of thing; null when there is none. */
const char *bake_sensors(struct bake *bake);
const char *bake_tanks(struct bake *bake);
const char *bake_pumps(struct bake *bake);
const char *bake_duties(struct bake *bake);
const char *bake_sources(struct bake *bake);
const char *bake_days(struct bake *bake);
const char *bake_alerts(struct bake *bake);
const char *bake_watches(struct bake *bake);
const char *bake_settings(struct bake *bake);
const char *bake_bars(struct bake *bake);
const char *bake_signals(struct bake *bake);
const char *bake_groups(struct bake *bake);
const char *bake_names(struct bake *bake);
const char *bake_keys(struct bake *bake);

/* A plan to be baked: notes which blocks it uses. */
void bake_blocks(struct bake *bake);
#define ALWAYS (-1)
const char *bake_block_name(int block);

/* The first thing of a plan with values that 16 bits cannot hold; CUP_NONE when
 * there is none. */
cup_index bake_wide_thing(const struct cup_plan *plan);

/* The most samples of a mean that a sensor of the plan takes. */
uint8_t bake_mean_most(const struct cup_plan *plan);

/* Writes them as #defines. */
void bake_uses(const struct bake *bake, FILE *out);

#endif
