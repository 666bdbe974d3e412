/* What the subcommands share. */
#include <errno.h>
#include <fcntl.h>
#include <inttypes.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../grammar/quantity.h"
#include "cli.h"
#include "cuplatch/say.h"

/* Of a text that is wrapped. */
#define WIDTH 78

static void print_usage(const struct words *words)
{
    fprintf(stderr, "Usage: %s [OPTION...] %s; --help tells more\n",
            words->name, words->usage);
}

int wrong_use(struct words *words, const char *form, const char *what)
{
    fprintf(stderr, "cuplatch: ");
    fprintf(stderr, form, what);
    fputc('\n', stderr);
    print_usage(words);
    return EXIT_USAGE;
}

static bool take_words(struct words *words, int most)
{
    const char *word;
    while ((word = poptGetArg(words->context))) {
        if (words->count == most) {
            wrong_use(words, "one word too many: \"%s\"", word);
            return false;
        }
        words->list[words->count++] = word;
    }
    return true;
}

bool words_read(struct words *words, int argc, const char **argv,
                const struct poptOption *options, const char *usage, int least,
                int most)
{
    *words = (struct words){0};
    snprintf(words->name, sizeof(words->name), "cuplatch %s", argv[0]);
    argv[0] = words->name;
    words->context = poptGetContext(words->name, argc, argv, options, 0);
    words->usage = usage;
    poptSetOtherOptionHelp(words->context, usage);
    int next = poptGetNextOpt(words->context);
    if (next < -1) {
        fprintf(stderr, "cuplatch: %s: %s\n",
                poptBadOption(words->context, POPT_BADOPTION_NOALIAS),
                poptStrerror(next));
        print_usage(words);
        return false;
    }
    if (!take_words(words, most))
        return false;
    if (words->count < least) {
        wrong_use(words, "expected %s", usage);
        return false;
    }
    return true;
}

void words_free(struct words *words)
{
    poptFreeContext(words->context);
}

void texts_free(const char **texts)
{
    for (size_t i = 0; texts && texts[i]; i++)
        free((void *)texts[i]);
    free(texts);
}

static volatile int stop;
/* Both ends of a pipe of our own: the handler writes, who waits reads. */
static int stop_pipe[2] = {-1, -1};

static void on_signal(int number)
{
    int was = errno;
    (void)number;
    stop = 1;
    if (write(stop_pipe[1], "", 1) < 0)
        stop = 1; /* it is full: that is enough */
    errno = was;
}

/* What was ignored when we were started stays so, as nohup wants it. */
static void end_by(int number)
{
    struct sigaction action = {.sa_handler = on_signal};
    struct sigaction before;
    if (sigaction(number, NULL, &before) == 0 && before.sa_handler != SIG_IGN)
        sigaction(number, &action, NULL);
}

/* Neither end is left to a program that we start, nor can it hold us up. With
 * none nobody could stop us, so we end before anything runs. */
static void make_pipe(void)
{
    if (pipe(stop_pipe) != 0) {
        fprintf(stderr, "cuplatch: cannot be made ready to be stopped: %s\n",
                strerror(errno));
        exit(EXIT_OUTSIDE);
    }
    for (int i = 0; i < 2; i++) {
        fcntl(stop_pipe[i], F_SETFD, FD_CLOEXEC);
        fcntl(stop_pipe[i], F_SETFL, O_NONBLOCK);
    }
}

/* Without SA_RESTART, so that a read under way ends. A write that nobody reads,
 * or that is too large, fails instead of ending us. */
const volatile int *stop_flag(void)
{
    static const int ends[] = {SIGHUP,  SIGINT,  SIGQUIT, SIGTERM,
                               SIGUSR1, SIGUSR2, SIGALRM, SIGVTALRM,
                               SIGPROF, SIGXCPU, SIGPOLL};
    if (stop_pipe[0] < 0)
        make_pipe();
    for (size_t i = 0; i < sizeof(ends) / sizeof(ends[0]); i++)
        end_by(ends[i]);
    signal(SIGPIPE, SIG_IGN);
    signal(SIGXFSZ, SIG_IGN);
    return &stop;
}

