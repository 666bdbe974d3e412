#include "people.h"

#include <errno.h>
#include <inttypes.h>
#include <sodium.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../grammar/edit.h"
#include "../common/note.h"
#include "../common/private.h"
#include "../common/secret.h"

#define PATH_SIZE 4300

/* Reading */

static bool take_entry(struct person *person, const struct ini_entry *entry)
{
    const char *value = entry->value;
    bool looks = strcmp(value, "look") == 0;
    if (strcmp(entry->key, "may") == 0) {
        person->only_looks = looks;
        return looks || strcmp(value, "stop") == 0;
    }
    if (strcmp(entry->key, "number") != 0 || !cup_is_number(value))
        return false;
    snprintf(person->number, sizeof(person->number), "%s", value);
    return true;
}

static bool take_person(void *self, const struct ini_section *section)
{
    struct people *people = self;
    struct person person = {.only_looks = false};
    snprintf(person.name, sizeof(person.name), "%s", section->name);
    for (size_t i = 0; i < section->count; i++)
        if (!take_entry(&person, &section->entries[i]))
            return false;
    if (!*person.number || people->count == PEOPLE_MOST)
        return false;
    people->list[people->count++] = person;
    return true;
}

bool people_open(struct people *people, const char *path, char *wrong,
                 size_t size)
{
    *people = (struct people){.path = path};
    bool good = private_read(path, &people->as_read, take_person, people,
                             "number = +990100200300, the whole international "
                             "one, and may = look or stop",
                             wrong, size);
    if (!good)
        people->count = 0;
    return good;
}

void people_refresh(struct people *people)
{
    char wrong[240];
    const char *path = people->path;
    if (private_changed(path, &people->as_read) &&
        !people_open(people, path, wrong, sizeof(wrong)))
        note("modem", NULL, "%s: %s; nobody is texted", path, wrong);
}

const struct person *people_find(const struct people *people,
                                 const char *number)
{
    for (size_t i = 0; i < people->count; i++)
        if (strcmp(people->list[i].number, number) == 0)
            return &people->list[i];
    return NULL;
}

/* Writing */

static void digits(char code[7])
{
    for (size_t i = 0; i < 6; i++)
        code[i] = (char)('0' + randombytes_uniform(10));
    code[6] = '\0';
}

static void path_beside(const char *path, const char *what, char *beside)
{
    snprintf(beside, PATH_SIZE, "%.4200s.%s", path, what);
}

static bool say_wrong(bool done, char *wrong, size_t size)
{
    if (!done)
        snprintf(wrong, size, "%s", strerror(errno));
    return done;
}

/* The door */

struct door_code {
    char hash[SECRET_HASH_SIZE];
    int64_t until;
    int tries;
};

static bool write_door(const char *path, const struct door_code *door)
{
    char beside[PATH_SIZE];
    char text[160];
    path_beside(path, "let-in", beside);
    snprintf(text, sizeof(text), "%s %" PRId64 " %d\n", door->hash, door->until,
             door->tries);
    return private_put(beside, text);
}

static bool read_door(const char *path, struct door_code *door)
{
    char beside[PATH_SIZE];
    path_beside(path, "let-in", beside);
    FILE *in = fopen(beside, "re");
    bool read = in && fscanf(in, "%64s %" SCNd64 " %d", door->hash,
                             &door->until, &door->tries) == 3;
    if (in)
        fclose(in);
    return read;
}

static void close_door(const char *path)
{
    char beside[PATH_SIZE];
    path_beside(path, "let-in", beside);
    (void)unlink(beside);
}

bool people_let_in(const char *path, char code[7], char *wrong, size_t size)
{
    struct door_code door = {.until = (int64_t)time(NULL) + PEOPLE_LET_IN_S,
                             .tries = PEOPLE_TRIES};
    digits(code);
    secret_hash(code, door.hash);
    return say_wrong(write_door(path, &door), wrong, size);
}

