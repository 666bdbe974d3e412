/* Editing a site file: only what is meant changes, and a file is never lost.
 * The calls that touch the disk are wrapped; each in turn fails, or is where
 * the program is killed, until a run gets through. */
#include <dirent.h>
#include <errno.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../../grammar/edit.h"
#include "../harness/harness.h"

enum fate { WORKS, FAILS, KILLED };
static enum fate fate;
static int calls_left;

/* Whether this call is the one that fails; a killed program ends here. */
static bool doomed(void)
{
    if (fate == WORKS || --calls_left != 0)
        return false;
    if (fate == KILLED)
        _exit(9);
    errno = EIO;
    return true;
}

int __real_ftruncate(int file, off_t length);
int __wrap_ftruncate(int file, off_t length);
ssize_t __real_write(int file, const void *bytes, size_t count);
int __real_fsync(int file);
int __real_fchmod(int file, mode_t mode);
int __real_close(int file);
int __real_rename(const char *from, const char *to);
ssize_t __wrap_write(int file, const void *bytes, size_t count);
int __wrap_fsync(int file);
int __wrap_fchmod(int file, mode_t mode);
int __wrap_close(int file);
int __wrap_rename(const char *from, const char *to);

/* Half of what is asked is written, as a full disk would do. */
ssize_t __wrap_write(int file, const void *bytes, size_t count)
{
    if (fate == WORKS)
        return __real_write(file, bytes, count);
    if (doomed())
        return -1;
    return __real_write(file, bytes, count > 1 ? count / 2 : count);
}

int __wrap_ftruncate(int file, off_t length)
{
    return doomed() ? -1 : __real_ftruncate(file, length);
}

int __wrap_fsync(int file)
{
    return doomed() ? -1 : __real_fsync(file);
}

int __wrap_fchmod(int file, mode_t mode)
{
    return doomed() ? -1 : __real_fchmod(file, mode);
}

int __wrap_close(int file)
{
    return doomed() ? (__real_close(file), -1) : __real_close(file);
}

int __wrap_rename(const char *from, const char *to)
{
    return doomed() ? -1 : __real_rename(from, to);
}

#define OLD "; the old one\n[a]\nkey = 1\n"
#define NEW "; the new one, which is longer\n[a]\nkey = 22\nmore = 3\n"

static char folder[] = "/tmp/cuplatch-edit-XXXXXX";
static char path[80];

static void lay_out(void)
{
    fate = WORKS;
    if (!*path && mkdtemp(folder))
        snprintf(path, sizeof(path), "%s/site.ini", folder);
    FILE *out = fopen(path, "w");
    if (!out)
        abort();
    fputs(OLD, out);
    fclose(out);
}

static bool file_is(const char *text)
{
    fate = WORKS;
    char *got = cup_file_text(path);
    bool same = got && strcmp(got, text) == 0;
    free(got);
    return same;
}

__attribute__((destructor)) static void clean_up(void)
{
    char command[120];
    fate = WORKS;
    snprintf(command, sizeof(command), "rm -rf '%s'", folder);
    if (*path && system(command) != 0)
        perror(folder);
}

CASE(each_call_in_turn_fails_and_the_old_file_stays)
{
    int n = 0;
    int failed;
    do {
        lay_out();
        fate = FAILS;
        calls_left = ++n;
        failed = cup_file_replace(path, NEW);
        bool reached = calls_left <= 0;
        harness_at("call %d fails", n);
        if (failed)
            CHECK(file_is(OLD));
        else
            CHECK(file_is(NEW));
        if (!reached)
            break;
    } while (n < 100);
    CHECK(n > 8 && n < 100);
}

