/* Two lines and four inputs. One file, though a long one: boards that are not
 * optimized as a whole pay for calls between two. */
#include "cuplatch/panel.h"

#include <string.h>

#include "cuplatch/console.h"

#include "texts.h"

enum { LIT = 1, CHANGING = 2, KEPT = 4, READING = 8 };

/* Pages: readings, outputs, settings, alerts. */
static uint16_t alerts_page(CUP_FLASH struct cup_plan *plan)
{
    return (uint16_t)(cup_duty_thing(plan, 0) + plan->setting_count);
}

/* The setting of a page; CUP_NONE for any other. */
static cup_index setting_of(CUP_FLASH struct cup_plan *plan, uint16_t page)
{
    cup_index first = cup_duty_thing(plan, 0);
    return page < first || page >= alerts_page(plan)
               ? CUP_NONE
               : (cup_index)(page - first);
}

/* The output of a page; CUP_NONE for any other. */
static cup_index pump_of(CUP_FLASH struct cup_plan *plan, uint16_t page)
{
    cup_index first = cup_pump_thing(plan, 0);
    return page < first || page >= cup_duty_thing(plan, 0)
               ? CUP_NONE
               : (cup_index)(page - first);
}

/* Reading a text, two lines at a time */

/* A text on its way to the panel: `part` counts down to the two lines that are
 * wanted. */
struct reading {
    char *top;
    char *below;
    uint16_t part;
    uint8_t width;
    bool found;
};

/* How much of a text fits a line: to the last blank, or cut. */
static uint8_t fits(const char *text, uint8_t width)
{
    size_t length = strlen(text);
    if (length <= width)
        return (uint8_t)length;
    uint8_t end = width;
    while (end > 0 && text[end] != ' ')
        end--;
    return end > 0 ? end : width;
}

static const char *take_line(char *line, const char *text, uint8_t width)
{
    uint8_t length = fits(text, width);
    memcpy(line, text, length);
    line[length] = '\0';
    return cup_skip_blanks(text + length);
}

/* Each sentence begins a part of its own. */
static void read_sentence(void *self, const char *text)
{
    struct reading *reading = self;
    char top[CUP_PANEL_SIZE];
    char below[CUP_PANEL_SIZE];
    while (*text) {
        text = take_line(top, text, reading->width);
        text = take_line(below, text, reading->width);
        if (reading->part-- != 0)
            continue;
        memcpy(reading->top, top, sizeof(top));
        memcpy(reading->below, below, sizeof(below));
        reading->found = true;
    }
}

static void ignore(void *self, const char *text)
{
    (void)self, (void)text;
}

static unsigned count_alerts(const struct cup_site *site)
{
    struct cup_printer nobody = {ignore, NULL};
    return cup_console_alerts(site, &nobody);
}

static uint8_t width_of(CUP_FLASH struct cup_plan *plan)
{
    return plan->panel_width < CUP_PANEL_MOST ? plan->panel_width
                                              : CUP_PANEL_MOST;
}

/* The two lines that are being read; false past the end. */
static bool read_part(const struct cup_panel *panel,
                      const struct cup_site *site, char *top, char *below)
{
    struct reading reading = {top, below, panel->part, width_of(site->plan),
                              false};
    char text[CUP_SENTENCE_SIZE];
    cup_index pump = pump_of(site->plan, panel->page);
    if (pump == CUP_NONE) {
        struct cup_printer printer = {read_sentence, &reading};
        (void)cup_console_alerts(site, &printer);
    } else {
        cup_say_why(text, sizeof(text), site, pump);
        read_sentence(&reading, text);
    }
    return reading.found;
}

/* Inputs */

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
        panel->flags &= (uint8_t) ~(CHANGING | KEPT | READING);
    if (idle >= site->plan->light_ms)
        panel->flags &= (uint8_t)~LIT;
}

static void draft_setting(struct cup_panel *panel, const struct cup_site *site,
                          cup_index setting, bool more)
{
    CUP_FLASH struct cup_setting *plan = &site->plan->settings[setting];
    if (!(panel->flags & CHANGING))
        panel->draft = cup_site_setting(site, setting);
    int32_t step = step_of(cup_setting_unit(site->plan, setting), panel->draft);
    int32_t value = panel->draft + (more ? step : -step);
    if (value >= plan->low && value <= plan->high)
        panel->draft = value;
}

