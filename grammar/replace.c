/* Puts a new text in the place of a file, without ever losing the old one. The
 * new text is written into a hidden file beside it, which is locked meanwhile:
 * whoever comes second waits outside, and one that a killed program left is
 * taken over. */
#include <errno.h>
#include <fcntl.h>
#include <libgen.h>
#include <limits.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <unistd.h>

#include "edit.h"

/* How often a file may change under us before we give up. */
#define TRIES 10

/* A file to be replaced, and the one beside it. */
struct replacement {
    char path[PATH_MAX];        /* links followed */
    char beside[PATH_MAX + 16]; /* "/garden/.site.ini.cuplatch" */
    int file;                   /* the one beside, open and locked; or -1 */
    struct stat old;
    bool is_there;
};

/* Reading */

static char *read_whole(FILE *in, size_t *length)
{
    char *text = NULL;
    size_t room = 0;
    size_t got = 0;
    do {
        room = room ? room * 2 : 4096;
        char *more = realloc(text, room + 1);
        if (!more)
            break;
        text = more;
        got += fread(text + got, 1, room - got, in);
    } while (got == room);
    if (text && !ferror(in) && got < room) {
        text[got] = '\0';
        *length = got;
        return text;
    }
    free(text);
    return NULL;
}

static char *text_of(const char *path, size_t *length, struct stat *about)
{
    FILE *in = fopen(path, "rb");
    if (!in)
        return NULL;
    char *text = fstat(fileno(in), about) == 0 ? read_whole(in, length) : NULL;
    int why = errno;
    fclose(in);
    errno = why;
    return text;
}

char *cup_file_text(const char *path)
{
    size_t length;
    struct stat about;
    return text_of(path, &length, &about);
}

/* Where the new text goes */

/* The file that a path leads to; the path itself when there is none yet. */
static bool follow(struct replacement *place, const char *path)
{
    if (realpath(path, place->path))
        return true;
    if (errno != ENOENT)
        return false;
    errno = ENAMETOOLONG;
    return snprintf(place->path, sizeof(place->path), "%s", path) <
           (int)sizeof(place->path);
}

static void name_beside(struct replacement *place)
{
    const char *path = place->path;
    const char *slash = strrchr(path, '/');
    int folder = slash ? (int)(slash - path) + 1 : 0;
    snprintf(place->beside, sizeof(place->beside), "%.*s.%s.cuplatch", folder,
             path, path + folder);
}

/* Whether the name still leads to what is open: who was here before us may have
 * renamed it. */
static bool is_ours(const struct replacement *place)
{
    struct stat open_one;
    struct stat named;
    return fstat(place->file, &open_one) == 0 &&
           lstat(place->beside, &named) == 0 && S_ISREG(named.st_mode) &&
           open_one.st_ino == named.st_ino && open_one.st_dev == named.st_dev;
}

static bool open_beside(struct replacement *place)
{
    struct flock whole = {.l_type = F_WRLCK, .l_whence = SEEK_SET};
    for (int i = 0; i < TRIES; i++) {
        place->file =
            open(place->beside,
                 O_RDWR | O_CREAT | O_CLOEXEC | O_NOFOLLOW | O_NONBLOCK, 0600);
        if (place->file < 0)
            return false;
        if (fcntl(place->file, F_SETLK, &whole) != 0) {
            if (errno == EACCES)
                errno = EAGAIN;
            return false;
        }
        if (is_ours(place))
            return true;
        close(place->file);
        place->file = -1;
    }
    errno = EAGAIN;
    return false;
}

static void leave(struct replacement *place)
{
    int why = errno;
    if (place->file >= 0)
        close(place->file);
    errno = why;
}

static bool enter(struct replacement *place, const char *path)
{
    *place = (struct replacement){.file = -1};
    if (!follow(place, path))
        return false;
    name_beside(place);
    place->is_there = stat(place->path, &place->old) == 0;
    return open_beside(place);
}

/* Writing */

static int write_all(int file, const char *text)
{
    size_t left = strlen(text);
    if (lseek(file, 0, SEEK_SET) != 0 || ftruncate(file, 0) != 0)
        return -1;
    while (left > 0) {
        ssize_t written = write(file, text, left);
        if (written < 0)
            return -1;
        text += written;
        left -= (size_t)written;
    }
    return fsync(file);
}

