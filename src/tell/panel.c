/* Two lines and four inputs. */
#include "cuplatch/panel.h"

#include <string.h>

#include "texts.h"

enum { LIT = 1, CHANGING = 2, KEPT = 4 };

static uint16_t pages_of(CUP_FLASH struct cup_plan *plan)
{
    return (uint16_t)(cup_duty_thing(plan, 0) + plan->setting_count);
}

/* The setting of a page; CUP_NONE for a reading or an output. */
static cup_index setting_of(CUP_FLASH struct cup_plan *plan, uint16_t page)
{
    cup_index first = cup_duty_thing(plan, 0);
    return page < first ? CUP_NONE : (cup_index)(page - first);
}

/* What one input changes a value by: coarser the larger it is. */
static int32_t step_of(uint8_t unit, int32_t value)
{
    switch (unit) {
    case CUP_UNIT_SECOND:
        if (value < 60000)
            return 5000;
        return value < 600000 ? 30000 : 300000;
    case CUP_UNIT_PASCAL:
        return 10000;
    case CUP_UNIT_CELSIUS:
        return 50;
    default:
        return 100;
    }
}

/* A change that nobody kept is forgotten; the light goes out later. */
static void lapse(struct cup_panel *panel, const struct cup_site *site,
                  uint32_t now_ms)
{
    uint32_t idle = cup_elapsed(now_ms, panel->touched_ms);
    if (idle >= site->plan->lapse_ms)
        panel->flags &= (uint8_t) ~(CHANGING | KEPT);
    if (idle >= site->plan->light_ms)
        panel->flags &= (uint8_t)~LIT;
}

static void change(struct cup_panel *panel, const struct cup_site *site,
                   bool more)
{
    cup_index setting = setting_of(site->plan, panel->page);
    if (setting == CUP_NONE)
        return;
    CUP_FLASH struct cup_setting *plan = &site->plan->settings[setting];
    if (!(panel->flags & CHANGING))
        panel->draft = cup_site_setting(site, setting);
    int32_t step = step_of(cup_setting_unit(site->plan, setting), panel->draft);
    int32_t value = panel->draft + (more ? step : -step);
    if (value >= plan->low && value <= plan->high)
        panel->draft = value;
    panel->flags = (uint8_t)((panel->flags | CHANGING) & ~KEPT);
    panel->refused = CUP_OK;
}

static void keep(struct cup_panel *panel, const struct cup_site *site,
                 uint32_t now_ms)
{
    struct cup_word word = {.verb = CUP_VERB_SET, .change_count = 1};
    if (!(panel->flags & CHANGING))
        return;
    word.changes[0].setting = setting_of(site->plan, panel->page);
    word.changes[0].value = panel->draft;
    panel->refused = (uint8_t)cup_site_steer(site, now_ms, &word);
    if (panel->refused == CUP_OK)
        panel->flags = (uint8_t)((panel->flags & ~CHANGING) | KEPT);
}

void cup_panel_press(struct cup_panel *panel, const struct cup_site *site,
                     uint32_t now_ms, enum cup_input input)
{
    lapse(panel, site, now_ms);
    panel->touched_ms = now_ms;
    if (!(panel->flags & LIT)) {
        panel->flags |= LIT;
        return;
    }
    if (input == CUP_INPUT_NEXT) {
        panel->flags = LIT;
        panel->refused = CUP_OK;
        panel->page = (uint16_t)((panel->page + 1) % pages_of(site->plan));
    } else if (input == CUP_INPUT_KEEP)
        keep(panel, site, now_ms);
    else
        change(panel, site, input == CUP_INPUT_MORE);
}

/* Writing */

/* Adds text to a line that is as wide as the panel. */
static void write_text(char *line, uint8_t width, CUP_FLASH char *text)
{
    size_t used = strlen(line);
    while (*text && used < width)
        line[used++] = *text++;
    line[used] = '\0';
}

static void write_value(char *line, uint8_t width,
                        CUP_FLASH struct cup_plan *plan, int32_t value,
                        uint8_t unit)
{
    size_t used = strlen(line);
    cup_say_value(line + used, width + 1 - used, plan, value, unit);
}

