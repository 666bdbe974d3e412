/* The panel by its four inputs, bars, signals, and what a bed costs. */
#include "cuplatch/panel.h"

#include "../harness/harness.h"
#include "../harness/world.h"

#define SOIL                                                                   \
    "[site]\nscan = 1s\n[soil]\nis = sensor\nmeasures = moisture\n"            \
    "form = counts\nport = adc:0\ndry = 1000\nwet = 0\n"                       \
    "plausible = 0..1100\nevery = 1s\nsmooth = median 5\n"
#define PUMP "[pump]\nis = pump\nport = relay:0\nlongest = 1h\nrest = 90s\n"
#define BED                                                                    \
    "[bed_of_sea_kale]\nis = duty\nrun = pump\nkeep = soil\nstart = 30%\n"     \
    "stop = 60%\ndose = 45s\nsoak = 7m\ndoses = 6\n"

struct door {
    struct world world;
    struct cup_panel panel;
};

/* A row of the test: the time, one input (or ""), and what is shown then. */
struct screen {
    uint32_t at_ms;
    int32_t raw;
    const char *input;
    const char *top;
    const char *below;
    bool lit;
};

static void show(struct door *door, const struct screen *screen)
{
    char top[CUP_PANEL_SIZE];
    char below[CUP_PANEL_SIZE];
    const struct cup_site *site = &door->world.site;
    harness_at("at %u, %s", screen->at_ms, screen->input);
    cup_site_hear(site, 0, screen->at_ms,
                  (struct cup_sample){.raw = screen->raw});
    if (*screen->input)
        cup_panel_press(&door->panel, site, screen->at_ms,
                        cup_read_input(screen->input));
    cup_site_decide(site, screen->at_ms, NULL);
    bool lit = cup_panel_show(&door->panel, site, screen->at_ms, top, below);
    CHECK_TEXT(top, screen->top);
    CHECK_TEXT(below, screen->below);
    CHECK_INT(lit, screen->lit);
}

static void show_all(const char *text, const struct screen *screens,
                     size_t count)
{
    struct door door = {.panel = {0}};
    world_open(&door.world, text);
    for (size_t i = 0; i < count; i++)
        show(&door, &screens[i]);
    harness_at(NULL);
    world_close(&door.world);
}

CASE(the_panel_pages_changes_keeps_and_lapses)
{
    static const struct screen screens[] = {
        {0, 700, "", "soil            ", "30.00 %         ", false},
        {1000, 700, "next", "soil            ", "30.00 %         ", true},
        {2000, 700, "next", "pump            ", "resting 1m 28s  ", true},
        {3000, 700, "next", "bed_of_sea.start", "30.00 %         ", true},
        {4000, 700, "more", "bed_of_sea.start", "31.00 % keep?   ", true},
        {5000, 700, "less", "bed_of_sea.start", "30.00 % keep?   ", true},
        {6000, 700, "less", "bed_of_sea.start", "29.00 % keep?   ", true},
        {7000, 700, "keep", "bed_of_sea.start", "29.00 % kept    ", true},
        {8000, 700, "more", "bed_of_sea.start", "30.00 % keep?   ", true},
        {38000, 700, "", "bed_of_sea.start", "29.00 %         ", true},
        {68000, 700, "", "bed_of_sea.start", "29.00 %         ", false},
        {69000, 700, "more", "bed_of_sea.start", "29.00 %         ", true},
        {70000, 700, "next", "bed_of_sea_.dose", "45 s            ", true},
        {71000, 700, "more", "bed_of_sea_.dose", "50 s keep?      ", true},
        {72000, 700, "keep", "bed_of_sea_.dose", "50 s kept       ", true},
        {73000, 700, "next", "alerts          ", "all is well     ", true},
        {74000, 700, "keep", "alerts          ", "all is well     ", true},
        {75000, 700, "next", "soil            ", "30.00 %         ", true},
    };
    show_all(SOIL PUMP BED "change = start dose\n[door]\nis = panel\n"
                           "port = panel:0\n",
             screens, sizeof(screens) / sizeof(screens[0]));
}