/* Mode and owner of the old file; a new one gets what the user wants. */
static int keep_rights(const struct replacement *place)
{
    struct stat now;
    if (!place->is_there) {
        mode_t mask = umask(0);
        umask(mask);
        return fchmod(place->file, 0666 & ~mask);
    }
    if (fstat(place->file, &now) != 0)
        return -1;
    bool same =
        now.st_uid == place->old.st_uid && now.st_gid == place->old.st_gid;
    if (!same && fchown(place->file, place->old.st_uid, place->old.st_gid) != 0)
        return -1;
    return fchmod(place->file, place->old.st_mode & 07777);
}

/* The folder itself must be synced, or the new name may be lost. */
static void sync_folder(const char *path)
{
    char *copy = strdup(path);
    int folder = copy ? open(dirname(copy), O_RDONLY | O_CLOEXEC) : -1;
    if (folder >= 0) {
        fsync(folder);
        close(folder);
    }
    free(copy);
}

/* Whether the file is still the one that was looked at. */
static bool is_same(const struct replacement *place)
{
    struct stat now;
    const struct stat *old = &place->old;
    if (stat(place->path, &now) != 0)
        return !place->is_there && errno == ENOENT;
    return place->is_there && now.st_ino == old->st_ino &&
           now.st_dev == old->st_dev && now.st_size == old->st_size &&
           now.st_mtim.tv_sec == old->st_mtim.tv_sec &&
           now.st_mtim.tv_nsec == old->st_mtim.tv_nsec;
}

/* Brings the new text in: 0, or -1; EAGAIN when the file changed meanwhile. */
static int swap(struct replacement *place, const char *text)
{
    int failed = write_all(place->file, text) || keep_rights(place);
    if (!failed && !is_same(place)) {
        errno = EAGAIN;
        return -1;
    }
    failed = failed || rename(place->beside, place->path);
    if (!failed)
        sync_folder(place->path);
    return failed ? -1 : 0;
}

/* Gives up, with nothing left behind. */
static void drop(const struct replacement *place)
{
    int why = errno;
    unlink(place->beside);
    errno = why;
}

int cup_file_replace(const char *path, const char *text)
{
    struct replacement place;
    int failed = -1;
    if (enter(&place, path)) {
        failed = swap(&place, text);
        if (failed)
            drop(&place);
    }
    leave(&place);
    return failed;
}

/* Changing what is there */

static enum cup_edit_result fail(char *why, size_t size, const char *text)
{
    snprintf(why, size, "%s", text);
    return CUP_EDIT_FAILED;
}

/* What speaks against a change of this file; null if nothing does. */
static const char *objection(const struct stat *about, const char *text,
                             size_t length)
{
    if (!text)
        return strerror(errno);
    if (!S_ISREG(about->st_mode))
        return "is no plain file";
    if (about->st_nlink > 1)
        return "has a second name (a hard link), which would keep the old "
               "text; change it by hand";
    if (strlen(text) != length)
        return "has a zero byte in it; a site file is text";
    return NULL;
}

static enum cup_edit_result change_once(struct replacement *place,
                                        const struct cup_edit *edits,
                                        size_t count, cup_edit_check *check,
                                        char *why, size_t size)
{
    size_t length = 0;
    snprintf(why, size, "%s", "");
    place->is_there = true;
    char *text = text_of(place->path, &length, &place->old);
    const char *against = objection(&place->old, text, length);
    char *next = against ? NULL : cup_edit_text(text, edits, count);
    enum cup_edit_result done = CUP_EDIT_UNFIT;
    if (against)
        done = fail(why, size, against);
    else if (next && check(place->path, next)) {
        errno = 0;
        done = swap(place, next) ? fail(why, size, strerror(errno))
                                 : CUP_EDIT_DONE;
    }
    free(text);
    free(next);
    return done;
}

static enum cup_edit_result change(struct replacement *place,
                                   const struct cup_edit *edits, size_t count,
                                   cup_edit_check *check, char *why,
                                   size_t size)
{
    for (int i = 0; i < TRIES; i++) {
        errno = 0;
        enum cup_edit_result done =
            change_once(place, edits, count, check, why, size);
        if (done != CUP_EDIT_FAILED || errno != EAGAIN)
            return done;
    }
    return fail(why, size, "keeps being changed by another program");
}

enum cup_edit_result cup_file_edit(const char *path,
                                   const struct cup_edit *edits, size_t count,
                                   cup_edit_check *check, char *why,
                                   size_t size)
{
    struct replacement place;
    enum cup_edit_result done;
    if (enter(&place, path)) {
        done = change(&place, edits, count, check, why, size);
        if (done != CUP_EDIT_DONE)
            drop(&place);
    } else
        done = fail(why, size,
                    errno == EAGAIN ? "is being changed by another program"
                                    : strerror(errno));
    leave(&place);
    return done;
}