int stop_fd(void)
{
    return stop_pipe[0];
}

void tell_failure(const char *what, int why)
{
    fprintf(stderr, "cuplatch: %s%s%s\n", what, why ? ": " : "",
            why ? strerror(why) : "");
}

int cannot_open(struct words *words, const char *path)
{
    int why = errno;
    fprintf(stderr, "cuplatch: %s: %s\n", path,
            why == EISDIR ? "is a folder; expected a file in it"
                          : strerror(why));
    if (why == EISDIR)
        return EXIT_USAGE;
    if (why != ENOENT)
        return EXIT_OUTSIDE;
    print_usage(words);
    return EXIT_USAGE;
}

uint32_t moment_read(const char *text)
{
    static const struct cup_plan nothing;
    struct cup_word word;
    char line[60];
    snprintf(line, sizeof(line), "site clock %.30s%s", text,
             strchr(text, 'T') ? "" : "T00:00:00");
    return cup_read_word(&nothing, line, &word) ? 0 : word.number;
}

int32_t tank_holds(const struct cup_plan *plan, cup_index thing,
                   cup_value pct100)
{
    const struct cup_tank *tank = cup_tank_of(plan, thing);
    if (tank->form == CUP_TANK_FLOATS)
        return -1;
    int64_t all =
        (int64_t)cup_tank_volume_ml(tank, 0) + cup_tank_ullage_ml(tank, 0);
    return (int32_t)(all * pct100 / CUP_TANK_FULL);
}

struct cup_file *site_of_text(const char *path, const char *text)
{
    /* no stream is empty: an end of line says no more than nothing does */
    const char *more = *text ? text : "\n";
    FILE *in = fmemopen((void *)more, strlen(more), "r");
    struct cup_file *file = in ? cup_file_read_from(in, path) : NULL;
    if (!file)
        abort();
    fclose(in);
    return file;
}

void print_wrapped(FILE *out, const char *first, const char *text)
{
    size_t at = strlen(first);
    size_t indent = at;
    fputs(first, out);
    while (*text) {
        size_t word = strcspn(text, " ");
        if (at > indent && at + 1 + word > WIDTH) {
            fprintf(out, "\n%*s", (int)indent, "");
            at = indent;
        } else if (at > indent) {
            fputc(' ', out);
            at++;
        }
        fprintf(out, "%.*s", (int)word, text);
        at += word;
        text += word;
        text += strspn(text, " ");
    }
    fputc('\n', out);
}

int32_t site_flow(const struct cup_file *file, const char *pump)
{
    const char *text = cup_file_value(file, pump, "flow");
    int32_t ml_min = 0;
    return text && !quantity_read(text, CUP_UNIT_FLOW, &ml_min) ? ml_min : 0;
}

const char *site_id(const struct words *words, const struct site *site)
{
    static char stem[64];
    const char *id = cup_file_value(site->file, "site", "id");
    const char *name = strrchr(words->list[0], '/');
    snprintf(stem, sizeof(stem), "%.60s", name ? name + 1 : words->list[0]);
    stem[strcspn(stem, ".")] = '\0';
    return id ? id : stem;
}

bool site_text_holds(const char *path, const char *text)
{
    struct cup_file *file = site_of_text(path, text);
    bool holds = cup_file_errors(file) == 0;
    if (!holds)
        cup_file_problems(file, stderr);
    cup_file_free(file);
    return holds;
}

int site_open(struct site *site, struct words *words)
{
    const char *path = words->list[0];
    *site = (struct site){0};
    site->file = cup_file_read(path);
    if (!site->file)
        return cannot_open(words, path);
    const struct cup_plan *plan = cup_file_plan(site->file);
    if (!plan) {
        cup_file_problems(site->file, stderr);
        fprintf(stderr, "cuplatch: %s has errors: see cuplatch check %s\n",
                path, path);
        return EXIT_NO;
    }
    size_t size = cup_site_size(plan);
    site->state = malloc(size);
    if (!site->state || cup_site_bind(&site->site, plan, site->state, size))
        return EXIT_OUTSIDE;
    return EXIT_DONE;
}

void site_close(struct site *site)
{
    cup_file_free(site->file);
    free(site->state);
}