CASE(a_mark_that_would_cross_the_other_is_refused)
{
    static const struct screen screens[] = {
        {0, 100, "", "soil                ", "90.00 %             ", false},
        {1000, 100, "next", "soil                ", "90.00 %             ",
         true},
        {2000, 100, "next", "pump                ", "resting 1m 28s      ",
         true},
        {3000, 100, "next", "bed.start           ", "59.00 %             ",
         true},
        {4000, 100, "more", "bed.start           ", "60.00 % keep?       ",
         true},
        {5000, 100, "keep", "bed.start           ", "60.00 % refused     ",
         true},
        {6000, 100, "less", "bed.start           ", "59.00 % keep?       ",
         true},
    };
    show_all(SOIL PUMP "[bed]\nis = duty\nrun = pump\nkeep = soil\n"
                       "start = 59%\nstop = 60%\nchange = start\n"
                       "[door]\nis = panel\nport = panel:0\nwidth = 20\n",
             screens, sizeof(screens) / sizeof(screens[0]));
}

CASE(the_panel_switches_a_pump_and_says_why)
{
    static const struct screen screens[] = {
        {0, 800, "", "soil            ", "20.00 %         ", false},
        {1000, 800, "next", "soil            ", "20.00 %         ", true},
        {2000, 800, "next", "pump            ", "resting 1m 28s  ", true},
        {3000, 800, "keep", "pump rests, 1m  ", "27s left of 1m  ", true},
        {4000, 800, "keep", "30s             ", "                ", true},
        {5000, 800, "keep", "pump            ", "resting 1m 25s  ", true},
        {6000, 800, "more", "pump            ", "off keep?       ", true},
        {7000, 800, "more", "pump            ", "hand 5m keep?   ", true},
        {8000, 800, "more", "pump            ", "clear keep?     ", true},
        {9000, 800, "more", "pump            ", "auto keep?      ", true},
        {10000, 800, "less", "pump            ", "clear keep?     ", true},
        {11000, 800, "less", "pump            ", "hand 5m keep?   ", true},
        {12000, 800, "less", "pump            ", "off keep?       ", true},
        {13000, 800, "keep", "pump            ", "off kept        ", true},
        {14000, 800, "keep", "pump rests, 1m  ", "16s left of 1m  ", true},
        {15000, 800, "next", "alerts          ", "1 stands: keep  ", true},
    };
    show_all(SOIL PUMP BED "[door]\nis = panel\nport = panel:0\n", screens,
             sizeof(screens) / sizeof(screens[0]));
}

/* Whoever comes to the door since a lamp is fast sees at once what stands. */
CASE(the_panel_says_what_stands)
{
    static const struct screen screens[] = {
        {0, 950, "", "soil            ", "5.00 %          ", false},
        {1000, 950, "next", "alerts          ", "1 stands: keep  ", true},
        {2000, 950, "keep", "thirst soil     ", "below 10.00 %:  ", true},
        {3000, 950, "keep", "look at the     ", "dripper         ", true},
        {4000, 950, "keep", "alerts          ", "1 stands: keep  ", true},
        {5000, 950, "keep", "thirst soil     ", "below 10.00 %:  ", true},
        {35000, 950, "", "alerts          ", "1 stands: keep  ", true},
        {36000, 950, "next", "soil            ", "5.00 %          ", true},
    };
    show_all(SOIL PUMP BED "[thirst]\nis = alert\nof = soil\nbelow = 10%\n"
                           "clear = 15%\nsay = look at the dripper\n"
                           "[door]\nis = panel\nport = panel:0\n",
             screens, sizeof(screens) / sizeof(screens[0]));
}

CASE(inputs_are_read_by_their_whole_word)
{
    CHECK_INT(cup_read_input("next"), CUP_INPUT_NEXT);
    CHECK_INT(cup_read_input("keep"), CUP_INPUT_KEEP);
    CHECK_INT(cup_read_input("keeps"), CUP_INPUT_COUNT);
    CHECK_INT(cup_read_input("kee"), CUP_INPUT_COUNT);
    CHECK_INT(cup_read_input(""), CUP_INPUT_COUNT);
}

