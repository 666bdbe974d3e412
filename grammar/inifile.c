/* Reads an INI file through inih. Each line passes our hands first, for its
 * number and because inih would take an indented line for a continuation,
 * a second section of a name for more of the first, and tell one error. */
#include "inifile.h"

#include <ctype.h>
#include <ini.h>
#include <stdlib.h>
#include <string.h>

#include "cuplatch/codes.h"
#include "text.h"

#define BLANKS " \t\r\n"
/* inih cuts lines at 200 bytes, its line end and zero included. */
#define LINE_LIMIT 197

struct reader {
    struct ini_file *file;
    struct problems *problems;
    FILE *in;
    char *text;
    size_t size;
    int line;
};

static void *grown(void *list, size_t count, size_t size)
{
    void *more = realloc(list, (count + 1) * size);
    if (!more)
        abort();
    return more;
}

static char *copy(const char *start, size_t length)
{
    char *text = strndup(start, length);
    if (!text)
        abort();
    return text;
}

static void open_section(struct reader *reader, const char *line)
{
    struct ini_file *file = reader->file;
    size_t length = strcspn(line, "]");
    file->sections =
        grown(file->sections, file->count, sizeof(*file->sections));
    struct ini_section *section = &file->sections[file->count++];
    *section = (struct ini_section){.line = reader->line};
    section->name = copy(line + 1, length - 1);
    section->text = copy(line, length + (line[length] == ']'));
    for (size_t i = 0; i + 1 < file->count; i++)
        if (strcmp(file->sections[i].name, section->name) == 0) {
            problem_error(reader->problems,
                          (struct place){reader->line, section->text},
                          "a second thing of this name; the first is in "
                          "line %d. Give each thing a name of its own",
                          file->sections[i].line);
            break;
        }
}

/* Whether inih may see the line; if not, what is wrong was noted. */
static bool is_sound(struct reader *reader, const char *line)
{
    struct place place = {reader->line, line};
    size_t at = 0;
    const char *wrong = text_wrong(line, strlen(line), &at);
    if (wrong)
        problem_error(reader->problems, place,
                      "its byte %zu %s; write the file anew as UTF-8 text",
                      at + 1, wrong);
    else if (strlen(line) > LINE_LIMIT)
        problem_error(reader->problems,
                      (struct place){reader->line, "this line"},
                      "longer than %d bytes; make it shorter", LINE_LIMIT);
    else if (line[0] == '[' && !strchr(line, ']'))
        problem_error(reader->problems, place,
                      "a section needs its closing bracket: [name]");
    else if (line[0] != '[' && !strchr(line, '='))
        problem_error(reader->problems, place, "expected key = value");
    else if (line[0] == '=')
        problem_error(reader->problems, place, "there is no key before =");
    else if (line[0] != '[' && reader->file->count == 0)
        problem_error(reader->problems, place,
                      "a key before any section; it belongs under a [name]");
    else
        return true;
    return false;
}

static bool is_text(const char *line)
{
    size_t at = 0;
    return strlen(line) <= LINE_LIMIT && !text_wrong(line, strlen(line), &at);
}

/* Cuts a comment that begins with # (inih does so for ;) and blanks. */
static void trim(char *line)
{
    for (char *at = line; *at; at++)
        if (*at == '#' && (at == line || strchr(BLANKS, at[-1])))
            *at = '\0';
    size_t length = strlen(line);
    while (length > 0 && strchr(BLANKS, line[length - 1]))
        line[--length] = '\0';
}

/* A section more than a file may have: nothing is read from there on. */
static bool is_too_much(struct reader *reader, const char *line)
{
    if (*line != '[' || reader->file->count < INI_SECTIONS_MOST)
        return false;
    problem_error(reader->problems, (struct place){reader->line, line},
                  "a file has at most %d sections; make several of it",
                  INI_SECTIONS_MOST);
    return true;
}

/* The next line of the file, which counts, without its indent and without the
 * mark some editors put before a text; null when there is none. */
static char *read_line(struct reader *reader)
{
    ssize_t length = getline(&reader->text, &reader->size, reader->in);
    if (length < 0)
        return NULL;
    reader->line++;
    if (strlen(reader->text) != (size_t)length)
        problem_error(reader->problems,
                      (struct place){reader->line, reader->text},
                      "there is a zero byte behind this; take it out");
    char *line = reader->text;
    if (reader->line == 1)
        line += text_mark(line);
    return line + strspn(line, BLANKS);
}

/* Gives inih the next line; an unsound one is empty. */
static char *next_line(char *to, int room, void *self)
{
    struct reader *reader = self;
    char *line = read_line(reader);
    if (!line)
        return NULL;
    trim(line);
    if (is_too_much(reader, line))
        return NULL;
    bool skip = *line == '\0' || *line == ';' || !is_sound(reader, line);
    /* one that is not closed is an error, and yet what follows belongs to it */
    if (*line == '[' && is_text(line))
        open_section(reader, line);
    snprintf(to, (size_t)room, "%s\n", skip ? "" : line);
    return to;
}

static int take_entry(void *self, const char *name, const char *key,
                      const char *value)
{
    struct reader *reader = self;
    (void)name;
    if (reader->file->count == 0)
        return 1;
    struct ini_section *section =
        &reader->file->sections[reader->file->count - 1];
    section->entries =
        grown(section->entries, section->count, sizeof(*section->entries));
    struct ini_entry *entry = &section->entries[section->count++];
    size_t room = strlen(key) + strlen(value) + 4;
    *entry =
        (struct ini_entry){copy(key, strlen(key)), copy(value, strlen(value)),
                           malloc(room), reader->line};
    if (!entry->text)
        abort();
    snprintf(entry->text, room, "%s = %s", key, value);
    return 1;
}

void ini_file_read(struct ini_file *file, FILE *in, struct problems *problems)
{
    struct reader reader = {.file = file, .problems = problems, .in = in};
    *file = (struct ini_file){0};
    ini_parse_stream(next_line, &reader, take_entry, &reader);
    free(reader.text);
}

static void free_section(struct ini_section *section)
{
    for (size_t i = 0; i < section->count; i++) {
        free(section->entries[i].key);
        free(section->entries[i].value);
        free(section->entries[i].text);
    }
    free(section->entries);
    free(section->name);
    free(section->text);
}

void ini_file_free(struct ini_file *file)
{
    for (size_t i = 0; i < file->count; i++)
        free_section(&file->sections[i]);
    free(file->sections);
    *file = (struct ini_file){0};
}

bool ini_is_name(const char *name)
{
    if (!isalpha((unsigned char)*name) || strlen(name) > CUP_NAME_MAX)
        return false;
    for (; *name; name++)
        if (!isalnum((unsigned char)*name) && *name != '_' && *name != '-')
            return false;
    return true;
}
