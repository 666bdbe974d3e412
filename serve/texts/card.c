#include "card.h"

#include <stdio.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#define MARK_SIZE 4300

static void mark_of(const char *beside, char *path)
{
    snprintf(path, MARK_SIZE, "%.4200s.pin", beside);
}

/* When the file was changed last, as a mark tells it. */
static void stamp_of(const struct stat *about, char *stamp, size_t size)
{
    snprintf(stamp, size, "%lld.%09ld", (long long)about->st_mtim.tv_sec,
             about->st_mtim.tv_nsec);
}

static bool was_tried(const char *path, const char *stamp)
{
    char line[60] = "";
    FILE *in = fopen(path, "re");
    bool tried = in && fgets(line, sizeof(line), in) &&
                 strncmp(line, stamp, strlen(stamp)) == 0;
    if (in)
        fclose(in);
    return tried;
}

bool card_pin(const char *pin_file, const char *beside, char *pin, size_t size)
{
    char path[MARK_SIZE];
    char stamp[60];
    struct stat about;
    FILE *in = pin_file ? fopen(pin_file, "re") : NULL;
    bool read =
        in && fgets(pin, (int)size, in) && fstat(fileno(in), &about) == 0;
    if (in)
        fclose(in);
    if (!read)
        return false;
    pin[strcspn(pin, "\r\n")] = '\0';
    mark_of(beside, path);
    stamp_of(&about, stamp, sizeof(stamp));
    if (was_tried(path, stamp))
        return false;
    FILE *out = fopen(path, "we");
    bool marked = out && fprintf(out, "%s\n", stamp) > 0;
    if (out)
        marked = fclose(out) == 0 && marked;
    return marked; /* else a start would try it again, and again */
}

void card_was_right(const char *beside)
{
    char path[MARK_SIZE];
    mark_of(beside, path);
    (void)unlink(path);
}