CASE(a_bar_is_lit_up_to_the_level)
{
    static const int32_t marks[] = {1500, 4000, 6500, 9200};
    static const struct cup_bar bar = {.marks = marks, .count = 4};
    static const struct cup_bar band = {
        .marks = marks, .count = 4, .band = true};
    static const int32_t lit[][2] = {{0, 0},    {1500, 0}, {1501, 1}, {4001, 2},
                                     {6501, 3}, {9200, 3}, {9201, 4}};
    for (size_t i = 0; i < sizeof(lit) / sizeof(lit[0]); i++)
        CHECK_INT(cup_bar_lit(&bar, lit[i][0]), lit[i][1]);
    for (uint8_t passed = 0; passed <= bar.count; passed++)
        for (uint8_t lamp = 0; lamp < bar.count; lamp++) {
            CHECK_INT(cup_bar_lights(&bar, passed, lamp), lamp < passed);
            CHECK_INT(cup_bar_lights(&band, passed, lamp), lamp + 1 == passed);
        }
}

/* Share of a minute that a pattern is on, in per cent. */
static int share(bool sounds, enum cup_mood mood, int *changes)
{
    static struct cup_signal signal;
    signal.sounds = sounds;
    enum cup_pattern pattern = cup_signal_pattern(&signal, (uint8_t)mood);
    int on = 0;
    bool before = cup_pattern_lit(pattern, 0);
    *changes = 0;
    for (uint32_t ms = 0; ms < 65536; ms++) {
        bool now = cup_pattern_lit(pattern, ms);
        on += now;
        *changes += now != before;
        before = now;
    }
    return (on * 100 + 32768) / 65536;
}

CASE(a_status_lamp_is_steady_blinks_or_is_fast_and_a_horn_sounds_on_faults)
{
    int changes;
    CHECK_INT(share(false, CUP_MOOD_WELL, &changes), 100);
    CHECK_INT(share(false, CUP_MOOD_WAITS, &changes), 50);
    CHECK_INT(changes, 127);
    CHECK_INT(share(false, CUP_MOOD_FAULT, &changes), 50);
    CHECK_INT(changes, 511);
    CHECK_INT(share(true, CUP_MOOD_WELL, &changes), 0);
    CHECK_INT(share(true, CUP_MOOD_WAITS, &changes), 0);
    CHECK(share(true, CUP_MOOD_FAULT, &changes) > 5);
}

CASE(the_mood_is_well_waits_or_is_a_fault)
{
    struct world world;
    world_open(&world, SOIL PUMP BED);
    cup_site_hear(&world.site, 0, 0, (struct cup_sample){.raw = 500});
    cup_site_decide(&world.site, 0, NULL);
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_WELL);
    for (uint32_t t = 1000; t < 6000; t += 1000) {
        cup_site_hear(&world.site, 0, t, (struct cup_sample){.raw = 900});
        cup_site_decide(&world.site, t, NULL);
    }
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_WAITS);
    cup_site_decide(&world.site, 60000, NULL);
    CHECK_INT(cup_site_mood(&world.site), CUP_MOOD_FAULT);
    world_close(&world);
}

static size_t size_of(const char *text)
{
    struct world world;
    world_open(&world, text);
    size_t size = cup_site_size(world.site.plan);
    world_close(&world);
    return size;
}

CASE(a_dosed_bed_costs_at_most_147_bytes_and_182_with_all)
{
    size_t bed = size_of(SOIL PUMP BED) - size_of("[site]\nscan = 1s\n");
    size_t all = size_of(SOIL PUMP "proof = soil above 20% in 30s\n" BED
                                   "change = start stop dose\n") -
                 size_of("[site]\nscan = 1s\n") -
                 sizeof(struct cup_watch_state);
    harness_at("%zu and %zu bytes", bed, all);
    CHECK(bed <= 147 && all <= 182);
    harness_at(NULL);
}
