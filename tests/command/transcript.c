/* Plays a transcript of the command and compares. A transcript is what a
 * person would see at a terminal:
 *
 *   # a comment
 *   $ cuplatch check bad.ini        a command for the shell
 *   < a line it reads
 *   > a line it prints, exactly     >~ a part of the next line it prints
 *   ! a line on stderr              !~ a part of the next line on stderr
 *   ...                             any lines to the end of stdout
 *   = 1                             what it exits with (0 if not given)
 *
 * Use: transcript FILE DIR, where DIR holds the command. */
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

/* One command under comparison. */
struct step {
    char command[4096];
    int line;
    int status;
    FILE *in;
    FILE *out;
    FILE *err;
    bool ran;
    bool rest;
    bool failed;
};

static const char *path;
static unsigned passed;
static unsigned failed;

static void cut(char *text)
{
    text[strcspn(text, "\n")] = '\0';
}

static void complain(struct step *step, int line, const char *what,
                     const char *expected, const char *got)
{
    printf("%s:%d: %s\n  expected %s\n  got      %s\n", path, line, what,
           expected, got);
    step->failed = true;
}

/* Runs the command with the lines it reads; its output goes to files. */
static void run(struct step *step)
{
    if (step->ran)
        return;
    step->ran = true;
    fflush(step->in);
    rewind(step->in);
    pid_t child = fork();
    if (child == 0) {
        dup2(fileno(step->in), 0);
        dup2(fileno(step->out), 1);
        dup2(fileno(step->err), 2);
        execl("/bin/sh", "sh", "-c", step->command, (char *)NULL);
        _exit(127);
    }
    int status = 0;
    waitpid(child, &status, 0);
    step->status = WIFEXITED(status) ? WEXITSTATUS(status) : 128;
    rewind(step->out);
    rewind(step->err);
}

static void expect(struct step *step, FILE *from, const char *text, int line)
{
    char got[4096];
    bool part = *text == '~';
    run(step);
    text += part;
    text += *text == ' ';
    if (!fgets(got, sizeof(got), from))
        strcpy(got, "(nothing more)");
    cut(got);
    if (part ? !strstr(got, text) : strcmp(got, text) != 0)
        complain(step, line, step->command, text, got);
}

static void finish(struct step *step, int expected)
{
    char got[4096];
    char number[32];
    char status[32];
    run(step);
    snprintf(number, sizeof(number), "exit %d", expected);
    snprintf(status, sizeof(status), "exit %d", step->status);
    if (step->status != expected)
        complain(step, step->line, step->command, number, status);
    if (!step->rest && fgets(got, sizeof(got), step->out))
        complain(step, step->line, step->command, "(nothing more)", got);
    if (fgets(got, sizeof(got), step->err))
        complain(step, step->line, step->command, "(nothing more on stderr)",
                 got);
    fclose(step->in);
    fclose(step->out);
    fclose(step->err);
    passed += !step->failed;
    failed += step->failed;
}

static void begin(struct step *step, const char *command, int line)
{
    *step = (struct step){.line = line};
    snprintf(step->command, sizeof(step->command), "%s", command);
    step->in = tmpfile();
    step->out = tmpfile();
    step->err = tmpfile();
    if (!step->in || !step->out || !step->err)
        abort();
}

static void take(struct step *step, char *text, int line)
{
    if (*text == '<')
        fprintf(step->in, "%s\n", text[1] ? text + 2 : "");
    else if (*text == '>')
        expect(step, step->out, text + 1, line);
    else if (*text == '!')
        expect(step, step->err, text + 1, line);
    else if (strcmp(text, "...") == 0)
        step->rest = true;
}

static void play(FILE *file)
{
    char text[4096];
    struct step step = {0};
    bool open = false;
    int expected = 0;
    for (int line = 1; fgets(text, sizeof(text), file); line++) {
        cut(text);
        if (*text == '=')
            expected = atoi(text + 1);
        else if (*text != '$' && open)
            take(&step, text, line);
        if (*text != '$')
            continue;
        if (open)
            finish(&step, expected);
        begin(&step, text + 2, line);
        open = true;
        expected = 0;
    }
    if (open)
        finish(&step, expected);
}

int main(int argc, char **argv)
{
    char search[2000];
    if (argc != 3)
        return 2;
    path = argv[1];
    snprintf(search, sizeof(search), "%s:%s", argv[2], getenv("PATH"));
    setenv("PATH", search, 1);
    FILE *file = fopen(path, "r");
    if (!file)
        return 2;
    play(file);
    fclose(file);
    printf("%u passed, %u failed\n", passed, failed);
    return failed > 0 || passed == 0;
}
