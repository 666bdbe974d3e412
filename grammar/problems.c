/* Collects what is wrong with a file, and finds the word that was meant. */
#include "problems.h"

#include <stdarg.h>
#include <stdlib.h>
#include <string.h>

#include "text.h"

static void add(struct problems *problems, struct place place, bool warning,
                const char *form, va_list rest)
{
    size_t size = (problems->count + 1) * sizeof(*problems->list);
    struct problem *list = realloc(problems->list, size);
    char message[400];
    if (!list)
        abort();
    vsnprintf(message, sizeof(message), form, rest);
    problems->list = list;
    list[problems->count] = (struct problem){
        place.line, warning, strdup(place.text ? place.text : "?"),
        strdup(message)};
    if (!list[problems->count].text || !list[problems->count].message)
        abort();
    text_mend(list[problems->count].text);
    text_mend(list[problems->count].message);
    problems->count++;
    problems->errors += !warning;
}

void problem_error(struct problems *problems, struct place place,
                   const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    add(problems, place, false, form, rest);
    va_end(rest);
}

void problem_warning(struct problems *problems, struct place place,
                     const char *form, ...)
{
    va_list rest;
    va_start(rest, form);
    add(problems, place, true, form, rest);
    va_end(rest);
}

static int by_line(const void *a, const void *b)
{
    const struct problem *one = a;
    const struct problem *two = b;
    return (one->line > two->line) - (one->line < two->line);
}

void problems_print(struct problems *problems, const char *path, FILE *out)
{
    if (problems->count > 1)
        qsort(problems->list, problems->count, sizeof(*problems->list),
              by_line);
    for (size_t i = 0; i < problems->count; i++) {
        const struct problem *problem = &problems->list[i];
        fputs(path, out);
        if (problem->line > 0) /* else of the file as a whole */
            fprintf(out, ":%d", problem->line);
        fprintf(out, ": %s%s: %s\n", problem->warning ? "warning: " : "",
                problem->text, problem->message);
    }
}

void problems_forget(struct problems *problems, size_t count, int line)
{
    size_t kept = count;
    for (size_t i = count; i < problems->count; i++) {
        struct problem *problem = &problems->list[i];
        if (problem->line != line || problem->warning) {
            problems->list[kept++] = *problem;
            continue;
        }
        problems->errors--;
        free(problem->text);
        free(problem->message);
    }
    problems->count = kept;
}

void problems_free(struct problems *problems)
{
    for (size_t i = 0; i < problems->count; i++) {
        free(problems->list[i].text);
        free(problems->list[i].message);
    }
    free(problems->list);
    *problems = (struct problems){0};
}

#define WORD_MAX 32

static size_t least(size_t a, size_t b)
{
    return a < b ? a : b;
}

/* Edits between two words: letters added, dropped or changed. */
static size_t distance(const char *a, const char *b)
{
    size_t row[WORD_MAX + 1];
    size_t length = strlen(b);
    if (strlen(a) > WORD_MAX || length > WORD_MAX)
        return WORD_MAX;
    for (size_t j = 0; j <= length; j++)
        row[j] = j;
    for (size_t i = 1; a[i - 1]; i++) {
        size_t diagonal = row[0];
        row[0] = i;
        for (size_t j = 1; j <= length; j++) {
            size_t change = diagonal + (a[i - 1] != b[j - 1]);
            diagonal = row[j];
            row[j] = least(change, least(row[j], row[j - 1]) + 1);
        }
    }
    return row[length];
}

const char *nearest_word(const char *word, const char *const *list)
{
    const char *best = NULL;
    size_t nearest = strlen(word) / 3 + 2;
    for (; *list; list++) {
        size_t away = distance(word, *list);
        if (away < nearest) {
            nearest = away;
            best = *list;
        }
    }
    return best;
}

void words_list(char *text, size_t size, const char *const *words)
{
    size_t used = 0;
    *text = '\0';
    for (; *words; words++) {
        const char *before = words[1] ? ", " : " or ";
        int more = snprintf(text + used, size - used, "%s%s",
                            used ? before : "", *words);
        used += (size_t)more < size - used ? (size_t)more : 0;
    }
    text[used] = '\0';
}

void problem_word(struct problems *problems, struct place place,
                  const char *message, const char *near)
{
    if (near)
        problem_error(problems, place, "%s; did you mean \"%s\"?", message,
                      near);
    else
        problem_error(problems, place, "%s", message);
}
