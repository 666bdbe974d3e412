/* Reads tables of a year a line at a time. */
#include "figures.h"

#include <errno.h>
#include <limits.h>
#include <math.h>
#include <stdint.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../grammar/text.h"
#include "../common/cli.h"
#include "../common/json_in.h"

#define COLUMNS_MOST 600
/* Longer than any rehearsal. */
#define SPAN_MOST_S (4000 * 86400.0)

static FILE *open_in(const char *dir, const char *name)
{
    char path[PATH_MAX];
    int length = snprintf(path, sizeof(path), "%s/%s", dir, name);
    return length < (int)sizeof(path) ? fopen(path, "r") : NULL;
}

/* The second of the last whole line. */
static double last_second(FILE *in)
{
    char tail[8192];
    double s = 0;
    if (fseek(in, -(long)sizeof(tail) + 1, SEEK_END) != 0)
        rewind(in);
    tail[fread(tail, 1, sizeof(tail) - 1, in)] = '\0';
    for (char *at = strchr(tail, '\n'); at; at = strchr(at + 1, '\n'))
        if (at[1] >= '0' && at[1] <= '9')
            s = strtod(at + 1, NULL);
    rewind(in);
    return s;
}

static void read_head(struct table *table, char *line)
{
    char *rest = NULL;
    line[strcspn(line, "\r\n")] = '\0';
    table->names = calloc(COLUMNS_MOST, sizeof(*table->names));
    if (!table->names)
        abort();
    strtok_r(line, ",", &rest); /* the seconds */
    for (char *name = strtok_r(NULL, ",", &rest);
         name && table->columns < COLUMNS_MOST;
         name = strtok_r(NULL, ",", &rest))
        table->names[table->columns++] = strdup(name);
}

static void take_number(struct bin *bin, double number)
{
    bin->low = bin->count && bin->low < number ? bin->low : number;
    bin->high = bin->count && bin->high > number ? bin->high : number;
    bin->sum += number;
    bin->count++;
}

static void read_row(const struct figures *figures, struct table *table,
                     const char *line)
{
    char *at;
    double s = strtod(line, &at);
    double place = s / figures->bin_s;
    if (!(place >= 0) || place >= figures->bins + 1)
        return;
    int bin = place < figures->bins ? (int)place : figures->bins - 1;
    for (int i = 0; i < table->columns && *at == ','; i++) {
        const char *from = at + 1;
        double number = strtod(from, &at);
        if (at == from) {
            at += strcspn(at, ",\n");
            continue;
        }
        take_number(&table->bins[i * BINS_MOST + bin], number);
        table->last[i] = number;
    }
}

static void read_table(const struct figures *figures, struct table *table,
                       FILE *in)
{
    char *line = NULL;
    size_t size = 0;
    if (getline(&line, &size, in) > 0)
        read_head(table, line);
    table->bins =
        calloc((size_t)(table->columns + 1) * BINS_MOST, sizeof(*table->bins));
    table->last = calloc((size_t)table->columns + 1, sizeof(*table->last));
    if (!table->bins || !table->last)
        abort();
    while (getline(&line, &size, in) > 0)
        read_row(figures, table, line);
    free(line);
}

static int cannot_read(const char *dir, const char *name)
{
    bool missing = errno == ENOENT || errno == ENOTDIR;
    fprintf(stderr,
            "cuplatch: %s/%s: %s; expected a folder that rehearse --out made\n",
            dir, name, strerror(errno));
    return missing ? EXIT_USAGE : EXIT_OUTSIDE;
}

/* What site.json says. */
static int read_site(struct figures *figures, const char *dir)
{
    json_error_t error;
    FILE *in = open_in(dir, "site.json");
    if (!in)
        return cannot_read(dir, "site.json");
    figures->site = json_loadf(in, 0, &error);
    fclose(in);
    if (json_is_object(figures->site))
        return EXIT_DONE;
    fprintf(stderr, "cuplatch: %s/site.json: %s\n", dir,
            figures->site ? "expected an object" : text_mend(error.text));
    return EXIT_OUTSIDE;
}

/* No finer than the minutes that there are; whole days once these would show
 * as teeth. */
static void measure(struct figures *figures, double last_s)
{
    double from_s = number_in(figures->site, "from_s");
    figures->from_s = from_s > 0 && from_s < UINT32_MAX ? floor(from_s) : 0;
    figures->span_s = last_s > 60 ? fmin(last_s, SPAN_MOST_S) : 60;
    figures->bin_s = ceil(figures->span_s / BINS_MOST / 60) * 60;
    if (figures->span_s > 120 * 86400.0)
        figures->bin_s = ceil(figures->bin_s / 86400) * 86400;
    figures->bins = (int)ceil(figures->span_s / figures->bin_s);
}

int figures_read(struct figures *figures, const char *dir)
{
    *figures = (struct figures){.site = NULL};
    int code = read_site(figures, dir);
    if (code != EXIT_DONE)
        return code;
    FILE *in = open_in(dir, "levels.csv");
    if (!in)
        return cannot_read(dir, "levels.csv");
    measure(figures, last_second(in));
    read_table(figures, &figures->levels, in);
    fclose(in);
    in = open_in(dir, "truth.csv");
    if (in) {
        read_table(figures, &figures->truth, in);
        fclose(in);
    }
    return EXIT_DONE;
}

static void free_table(struct table *table)
{
    for (int i = 0; i < table->columns; i++)
        free(table->names[i]);
    free(table->names);
    free(table->bins);
    free(table->last);
}

void figures_free(struct figures *figures)
{
    json_decref(figures->site);
    free_table(&figures->levels);
    free_table(&figures->truth);
}

int table_column(const struct table *table, const char *name)
{
    for (int i = 0; i < table->columns; i++)
        if (strcmp(table->names[i], name) == 0)
            return i;
    return -1;
}

const struct bin *table_bin(const struct figures *figures,
                            const struct table *table, int column, int bin)
{
    static const struct bin nothing;
    if (column < 0 || bin < 0 || bin >= figures->bins)
        return &nothing;
    return &table->bins[column * BINS_MOST + bin];
}
