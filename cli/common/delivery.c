#include "delivery.h"

#include <errno.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

static char *joined(const char *path, const char *end)
{
    size_t size = strlen(path) + strlen(end) + 1;
    char *name = malloc(size);
    if (!name)
        abort();
    snprintf(name, size, "%s%s", path, end);
    return name;
}

/* Mode and owner of the old one; a new one gets what the user wants. */
static bool keep_rights(int file, const struct stat *old)
{
    if (!old) {
        mode_t mask = umask(0);
        umask(mask);
        return fchmod(file, 0666 & ~mask) == 0;
    }
    if (fchown(file, old->st_uid, old->st_gid) != 0 && errno != EPERM)
        return false;
    return fchmod(file, old->st_mode & 0777) == 0;
}

static bool begin_beside(struct delivery *delivery, const struct stat *old)
{
    delivery->beside = joined(delivery->path, ".XXXXXX");
    int file = mkstemp(delivery->beside);
    if (file < 0)
        return false;
    if (keep_rights(file, old))
        delivery->out = fdopen(file, "w");
    if (delivery->out)
        return true;
    int why = errno;
    close(file);
    unlink(delivery->beside);
    errno = why;
    return false;
}

static void forget(struct delivery *delivery)
{
    free(delivery->path);
    free(delivery->beside);
    *delivery = (struct delivery){NULL, NULL, NULL};
}

bool delivery_begin(struct delivery *delivery, const char *path)
{
    struct stat old;
    *delivery = (struct delivery){NULL, NULL, NULL};
    if (strcmp(path, "-") == 0) {
        delivery->out = stdout;
        return true;
    }
    const bool is_there = stat(path, &old) == 0;
    delivery->path = is_there ? realpath(path, NULL) : joined(path, "");
    bool done = false;
    if (is_there && !S_ISREG(old.st_mode)) {
        delivery->out = S_ISDIR(old.st_mode) ? NULL : fopen(path, "w");
        done = delivery->out != NULL;
        if (S_ISDIR(old.st_mode))
            errno = EISDIR;
    } else if (delivery->path)
        done = begin_beside(delivery, is_there ? &old : NULL);
    if (done)
        return true;
    int why = errno;
    forget(delivery);
    errno = why;
    return false;
}

/* All that was written is where it was written to. */
static bool finish(const struct delivery *delivery)
{
    bool done = fflush(delivery->out) == 0 &&
                (!delivery->beside || fsync(fileno(delivery->out)) == 0);
    return fclose(delivery->out) == 0 && done;
}

bool delivery_end(struct delivery *delivery, bool good)
{
    if (delivery->out == stdout)
        return fflush(stdout) == 0 && good;
    bool done = finish(delivery) && good;
    if (done && delivery->beside)
        done = rename(delivery->beside, delivery->path) == 0;
    int why = errno;
    if (!done && delivery->beside)
        unlink(delivery->beside);
    forget(delivery);
    errno = why;
    return done;
}
