#define _GNU_SOURCE /* memfd_create */
#include "bytes.h"

#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <sys/mman.h>
#include <unistd.h>

const char *bytes_as_file(const uint8_t *bytes, size_t count)
{
    static int file = -1;
    static char path[40];
    if (file < 0)
        file = memfd_create("bytes", 0);
    if (file < 0 || ftruncate(file, 0) ||
        pwrite(file, bytes, count, 0) != (ssize_t)count)
        abort();
    snprintf(path, sizeof(path), "/proc/self/fd/%d", file);
    return path;
}

static char folder[] = "/tmp/cuplatch-fuzz-XXXXXX";

static void remove_folder(void)
{
    static const char *const names[] = {"site.json",    "levels.csv",
                                        "events.jsonl", "raw.csv",
                                        "picture.png",  "rehearsal.png"};
    char path[100];
    for (size_t i = 0; i < sizeof(names) / sizeof(names[0]); i++) {
        snprintf(path, sizeof(path), "%s/%s", folder, names[i]);
        unlink(path);
    }
    rmdir(folder);
}

const char *folder_of_ours(void)
{
    static bool made;
    if (!made && (!mkdtemp(folder) || atexit(remove_folder)))
        abort();
    made = true;
    return folder;
}

void stand_in_for_gnuplot(void)
{
    static bool done;
    if (!done &&
        (setenv("PATH", STANDIN_DIR, 1) || !freopen("/dev/null", "w", stdout)))
        abort();
    done = true;
}
