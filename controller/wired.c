/* Whether the machine has what the pins file says. */
#include "wired.h"

#include <errno.h>
#include <signal.h>
#include <stdlib.h>
#include <string.h>
#include <sys/wait.h>
#include <unistd.h>

#include "../ports/linux/chips.h"
#include "../ports/linux/ways.h"

/* Beside the time that a pin has by itself. */
#define TRY_MS 3000
#define WRONG_SIZE 400

static struct problems *problems_of(struct wired *wired)
{
    return &wired->pins.problems;
}

/* A line that is there and that nobody has. */
static void look_at_line(struct wired *wired, const struct pin *pin, int chip,
                         int32_t line)
{
    struct gpio_line about;
    if (line < 0)
        return;
    if (!gpio_look(chip, (unsigned)line, &about))
        problem_error(problems_of(wired), pin->place,
                      "there is no line %d of chip %s; it has 0 to %d",
                      (int)line, pin->chip, chip_lines(pin->chip) - 1);
    else if (*about.user)
        problem_error(problems_of(wired), pin->place,
                      "line %d of chip %s is in use by %s", (int)line,
                      pin->chip, about.user);
}

static void look_at_lines(struct wired *wired, const struct pin *pin)
{
    char wrong[WRONG_SIZE];
    struct gpio_chip about;
    int chip = chip_find(pin->chip, &about, wrong, sizeof(wrong));
    if (chip < 0) {
        problem_error(problems_of(wired), pin->place, "chip %s: %s", pin->chip,
                      wrong);
        return;
    }
    look_at_line(wired, pin, chip, pin->line);
    look_at_line(wired, pin, chip, pin->trigger);
    look_at_line(wired, pin, chip, pin->echo);
    close(chip);
}

/* In a child, which may hang: opens a duct and says what is wrong. */
static void try_in_child(const struct ask *ask, int out)
{
    char wrong[WRONG_SIZE] = "";
    if (way_of(ask->duct->pin)->open(ask->duct, wrong, sizeof(wrong)))
        *wrong = '\0';
    else if (!*wrong)
        snprintf(wrong, sizeof(wrong), "cannot be opened");
    (void)!write(out, wrong, strlen(wrong) + 1);
    duct_shut(ask->duct);
    _exit(0);
}

/* Opens what is behind a pin, in a process of its own. */
static void try_pin(struct wired *wired, const struct ask *ask)
{
    char wrong[WRONG_SIZE] = "does not let itself be opened within its time";
    int ends[2];
    if (pipe(ends) != 0)
        return;
    pid_t child = fork();
    if (child == 0)
        try_in_child(ask, ends[1]);
    close(ends[1]);
    if (child > 0 &&
        duct_can_read(ends[0], TRY_MS + duct_answer_ms(ask->duct->pin)) &&
        read(ends[0], wrong, sizeof(wrong)) <= 0)
        snprintf(wrong, sizeof(wrong), "cannot be tried");
    wrong[sizeof(wrong) - 1] = '\0';
    close(ends[0]);
    if (child > 0 && kill(child, SIGKILL) == 0)
        waitpid(child, NULL, 0);
    if (*wrong)
        problem_error(problems_of(wired), ask->duct->pin->place, "%s", wrong);
}

/* All that is at one board is behind one line. */
static bool is_tried(const struct pin *pin, const struct pin *tried)
{
    return pin == tried ||
           (tried && pin->way == PIN_BOARD && tried->way == PIN_BOARD &&
            strcmp(pin->device, tried->device) == 0);
}

static void try_all(struct wired *wired)
{
    const struct pin *tried = NULL;
    for (size_t i = 0; i < wired->pins.count; i++)
        if (wired->pins.list[i].chip)
            look_at_lines(wired, &wired->pins.list[i]);
    for (size_t i = 0; i < wired->buses.ask_count; i++) {
        const struct ask *ask = &wired->buses.asks[i];
        if (!is_tried(ask->duct->pin, tried) && !ask->duct->pin->chip)
            try_pin(wired, ask);
        tried = ask->duct->pin;
    }
}

static void leave_out_outputs(struct wired *wired, const struct cup_plan *plan)
{
    for (cup_index i = 0; i < plan->pump_count; i++)
        wired->wiring.outputs[i][0] = wired->wiring.outputs[i][1] = NULL;
    for (cup_index i = 0; i < plan->button_count; i++)
        wired->wiring.buttons[i].pin = NULL;
    wired->wiring.lamp_count = 0;
}

int wired_open(const struct site *site, const char *path, enum wired_how how,
               struct wired *wired)
{
    char wrong[WRONG_SIZE];
    *wired = (struct wired){.outlets = {.line_count = 0}};
    if (how == WIRED_BOARD)
        pins_of_board(&wired->pins, site->file, path, &wired->wiring);
    else if (pins_read(&wired->pins, path))
        pins_join(&wired->pins, site->file, &wired->wiring);
    else
        return tell_unopened(path);
    if (how == WIRED_SENSORS)
        leave_out_outputs(wired, site->site.plan);
    if (!buses_make(&wired->buses, &wired->wiring, site->site.plan, wrong,
                    sizeof(wrong)))
        problem_error(problems_of(wired), (struct place){0, "this file"}, "%s",
                      wrong);
    if (how != WIRED_READ)
        try_all(wired);
    problems_print(problems_of(wired), path, stderr);
    return problems_of(wired)->errors ? EXIT_NO : EXIT_DONE;
}

void wired_wrong(const struct wired *wired, const struct place *where,
                 const char *wrong)
{
    fprintf(stderr, "cuplatch: %s:%d: %s: %s\n", wired->pins.path, where->line,
            where->text, wrong);
}

/* Outputs that the kernel lends to anybody. */
static bool hold_the_rest(struct wired *wired)
{
    for (size_t i = 0; i < wired->buses.duct_count; i++) {
        const struct duct *duct = &wired->buses.ducts[i];
        if (duct->switches && !duct->pin->chip &&
            !lease_take(&wired->leases, duct->pin)) {
            wired_wrong(wired, &duct->pin->place,
                        "another program of this machine switches what is "
                        "there; end that first");
            return false;
        }
    }
    return true;
}

bool wired_hold(struct wired *wired, const struct site *site)
{
    char wrong[WRONG_SIZE];
    struct place where = {0, ""};
    if (!outlets_open(&wired->outlets, &wired->wiring, site->site.plan, &where,
                      wrong, sizeof(wrong))) {
        wired_wrong(wired, &where, wrong);
        return false;
    }
    if (!hold_the_rest(wired))
        return false;
    if (*wired->outlets.found)
        fprintf(stderr,
                "cuplatch: found on before anything ran: %s. Now off. Give "
                "each a resistor that holds it off while nobody drives it\n",
                wired->outlets.found);
    return true;
}

void wired_close(struct wired *wired)
{
    leases_let_go(&wired->leases);
    outlets_close(&wired->outlets);
    buses_free(&wired->buses);
    wiring_free(&wired->wiring);
    pins_free(&wired->pins);
}