/* The words of an output go round in the order of their verbs. */
static void draft_word(struct cup_panel *panel, const struct cup_site *site,
                       cup_index pump, bool more)
{
    static CUP_FLASH uint8_t verbs[] = {[CUP_MODE_AUTO] = CUP_VERB_AUTO,
                                        [CUP_MODE_OFF] = CUP_VERB_OFF,
                                        [CUP_MODE_HAND] = CUP_VERB_HAND};
    if (!(panel->flags & CHANGING))
        panel->draft = verbs[site->pumps[pump].mode];
    panel->draft =
        (panel->draft + (more ? 1 : CUP_VERB_CLEAR)) % (CUP_VERB_CLEAR + 1);
}

static void change(struct cup_panel *panel, const struct cup_site *site,
                   bool more)
{
    cup_index setting = setting_of(site->plan, panel->page);
    cup_index pump = pump_of(site->plan, panel->page);
    if (setting != CUP_NONE)
        draft_setting(panel, site, setting, more);
    else if (pump != CUP_NONE)
        draft_word(panel, site, pump, more);
    else
        return;
    panel->flags = (uint8_t)((panel->flags | CHANGING) & ~(KEPT | READING));
    panel->refused = CUP_OK;
}

/* A hand run of five minutes, or as long as it may be. */
#define HAND_MS UINT32_C(300000)
static uint32_t hand_ms(CUP_FLASH struct cup_plan *plan, cup_index pump)
{
    (void)plan, (void)pump;
    uint32_t most = CUP_IF(STEERING, plan->pumps[pump].hand_limit_ms);
    return cup_least(most, HAND_MS);
}

static void take_draft(struct cup_panel *panel, const struct cup_site *site,
                       uint32_t now_ms)
{
    struct cup_word word = {.verb = CUP_VERB_SET, .change_count = 1};
    cup_index pump = pump_of(site->plan, panel->page);
    word.changes[0].setting = setting_of(site->plan, panel->page);
    word.changes[0].value = panel->draft;
    if (pump != CUP_NONE)
        word = (struct cup_word){.verb = (uint8_t)panel->draft,
                                 .target = pump,
                                 .number = hand_ms(site->plan, pump)};
    panel->refused = (uint8_t)cup_site_steer(site, now_ms, &word);
    if (panel->refused == CUP_OK)
        panel->flags = (uint8_t)((panel->flags & ~CHANGING) | KEPT);
}

/* Takes what was chosen; else begins to read, or reads on. */
static void keep(struct cup_panel *panel, const struct cup_site *site,
                 uint32_t now_ms)
{
    char top[CUP_PANEL_SIZE];
    char below[CUP_PANEL_SIZE];
    if (panel->flags & CHANGING) {
        take_draft(panel, site, now_ms);
        return;
    }
    if (pump_of(site->plan, panel->page) == CUP_NONE &&
        panel->page != alerts_page(site->plan))
        return;
    panel->part = (uint16_t)(panel->flags & READING ? panel->part + 1 : 0);
    bool more = read_part(panel, site, top, below);
    panel->flags &= (uint8_t) ~(READING | KEPT);
    if (more)
        panel->flags |= READING;
}