static bool enter(struct people *people, const char *number)
{
    char *old = cup_file_text(people->path);
    char text[120];
    size_t size;
    char *all = NULL;
    FILE *out = open_memstream(&all, &size);
    if (!out)
        abort();
    snprintf(text, sizeof(text), "%s[person_%s]\nnumber = %s\nmay = look\n",
             old && *old ? "\n" : "", number + 1, number);
    fprintf(out, "%s%s", old ? old : "", text);
    if (fclose(out) != 0)
        abort();
    bool done = private_put(people->path, all);
    free(old);
    free(all);
    people_refresh(people);
    return done;
}

bool people_try(struct people *people, const char *number, const char *text,
                time_t now)
{
    struct door_code door;
    char code[7];
    char hash[SECRET_HASH_SIZE];
    if (!cup_is_number(number) || !read_door(people->path, &door) ||
        now > door.until)
        return false;
    snprintf(code, sizeof(code), "%.6s", text + strspn(text, " "));
    secret_hash(code, hash);
    if (strcmp(hash, door.hash) == 0) {
        close_door(people->path);
        return enter(people, number);
    }
    if (--door.tries > 0)
        (void)write_door(people->path, &door);
    else
        close_door(people->path);
    return false;
}

/* Codes: a line each, whose and its hash. */

static bool is_of(const char *line, const char *name)
{
    size_t length = strlen(name);
    return strncmp(line, name, length) == 0 && line[length] == ' ';
}

/* The file without lines of a name, or without one of them where a hash is
 * given. Whether any was left out. */
static bool without(const char *beside, const char *name, const char *hash,
                    FILE *out)
{
    char line[120];
    bool found = false;
    FILE *in = fopen(beside, "re");
    while (in && fgets(line, sizeof(line), in)) {
        bool his = is_of(line, name) && (!hash || strstr(line, hash));
        found |= his;
        if (!his)
            fputs(line, out);
    }
    if (in)
        fclose(in);
    return found;
}

static bool is_named(const struct people *people, const char *name)
{
    for (size_t i = 0; i < people->count; i++)
        if (strcmp(people->list[i].name, name) == 0)
            return true;
    return false;
}

bool people_new_codes(const char *path, const char *name,
                      char codes[PEOPLE_CODES][7], char *wrong, size_t size)
{
    char beside[PATH_SIZE];
    char hash[SECRET_HASH_SIZE];
    static struct people people;
    char *text = NULL;
    size_t length;
    if (!people_open(&people, path, wrong, size))
        return false;
    if (!is_named(&people, name)) {
        snprintf(wrong, size, "there is no [%s]", name);
        return false;
    }
    path_beside(path, "codes", beside);
    FILE *out = open_memstream(&text, &length);
    if (!out)
        abort();
    (void)without(beside, name, NULL, out);
    for (size_t i = 0; i < PEOPLE_CODES; i++) {
        digits(codes[i]);
        secret_hash(codes[i], hash);
        fprintf(out, "%s %s\n", name, hash);
    }
    if (fclose(out) != 0)
        abort();
    bool done = say_wrong(private_put(beside, text), wrong, size);
    free(text);
    return done;
}

/* Whether a person has that code; `text` is the file without it, and the
 * caller's. */
static bool find_code(const struct people *people, const char *name,
                      const char *code, char beside[PATH_SIZE], char **text)
{
    char hash[SECRET_HASH_SIZE];
    size_t length;
    path_beside(people->path, "codes", beside);
    secret_hash(code, hash);
    FILE *out = open_memstream(text, &length);
    if (!out)
        abort();
    bool found = without(beside, name, hash, out);
    if (fclose(out) != 0)
        abort();
    return found;
}

bool people_has_code(const struct people *people, const char *name,
                     const char *code)
{
    char beside[PATH_SIZE];
    char *text = NULL;
    bool found = find_code(people, name, code, beside, &text);
    free(text);
    return found;
}

bool people_spend(const struct people *people, const char *name,
                  const char *code)
{
    char beside[PATH_SIZE];
    char *text = NULL;
    /* what cannot be made void does not count */
    bool spent = find_code(people, name, code, beside, &text) &&
                 private_put(beside, text);
    free(text);
    return spent;
}