CASE(killed_at_any_call_the_old_or_the_new_file_is_there_whole)
{
    int status;
    int n = 0;
    do {
        lay_out();
        pid_t child = fork();
        if (child == 0) {
            fate = KILLED;
            calls_left = n + 1;
            _exit(cup_file_replace(path, NEW) != 0);
        }
        waitpid(child, &status, 0);
        harness_at("killed at call %d", n + 1);
        CHECK(file_is(OLD) || file_is(NEW));
        n++;
    } while (WEXITSTATUS(status) == 9 && n < 100);
    CHECK_INT(WEXITSTATUS(status), 0);
    CHECK(n > 8 && n < 100);
}

CASE(the_mode_of_the_file_stays)
{
    struct stat now;
    lay_out();
    chmod(path, 0640);
    CHECK_INT(cup_file_replace(path, NEW), 0);
    CHECK_INT(stat(path, &now), 0);
    CHECK_INT(now.st_mode & 07777, 0640);
}

/* Files beside the site file, hidden ones, too. */
static int files_there(void)
{
    int count = 0;
    DIR *open = opendir(folder);
    while (open && readdir(open))
        count++;
    if (open)
        closedir(open);
    return count - 2;
}

static bool anything(const char *where, const char *text)
{
    (void)where;
    return *text != '\0';
}

/* One edit, as calibrate makes it. */
static enum cup_edit_result edit_key(cup_edit_check *check)
{
    static const struct cup_edit edit = {"a", "key", "7"};
    char why[200] = "";
    enum cup_edit_result done =
        cup_file_edit(path, &edit, 1, check, why, sizeof(why));
    CHECK_INT(*why != '\0', done == CUP_EDIT_FAILED);
    return done;
}

#define EDITED "; the old one\n[a]\nkey = 7\n"

CASE(what_a_killed_program_left_is_taken_over)
{
    int status;
    lay_out();
    for (int i = 2; i < 6; i++) {
        pid_t child = fork();
        if (child == 0) {
            fate = KILLED;
            calls_left = i;
            _exit(cup_file_replace(path, NEW) != 0);
        }
        waitpid(child, &status, 0);
        CHECK_INT(WEXITSTATUS(status), 9);
        CHECK_INT(files_there(), 2);
    }
    CHECK_INT(edit_key(anything), CUP_EDIT_DONE);
    CHECK(file_is(EDITED));
    CHECK_INT(files_there(), 1);
}

static const char *meanwhile;

/* Somebody saves the file while we look whether ours would hold. */
static bool saved_meanwhile(const char *where, const char *text)
{
    FILE *out = meanwhile ? fopen(where, "w") : NULL;
    if (out) {
        fputs(meanwhile, out);
        fclose(out);
    }
    meanwhile = NULL;
    return *text != '\0';
}

CASE(what_somebody_saves_meanwhile_stays)
{
    lay_out();
    meanwhile = "; another, longer than before\n[a]\nkey = 1\nmore = 5\n";
    CHECK_INT(edit_key(saved_meanwhile), CUP_EDIT_DONE);
    CHECK(file_is("; another, longer than before\n[a]\nkey = 7\nmore = 5\n"));
}

static enum cup_edit_result second;

static bool at_once(const char *where, const char *text)
{
    pid_t child = fork();
    int status = 0;
    (void)where;
    if (child == 0)
        _exit((int)edit_key(anything));
    waitpid(child, &status, 0);
    second = (enum cup_edit_result)WEXITSTATUS(status);
    return *text != '\0';
}

CASE(two_at_once_do_not_meet)
{
    lay_out();
    CHECK_INT(edit_key(at_once), CUP_EDIT_DONE);
    CHECK_INT(second, CUP_EDIT_FAILED);
    CHECK(file_is(EDITED));
}

static bool nothing(const char *where, const char *text)
{
    (void)where;
    return *text == '\0';
}

CASE(a_text_that_is_unfit_is_not_written)
{
    lay_out();
    CHECK_INT(edit_key(nothing), CUP_EDIT_UNFIT);
    CHECK(file_is(OLD));
    CHECK_INT(files_there(), 1);
}