void cup_panel_press(struct cup_panel *panel, const struct cup_site *site,
                     uint32_t now_ms, enum cup_input input)
{
    lapse(panel, site, now_ms);
    panel->touched_ms = now_ms;
    if (!(panel->flags & LIT)) {
        panel->flags |= LIT;
        if (count_alerts(site) > 0)
            panel->page = alerts_page(site->plan);
        return;
    }
    if (input == CUP_INPUT_NEXT) {
        panel->flags = LIT;
        panel->refused = CUP_OK;
        panel->page =
            (uint16_t)((panel->page + 1) % (alerts_page(site->plan) + 1));
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

#if CUP_USES_SPANS
/* "6 to 24 % leapt", in whole per cent outward. False where it is no span. */
static bool show_span(const struct cup_site *site, cup_index thing,
                      uint8_t width, char *below)
{
    cup_value low;
    cup_value high;
    uint8_t why = cup_site_span(site, thing, &low, &high);
    if (why == CUP_REASON_NONE)
        return false;
    write_value(below, width, NULL, low / 100, CUP_UNIT_NONE);
    write_text(below, width, CUP_TEXT(" to "));
    write_value(below, width, NULL, (high + 99) / 100, CUP_UNIT_NONE);
    write_text(below, width, CUP_TEXT(" % "));
    write_text(below, width,
               why == CUP_REASON_LEAPT ? cup_reason_code(why) : CUP_TEXT("?"));
    return true;
}
#endif

static void show_reading(const struct cup_site *site, cup_index thing,
                         uint8_t width, char *below)
{
    if (CUP_IF(SPANS, show_span(site, thing, width, below)))
        return;
    struct cup_reading reading = cup_site_reading(site, thing);
    if (cup_usable(reading)) {
        write_value(below, width, site->plan, cup_site_shown(site, thing),
                    reading.unit);
        write_text(below, width, CUP_TEXT(" "));
    }
    if (reading.quality != CUP_QUALITY_GOOD)
        write_text(below, width, cup_quality_code(reading.quality));
}

/* Whether what is being changed may stand, stands, or was refused. */
static void show_draft(const struct cup_panel *panel, uint8_t width,
                       char *below)
{
    if (panel->refused != CUP_OK)
        write_text(below, width, CUP_TEXT(" refused"));
    else if (panel->flags & CHANGING)
        write_text(below, width, CUP_TEXT(" keep?"));
    else if (panel->flags & KEPT)
        write_text(below, width, CUP_TEXT(" kept"));
}

/* The word that is being chosen for an output, or was. */
static void show_word(const struct cup_panel *panel,
                      const struct cup_site *site, cup_index pump,
                      uint8_t width, char *below)
{
    write_text(below, width, cup_verb_code((uint8_t)panel->draft));
    if (panel->draft == CUP_VERB_HAND) {
        write_text(below, width, CUP_TEXT(" "));
        write_value(below, width, site->plan,
                    (int32_t)hand_ms(site->plan, pump), CUP_UNIT_SECOND);
    }
    show_draft(panel, width, below);
}

/* Its state, and what is left of a rest or a run by hand. */
static void show_pump(const struct cup_panel *panel,
                      const struct cup_site *site, cup_index pump,
                      uint8_t width, char *below)
{
    struct cup_cause cause = cup_site_why(site, pump);
    if (panel->flags & (CHANGING | KEPT)) {
        show_word(panel, site, pump, width, below);
        return;
    }
    write_text(below, width,
               cup_pump_code((uint8_t)cup_pump_shows(&site->pumps[pump])));
    if (cup_cause_unit(site->plan, &cause) != CUP_UNIT_SECOND ||
        cause.value <= 0)
        return;
    write_text(below, width, CUP_TEXT(" "));
    write_value(below, width, site->plan, cause.value, CUP_UNIT_SECOND);
}

static void show_alerts(const struct cup_site *site, uint8_t width, char *top,
                        char *below)
{
    unsigned count = count_alerts(site);
    write_text(top, width, CUP_TEXT("alerts"));
    if (count == 0) {
        write_text(below, width, CUP_TEXT("all is well"));
        return;
    }
    write_value(below, width, site->plan, (int32_t)count, CUP_UNIT_NONE);
    write_text(below, width,
               count == 1 ? CUP_TEXT(" stands: keep")
                          : CUP_TEXT(" stand: keep"));
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
    show_draft(panel, width, below);
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

static void show_page(const struct cup_panel *panel,
                      const struct cup_site *site, uint8_t width, char *top,
                      char *below)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    cup_index setting = setting_of(plan, panel->page);
    cup_index pump = pump_of(plan, panel->page);
    if (setting != CUP_NONE) {
        name_setting(plan, setting, width, top);
        show_setting(panel, site, setting, width, below);
        return;
    }
    if (panel->page == alerts_page(plan)) {
        show_alerts(site, width, top, below);
        return;
    }
    write_text(top, width, cup_thing_name(plan, (cup_index)panel->page));
    if (pump == CUP_NONE)
        show_reading(site, (cup_index)panel->page, width, below);
    else
        show_pump(panel, site, pump, width, below);
}

bool cup_panel_show(struct cup_panel *panel, const struct cup_site *site,
                    uint32_t now_ms, char top[CUP_PANEL_SIZE],
                    char below[CUP_PANEL_SIZE])
{
    uint8_t width = width_of(site->plan);
    lapse(panel, site, now_ms);
    top[0] = below[0] = '\0';
    if (!(panel->flags & READING) || !read_part(panel, site, top, below))
        show_page(panel, site, width, top, below);
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
