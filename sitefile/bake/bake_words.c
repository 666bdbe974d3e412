/* Initializers of C, field by field. */
#define _GNU_SOURCE /* asprintf */
#include <inttypes.h>
#include <stdlib.h>
#include <string.h>

#include "baking.h"

struct words *words_begin(const struct bake *bake)
{
    struct words *words = calloc(1, sizeof(*words));
    if (!words)
        abort();
    words->bake = bake;
    words->where = ALWAYS;
    words->to = open_memstream(&words->text, &words->size);
    if (!words->to)
        abort();
    return words;
}

static void align(size_t *at, size_t to)
{
    *at = (*at + to - 1) / to * to;
}

static void weigh(struct words *words, size_t small, size_t wide)
{
    if (words->where != ALWAYS &&
        words->bake->uses[words->where] == words->unless)
        return;
    words->weight.small += small;
    if (wide > 0)
        align(&words->weight.wide, wide);
    words->weight.wide += wide;
}

/* Long on parts where an int is short; C picks the type of a decimal itself,
 * but for the one that has no name. */
static void put_number(FILE *to, int64_t value)
{
    if (value > INT32_MAX)
        fprintf(to, "%" PRId64 "U", value);
    else if (value == INT32_MIN)
        fprintf(to, "INT32_MIN");
    else
        fprintf(to, "%" PRId64, value);
}

/* Lines are kept short enough to be read. */
#define LINE_MOST 60

void words_wrap(struct words *words)
{
    long at = ftell(words->to);
    if (at - words->line < LINE_MOST)
        return;
    fputs("\n    ", words->to);
    words->line = at;
}

/* A field begins. */
static void open_field(struct words *words, const char *field)
{
    words_wrap(words);
    if (words->where != ALWAYS)
        fprintf(words->to, "%s(%s, ",
                words->unless ? "CUP_UNLESS" : "CUP_WHERE",
                bake_block_name(words->where));
    fprintf(words->to, ".%s = ", field);
}

void words_field(struct words *words, const char *field, size_t small,
                 size_t wide)
{
    weigh(words, small, wide);
    open_field(words, field);
}

void words_field_end(struct words *words)
{
    fputs(words->where == ALWAYS ? ", " : ",) ", words->to);
}

void words_number(struct words *words, const char *field, size_t bytes,
                  int64_t value)
{
    weigh(words, bytes, bytes);
    if (value == 0)
        return;
    open_field(words, field);
    put_number(words->to, value);
    words_field_end(words);
}

void words_constant(struct words *words, const char *field, size_t bytes,
                    const char *name)
{
    weigh(words, bytes, bytes);
    open_field(words, field);
    fputs(name, words->to);
    words_field_end(words);
}

void words_value(struct words *words, const char *field, int32_t value)
{
    size_t small = words->bake->uses[CUP_BLOCK_WIDE] ? 4 : 2;
    weigh(words, small, 4);
    if (value == 0)
        return;
    open_field(words, field);
    put_number(words->to, value);
    words_field_end(words);
}

void words_mark(struct words *words, const char *field, int32_t value,
                int32_t counts)
{
    if (words->bake->uses[CUP_BLOCK_VALUES]) {
        words_value(words, field, value);
        return;
    }
    char told[40];
    snprintf(told, sizeof(told), "%s_value", field);
    words_field(words, field, 3, 4);
    fprintf(words->to, "CUP_MARK(%" PRId32 ", %" PRId32 ")", value, counts);
    words_field_end(words);
    words->where = CUP_BLOCK_VALUES;
    words->unless = true;
    words_value(words, told, value);
    words->where = ALWAYS;
    words->unless = false;
}

void words_index(struct words *words, const char *field, cup_index value)
{
    weigh(words, 1, 2);
    if (value == 0)
        return;
    open_field(words, field);
    if (value == CUP_NONE)
        fputs("CUP_NONE", words->to);
    else
        fprintf(words->to, "%u", (unsigned)value);
    words_field_end(words);
}

void words_pointer(struct words *words, const char *field, const char *name,
                   bool of_one)
{
    weigh(words, 2, 4);
    if (!name)
        return;
    open_field(words, field);
    fprintf(words->to, "%s%s", of_one ? "&" : "", name);
    words_field_end(words);
}

void words_element(struct words *words)
{
    fputc('{', words->to);
}

void words_next(struct words *words)
{
    align(&words->weight.wide, 4);
    fflush(words->to);
    if (words->text[words->size - 1] == '{')
        fputc('0', words->to); /* C11 has no empty braces */
    fputs("},\n    ", words->to);
    words->line = ftell(words->to);
}

/* Ends the text, without what would separate it from more. */
static const char *close_words(struct words *words)
{
    if (fclose(words->to))
        abort();
    size_t length = strlen(words->text);
    while (length > 0 && strchr(", \n", words->text[length - 1]))
        words->text[--length] = '\0';
    return words->text;
}

static const char *find(const struct bake *bake, const char *type,
                        const char *words)
{
    for (size_t i = 0; i < bake->count; i++)
        if (strcmp(bake->tables[i].type, type) == 0 &&
            strcmp(bake->tables[i].words, words) == 0)
            return bake->tables[i].name;
    return NULL;
}

static struct table_text *more(struct bake *bake)
{
    struct table_text *tables =
        realloc(bake->tables, (bake->count + 1) * sizeof(*bake->tables));
    if (!tables)
        abort();
    bake->tables = tables;
    return &bake->tables[bake->count++];
}

const char *bake_table(struct bake *bake, const char *type, const char *stem,
                       bool array, struct words *words)
{
    const char *text = close_words(words);
    if (!*text && !array)
        text = "0"; /* it is there all the same, and C11 has no empty braces */
    const char *name = find(bake, type, text);
    if (!name && *text) {
        struct table_text *table = more(bake);
        table->type = strdup(type);
        table->words = strdup(text);
        if (!table->type || !table->words ||
            asprintf(&table->name, "%s_%zu", stem, bake->count) < 0)
            abort();
        fprintf(bake->out, "static CUP_FLASH %s %s%s = {\n    %s};\n", type,
                table->name, array ? "[]" : "", text);
        bake->flash.small += words->weight.small;
        align(&words->weight.wide, 4);
        bake->flash.wide += words->weight.wide;
        name = table->name;
    }
    free(words->text);
    free(words);
    return name;
}
