/* Gathers lines chip by chip: each chip is asked once for all of its own. */
#include "outlets.h"

#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "chips.h"

/* One that is to be held, for whoever has it. */
struct wanted {
    const struct pin *pin;
    struct outlet *outlet;
    bool pump;
    bool off;
};

struct list {
    struct wanted *all;
    size_t count;
};

static void want(struct list *list, const struct pin *pin,
                 struct outlet *outlet, bool pump, bool off)
{
    *outlet = (struct outlet){.held = -1, .off = off};
    if (pin && pin->way == PIN_GPIO && pin->off_pulse_ms < 0)
        list->all[list->count++] = (struct wanted){pin, outlet, pump, off};
}

static struct list gather(struct outlets *outlets, const struct wiring *wiring,
                          const struct cup_plan *plan)
{
    size_t most =
        2u * plan->pump_count + plan->supplies + wiring->lamp_count + 1u;
    struct list list = {calloc(most, sizeof(struct wanted)), 0};
    if (!list.all)
        abort();
    for (cup_index i = 0; i < plan->pump_count; i++)
        for (int part = 0; part < 2; part++)
            want(&list, wiring->outputs[i][part], &outlets->outputs[i][part],
                 true, plan->pumps[i].active_low);
    for (cup_index i = 0; i < plan->supplies; i++)
        want(&list, wiring->supplies[i], &outlets->supplies[i], false, false);
    for (size_t i = 0; i < wiring->lamp_count; i++)
        want(&list, wiring->lamps[i].pin, &outlets->lamps[i], false, false);
    return list;
}

/* What of one chip is asked for at once: lines of one pull. */
struct chip_list {
    struct gpio_ask ask;
    struct wanted *of[GPIO_LINES_MOST];
    uint64_t pumps;
};

static void collect(const struct list *list, const struct pin *first,
                    struct chip_list *chip)
{
    *chip = (struct chip_list){
        .ask = {.user = "cuplatch", .outputs = true, .pull = first->pull}};
    for (size_t i = 0; i < list->count; i++) {
        struct wanted *wanted = &list->all[i];
        if (strcmp(wanted->pin->chip, first->chip) != 0 ||
            wanted->pin->pull != first->pull || wanted->outlet->bit ||
            chip->ask.count == GPIO_LINES_MOST)
            continue;
        size_t at = chip->ask.count++;
        wanted->outlet->bit = UINT64_C(1) << at;
        chip->of[at] = wanted;
        chip->ask.lines[at] = (uint32_t)wanted->pin->line;
        if (wanted->off)
            chip->ask.first |= wanted->outlet->bit;
        if (wanted->pump)
            chip->pumps |= wanted->outlet->bit;
    }
}

static void note_found(struct outlets *outlets, const struct chip_list *chip)
{
    for (size_t i = 0; i < chip->ask.count; i++) {
        size_t used = strlen(outlets->found);
        if ((chip->ask.found ^ chip->ask.first) >> i & 1u)
            snprintf(outlets->found + used, sizeof(outlets->found) - used,
                     "%s%s", used ? ", " : "", chip->of[i]->pin->port);
    }
}

static void note_lines(struct guarded_lines *list, size_t *count, int held,
                       uint64_t mask, uint64_t off)
{
    if (mask)
        list[(*count)++] = (struct guarded_lines){held, mask, off & mask};
}

static bool hold(struct outlets *outlets, const char *name,
                 struct chip_list *chip, char *wrong, size_t size)
{
    uint64_t all = 0;
    int held = -1;
    if (outlets->line_count == CHIPS_MOST || outlets->other_count == CHIPS_MOST)
        snprintf(wrong, size, "outputs are on more than %d chips", CHIPS_MOST);
    else
        held = chip_hold(name, &chip->ask, wrong, size);
    if (held < 0)
        return false;
    for (size_t i = 0; i < chip->ask.count; i++) {
        chip->of[i]->outlet->held = held;
        all |= chip->of[i]->outlet->bit;
    }
    note_found(outlets, chip);
    note_lines(outlets->lines, &outlets->line_count, held, chip->pumps,
               chip->ask.first);
    note_lines(outlets->others, &outlets->other_count, held, all & ~chip->pumps,
               chip->ask.first);
    return true;
}

static void *room(size_t count, size_t size)
{
    void *list = calloc(count + 1, size);
    if (!list)
        abort();
    return list;
}

bool outlets_open(struct outlets *outlets, const struct wiring *wiring,
                  const struct cup_plan *plan, struct place *where, char *wrong,
                  size_t size)
{
    *outlets = (struct outlets){
        .outputs = room(plan->pump_count, sizeof(struct outlet[2])),
        .supplies = room(plan->supplies, sizeof(struct outlet)),
        .lamps = room(wiring->lamp_count, sizeof(struct outlet))};
    struct list list = gather(outlets, wiring, plan);
    bool held = true;
    for (size_t i = 0; i < list.count && held; i++) {
        struct chip_list chip;
        if (list.all[i].outlet->held >= 0)
            continue;
        collect(&list, list.all[i].pin, &chip);
        *where = list.all[i].pin->place;
        held = hold(outlets, list.all[i].pin->chip, &chip, wrong, size);
    }
    memcpy(outlets->lines + outlets->line_count, outlets->others,
           outlets->other_count * sizeof(*outlets->others));
    outlets->line_count += outlets->other_count;
    free(list.all);
    if (!held)
        outlets_close(outlets);
    return held;
}

void outlets_close(struct outlets *outlets)
{
    for (size_t i = 0; i < outlets->line_count; i++) {
        int held = outlets->lines[i].held;
        for (size_t j = i + 1; j < outlets->line_count; j++)
            if (outlets->lines[j].held == held)
                outlets->lines[j].held = -1;
        if (held >= 0)
            close(held);
    }
    free(outlets->outputs);
    free(outlets->supplies);
    free(outlets->lamps);
    *outlets = (struct outlets){.line_count = 0};
}

bool outlet_put(const struct outlet *outlet, bool high)
{
    return outlet->held >= 0 &&
           gpio_set(outlet->held, outlet->bit, high ? outlet->bit : 0);
}
