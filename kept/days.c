/* Files by name, and which of them are old. */
#include "days.h"

#include <dirent.h>
#include <errno.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define NAME "raw-%Y%m%d-%H%M%S.csv"
#define NAME_SIZE sizeof("raw-20310402-060000.csv")

/* One that began in the same second is not written over: the next is named
 * after a second later. */
#define TRIES 60

struct days {
    char *dir;
    char path[PATH_MAX];
    int keep;
    FILE *file; /* null: rows go nowhere until the next is begun */
    long whole; /* bytes of it that are written, up to the end of a row */
};

struct days *days_open(const char *dir, int keep)
{
    if (mkdir(dir, 0755) != 0 && errno != EEXIST)
        return NULL;
    if (access(dir, W_OK | X_OK) != 0)
        return NULL;
    struct days *days = calloc(1, sizeof(*days));
    if (!days || !(days->dir = strdup(dir)))
        abort();
    days->keep = keep;
    return days;
}

void days_close(struct days *days)
{
    if (days->file)
        fclose(days->file);
    free(days->dir);
    free(days);
}

/* Whether a name is that of a file of ours; then when it began. */
static bool began(const char *name, time_t *when)
{
    struct tm tm = {.tm_isdst = -1};
    const char *end = strptime(name, NAME, &tm);
    if (!end || *end)
        return false;
    *when = mktime(&tm);
    return true;
}

/* Days are those of the calendar, whether they have 23 hours or 25. */
static bool is_old(time_t when, time_t now, int keep)
{
    struct tm tm;
    localtime_r(&now, &tm);
    tm.tm_mday -= keep;
    tm.tm_hour = 0;
    tm.tm_min = 0;
    tm.tm_sec = 0;
    tm.tm_isdst = -1;
    return when < mktime(&tm);
}

static void remove_old(const struct days *days, time_t now)
{
    char path[PATH_MAX + NAME_MAX];
    DIR *dir = opendir(days->dir);
    const struct dirent *entry;
    while (dir && (entry = readdir(dir))) {
        time_t when;
        if (!began(entry->d_name, &when) || !is_old(when, now, days->keep))
            continue;
        snprintf(path, sizeof(path), "%s/%s", days->dir, entry->d_name);
        (void)unlink(path);
    }
    if (dir)
        closedir(dir);
}

/* A row that was cut short would spoil all that follow: the file ends with the
 * one before. */
static bool give_up(struct days *days)
{
    int why = errno;
    if (days->file)
        fclose(days->file);
    days->file = NULL;
    (void)!truncate(days->path, days->whole);
    errno = why;
    return false;
}

bool days_begin(struct days *days, time_t now, const char *head)
{
    struct tm tm;
    char name[NAME_SIZE];
    remove_old(days, now);
    if (days->file)
        fclose(days->file);
    days->whole = 0;
    days->file = NULL;
    for (int tries = 0; !days->file && tries < TRIES; tries++, now++) {
        strftime(name, sizeof(name), NAME, localtime_r(&now, &tm));
        snprintf(days->path, sizeof(days->path), "%s/%s", days->dir, name);
        days->file = fopen(days->path, "wxe");
        if (!days->file && errno != EEXIST)
            return false;
    }
    return days_add(days, head);
}

bool days_add(struct days *days, const char *row)
{
    if (!days->file)
        return false;
    return (fputs(row, days->file) >= 0 && fputc('\n', days->file) >= 0) ||
           give_up(days);
}

bool days_flush(struct days *days)
{
    if (!days->file)
        return true;
    if (fflush(days->file) != 0)
        return give_up(days);
    days->whole = ftell(days->file);
    return true;
}
