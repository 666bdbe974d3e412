/* Text of C tables in the making, shared by the files that bake. */
#ifndef CUPLATCH_SITEFILE_BAKING_H
#define CUPLATCH_SITEFILE_BAKING_H

#include "../bake.h"
#include "../inside.h"

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
    enum cup_bake kind;
    bool named;          /* by its kind: with names, and so with texts */
    cup_index uncounted; /* why values are needed; CUP_NONE: for no thing */
    bool uses[CUP_BLOCK_COUNT];
    FILE *out;
    struct table_text *tables;
    size_t count;
    struct weight flash;
};

/* One initializer in the making. `where` is the block without which what comes
 * next is not there, or, `unless`, with which it is not; ALWAYS when it always
 * is there. */
struct words {
    const struct bake *bake;
    int where;
    bool unless;
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
void words_constant(struct words *words, const char *field, size_t bytes,
                    const char *name);
void words_value(struct words *words, const char *field, int32_t value);
/* A mark, and, where it is a mean of counts, the value that it stands for. */
void words_mark(struct words *words, const char *field, int32_t value,
                int32_t counts);
void words_index(struct words *words, const char *field, cup_index value);
void words_pointer(struct words *words, const char *field, const char *name,
                   bool of_one);

/* Any other field, to be filled by whoever calls; ends with words_field_end().
 * It is of so many bytes on parts of 8 and of 32 bits. */
void words_field(struct words *words, const char *field, size_t small,
                 size_t wide);
void words_field_end(struct words *words);

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
const char *bake_buttons(struct bake *bake);
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

/* Two marks as means of counts, in sixtieths of one: a thing's mean is past one
 * of these, on the side away from the other, just when its value is. False when
 * no mean lies between the two; they can't be told apart then. */
struct counts {
    int32_t start;
    int32_t stop;
};
bool bake_pair(const struct cup_plan *plan, cup_index thing, int32_t start,
               int32_t stop, struct counts *counts);

/* One mark: what a thing's mean has to be above while its value is above this,
 * or below; but the other way round where a thing falls as its counts rise. */
int32_t bake_count(const struct cup_plan *plan, cup_index thing, int32_t value,
                   bool above);
bool bake_falls(const struct cup_plan *plan, cup_index thing);

/* The first thing of a plan whose marks can't be turned into counts; CUP_NONE
 * when there is none. Only for a plan whose sensors and tanks all have a curve.
 */
cup_index bake_uncounted_thing(const struct cup_plan *plan);

/* The most samples of a mean that a sensor of the plan takes. */
uint8_t bake_mean_most(const struct cup_plan *plan);

/* Writes them as #defines. */
void bake_uses(const struct bake *bake, FILE *out);

#endif