static void pad(char *line, uint8_t width)
{
    size_t used = strlen(line);
    memset(line + used, ' ', width - used);
    line[width] = '\0';
}

static void show_reading(const struct cup_site *site, cup_index thing,
                         uint8_t width, char *below)
{
    struct cup_reading reading = cup_site_reading(site, thing);
    if (cup_usable(reading)) {
        write_value(below, width, site->plan, cup_site_shown(site, thing),
                    reading.unit);
        write_text(below, width, CUP_TEXT(" "));
    }
    if (reading.quality != CUP_QUALITY_GOOD)
        write_text(below, width, cup_quality_code(reading.quality));
}

/* Its state, and what is left of a rest or a run by hand. */
static void show_pump(const struct cup_site *site, cup_index pump,
                      uint8_t width, char *below)
{
    struct cup_cause cause = cup_site_why(site, pump);
    write_text(below, width,
               cup_pump_code((uint8_t)cup_pump_shows(&site->pumps[pump])));
    if (cup_cause_unit(site->plan, &cause) != CUP_UNIT_SECOND ||
        cause.value <= 0)
        return;
    write_text(below, width, CUP_TEXT(" "));
    write_value(below, width, site->plan, cause.value, CUP_UNIT_SECOND);
}

static void show_setting(const struct cup_panel *panel,
                         const struct cup_site *site, cup_index setting,
                         uint8_t width, char *below)
{
    uint8_t unit = cup_setting_unit(site->plan, setting);
    bool changing = panel->flags & CHANGING;
    write_value(below, width, site->plan,
                changing ? panel->draft : cup_site_setting(site, setting),
                unit);
    if (panel->refused != CUP_OK)
        write_text(below, width, CUP_TEXT(" refused"));
    else if (changing)
        write_text(below, width, CUP_TEXT(" keep?"));
    else if (panel->flags & KEPT)
        write_text(below, width, CUP_TEXT(" kept"));
}

static uint8_t length_of(CUP_FLASH char *text)
{
    uint8_t length = 0;
    while (text[length])
        length++;
    return length;
}

/* "kale.start": a long name is cut, what is set is not. */
static void name_setting(CUP_FLASH struct cup_plan *plan, cup_index setting,
                         uint8_t width, char *top)
{
    CUP_FLASH struct cup_setting *one = &plan->settings[setting];
    CUP_FLASH char *code = cup_setting_code(plan, setting);
    write_text(top, (uint8_t)(width - 1 - length_of(code)),
               cup_thing_name(plan, cup_duty_thing(plan, one->duty)));
    write_text(top, width, CUP_TEXT("."));
    write_text(top, width, code);
}

bool cup_panel_show(struct cup_panel *panel, const struct cup_site *site,
                    uint32_t now_ms, char top[CUP_PANEL_SIZE],
                    char below[CUP_PANEL_SIZE])
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    uint8_t width =
        plan->panel_width < CUP_PANEL_MOST ? plan->panel_width : CUP_PANEL_MOST;
    cup_index setting = setting_of(plan, panel->page);
    lapse(panel, site, now_ms);
    top[0] = below[0] = '\0';
    if (setting != CUP_NONE) {
        name_setting(plan, setting, width, top);
        show_setting(panel, site, setting, width, below);
    } else {
        cup_index first = cup_pump_thing(plan, 0);
        write_text(top, width, cup_thing_name(plan, (cup_index)panel->page));
        if (panel->page < first)
            show_reading(site, (cup_index)panel->page, width, below);
        else
            show_pump(site, (cup_index)(panel->page - first), width, below);
    }
    pad(top, width);
    pad(below, width);
    return panel->flags & LIT;
}

CUP_OWN_TEXTS(input_code, CUP_INPUTS)

enum cup_input cup_read_input(const char *word)
{
    for (uint8_t i = 0; i < CUP_INPUT_COUNT; i++) {
        const char *at = word;
        if (cup_take_word(&at, input_code(i)) && *at == '\0')
            return (enum cup_input)i;
    }
    return CUP_INPUT_COUNT;
}