CASE(a_link_is_followed_and_stays)
{
    char link_path[100];
    struct stat about;
    lay_out();
    snprintf(link_path, sizeof(link_path), "%s/link.ini", folder);
    CHECK_INT(symlink("site.ini", link_path), 0);
    CHECK_INT(cup_file_replace(link_path, NEW), 0);
    CHECK_INT(lstat(link_path, &about), 0);
    CHECK(S_ISLNK(about.st_mode));
    CHECK(file_is(NEW));
    CHECK_INT(unlink(link_path), 0);
}

CASE(a_file_of_two_names_is_left_alone)
{
    char other[100];
    lay_out();
    snprintf(other, sizeof(other), "%s/other.ini", folder);
    CHECK_INT(link(path, other), 0);
    CHECK_INT(edit_key(anything), CUP_EDIT_FAILED);
    CHECK(file_is(OLD));
    CHECK_INT(unlink(other), 0);
}

CASE(a_zero_byte_loses_nothing_of_what_follows)
{
    static const char text[] = "; a\0b\n[a]\nkey = 1\n";
    char now[sizeof(text)] = "";
    lay_out();
    FILE *out = fopen(path, "w");
    CHECK(out != NULL);
    CHECK_INT(fwrite(text, 1, sizeof(text) - 1, out), sizeof(text) - 1);
    CHECK_INT(fclose(out), 0);
    CHECK_INT(edit_key(anything), CUP_EDIT_FAILED);
    FILE *in = fopen(path, "r");
    CHECK(in != NULL);
    CHECK_INT(fread(now, 1, sizeof(now), in), sizeof(text) - 1);
    CHECK_INT(memcmp(now, text, sizeof(text) - 1), 0);
    CHECK_INT(fclose(in), 0);
}

CASE(only_the_value_changes)
{
    static const struct {
        const char *before;
        const char *key;
        const char *after;
    } edits[] = {
        {"[a]\nk=1\n", "k", "[a]\nk=99\n"},
        {"[a]\n  k  =  1  ; why\n", "k", "[a]\n  k  =  99  ; why\n"},
        {"[a]\r\nk = 1\t# why\r\n", "k", "[a]\r\nk = 99\t# why\r\n"},
        {"[b]\nk = 1\n[a]\nk = 2", "k", "[b]\nk = 1\n[a]\nk = 99"},
        {"[a]\n;k = 1\nk = 2\n", "k", "[a]\n;k = 1\nk = 99\n"},
        {"[a]\nkk = 1\nk = 2\n", "k", "[a]\nkk = 1\nk = 99\n"},
        {"[a]\nk =\n", "k", "[a]\nk =99\n"},
        {"[a]\nx = 1\n\n; next\n[b]\n", "k",
         "[a]\nx = 1\nk = 99\n\n; next\n[b]\n"},
        {"[a]\r\n\r\n[b]\r\n", "k", "[a]\r\nk = 99\r\n\r\n[b]\r\n"},
        {"[a]", "k", "[a]\nk = 99\n"},
        {"\xEF\xBB\xBF[a]\nk = 1\n", "k", "\xEF\xBB\xBF[a]\nk = 99\n"},
        {"[ab]\nk = 1\n[a]\nk = 2\n", "k", "[ab]\nk = 1\n[a]\nk = 99\n"},
    };
    for (size_t i = 0; i < sizeof(edits) / sizeof(edits[0]); i++) {
        struct cup_edit edit = {"a", edits[i].key, "99"};
        char *got = cup_edit_text(edits[i].before, &edit, 1);
        CHECK_TEXT(got, edits[i].after);
        free(got);
    }
}

CASE(a_thing_that_is_not_there_cannot_be_edited)
{
    struct cup_edit edit = {"a", "k", "1"};
    CHECK(cup_edit_text("[b]\nk = 2\n", &edit, 1) == NULL);
    CHECK(cup_edit_text("", &edit, 1) == NULL);
    CHECK(cup_file_text("/nowhere/at/all") == NULL);
    CHECK_INT(cup_file_replace("/nowhere/at/all", "x"), -1);
}
