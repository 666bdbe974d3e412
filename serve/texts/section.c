/* [modem] of the file. */
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../common/entries.h"
#include "texts.h"
#include "tty.h"

static bool take_baud(void *part, const char *text)
{
    struct texts_config *config = part;
    char *end;
    long baud = strtol(text, &end, 10);
    config->baud = (int)baud;
    return *text && !*end && baud > 0 && baud < INT_MAX &&
           tty_is_baud((int)baud);
}

static bool take_a_day(void *part, const char *text)
{
    struct texts_config *config = part;
    char *end;
    long count = strtol(text, &end, 10);
    config->a_day = (int)count;
    return *text && !*end && count >= 1 && count <= 1000;
}

/* "22:30", in minutes; -1: it is none. */
static int minute_of(const char *text, size_t length)
{
    int hours, minutes, used = 0;
    char copy[6];
    if (length != 5)
        return -1;
    memcpy(copy, text, 5);
    copy[5] = '\0';
    if (sscanf(copy, "%2d:%2d%n", &hours, &minutes, &used) != 2 || used != 5 ||
        hours < 0 || hours > 23 || minutes < 0 || minutes > 59)
        return -1;
    return hours * 60 + minutes;
}

static bool take_quiet(void *part, const char *text)
{
    struct texts_config *config = part;
    const char *dots = strstr(text, "..");
    if (!dots)
        return false;
    config->quiet_from = minute_of(text, (size_t)(dots - text));
    config->quiet_to = minute_of(dots + 2, strlen(dots + 2));
    return config->quiet_from >= 0 && config->quiet_to >= 0;
}

void texts_read(struct texts_config *texts, const struct ini_section *section,
                struct problems *problems)
{
    struct place place = entries_place(section);
    const char path[] = "a whole path";
    const struct entry_key keys[] = {
        {"device", &texts->device, entry_is_path, path},
        {"baud", NULL, take_baud, "a speed such as 115200"},
        {"pin_file", &texts->pin_file, entry_is_path, path},
        {"people", &texts->people, entry_is_path, path},
        {"quiet", NULL, take_quiet, "two times, such as 22:00..06:30"},
        {"a_day", NULL, take_a_day, "a number of messages, 1 to 1000"},
        {NULL, NULL, NULL, NULL}};
    entries_read(problems, section, keys, texts);
    if (!texts->device)
        problem_error(problems, place,
                      "needs device = the modem's line, such as "
                      "/dev/serial/by-id/...");
    if (!texts->people)
        problem_error(problems, place,
                      "needs people = the file of who is texted");
}
