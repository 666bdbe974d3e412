/* The one list of kinds and keys. */
#include "schema.h"

#include "cuplatch/dose.h"
#include "cuplatch/sensor.h"

#define TIME_MAX ((int32_t)CUP_TIME_MAX_MS)
#define COUNT(list) (sizeof(list) / sizeof((list)[0]))
#define NAMED(...) ((const char *const[]){__VA_ARGS__, NULL})

#define TIME(name, needed, low, help)                                          \
    {                                                                          \
        name, KEY_QUANTITY, needed, CUP_UNIT_SECOND, low, TIME_MAX, NULL, help \
    }
#define LENGTH(name, needed, low, high, help)                                  \
    {                                                                          \
        name, KEY_QUANTITY, needed, CUP_UNIT_MM, low, high, NULL, help         \
    }
#define PERCENT(name, needed, help)                                            \
    {                                                                          \
        name, KEY_QUANTITY, needed, CUP_UNIT_PERCENT, 0, 10000, NULL, help     \
    }
#define SHORT_TIME(name, needed, low, high, help)                              \
    {                                                                          \
        name, KEY_QUANTITY, needed, CUP_UNIT_SECOND, low, high, NULL, help     \
    }
#define FLOW(name, needed, help)                                               \
    {                                                                          \
        name, KEY_QUANTITY, needed, CUP_UNIT_FLOW, 1, 10000000, NULL, help     \
    }
#define COUNTED(name, needed, low, high, help)                                 \
    {                                                                          \
        name, KEY_COUNT, needed, CUP_UNIT_NONE, low, high, NULL, help          \
    }
#define OTHER(name, type, needed, help)                                        \
    {                                                                          \
        name, type, needed, CUP_UNIT_NONE, 0, 0, NULL, help                    \
    }
#define ONE_OF(name, needed, help, ...)                                        \
    {                                                                          \
        name, KEY_CHOICE, needed, CUP_UNIT_NONE, 0, 0, NAMED(__VA_ARGS__),     \
            help                                                               \
    }
#define A_THING(name, needed, help, ...)                                       \
    {                                                                          \
        name, KEY_THING, needed, CUP_UNIT_NONE, 0, 0, NAMED(__VA_ARGS__), help \
    }

static const struct key site_keys[] = {
    OTHER("name", KEY_TEXT, false, "what to call the site"),
    OTHER("id", KEY_TEXT, false,
          "its name to programs; the file's, without its end, if not given"),
    OTHER("zone", KEY_TEXT, false,
          "where its clock is, such as Europe/Lisbon; the machine's own if not "
          "given"),
    OTHER("speakers", KEY_TEXT, false,
          "users of the machine whose word on who spoke is taken"),
    SHORT_TIME("scan", false, 10, 3600000,
               "one pass, at most 1h; 1s if not given"),
    TIME("late", false, 20,
         "a pass later than this stops what runs; "
         "10 scans if not given"),
    TIME("repeat", false, 0,
         "what comes and goes, such as a sensor that is lost, is told again "
         "after so long at the soonest; 1h if not given"),
    TIME("patience", false, 0,
         "what asks and is kept off for so long is told of; 2h if not given"),
    TIME("boot_wait", false, 0, "nothing starts before; 0s if not given"),
    COUNTED("at_once", false, 1, 1000, "pumps that may run together"),
    ONE_OF("units", false,
           "what numbers for people are in: L, mm, C, bar or gal, in, F, psi; "
           "metric if not given",
           "metric", "us"),
    ONE_OF("watches", false,
           "tell of stuck relays and of runs that outlast their tank; "
           "yes if not given",
           "yes", "no"),
};

#define WORDS(name, needed, list, help)                                        \
    {                                                                          \
        name, KEY_CHOICE, needed, CUP_UNIT_NONE, 0, 0, list, help              \
    }

#define AS_WORD(word, unit) word,
#define AS_UNIT(word, unit) CUP_UNIT_##unit,
static const char *const measured[] = {MEASURED(AS_WORD) NULL};
const enum cup_unit cup_measured_units[] = {MEASURED(AS_UNIT)};

#define AS_CODE(name, code, ...) code,
static const char *const forms[] = {CUP_FORMS(AS_CODE) NULL};

static const struct key sensor_keys[] = {
    WORDS("measures", false, measured, "what the value is"),
    WORDS("form", false, forms, "how a sample arrives"),
    OTHER("port", KEY_PORT, false, "where, as the port understands it"),
    OTHER("source", KEY_TAKE, false,
          "a value of a block: SOURCE WORD [signed] [xSCALE]"),
    COUNTED("dry", false, 0, 65535, "raw value in dry soil or air"),
    COUNTED("wet", false, 0, 65535, "raw value in wet soil or water"),
    OTHER("points", KEY_POINTS, false, "RAW:VALUE pairs, 2 to 33 of them"),
    ONE_OF("clamp", false,
           "keep values within dry and wet or the points; yes if not given",
           "yes", "no"),
    ONE_OF("unit", false, "what a range-text number is in; mm if not given",
           "mm", "cm", "inch"),
    ONE_OF("scaling", false, "of a pulse40 frame; tenths if not given",
           "tenths", "whole"),
    ONE_OF("active", false,
           "raw value of a closed switch; high (1) if not given", "high",
           "low"),
    COUNTED("per_litre", false, 1, 65535, "pulses of a flow meter"),
    COUNTED("baud", false, 300, 921600, "speed of its serial line"),
    TIME("every", false, 10, "how often it is asked"),
    OTHER("supply", KEY_PORT, false, "the output that powers it"),
    TIME("warm_up", false, 0, "from supply on to a good sample"),
    A_THING("air", false, "the thermometer that corrects an echo", "sensor"),
    OTHER("tilt", KEY_LATER, false,
          "how far its beam leans from straight down, up to 45deg"),
    OTHER("jump", KEY_RATE, false, "how much it can move in a second"),
    TIME("stuck", false, 1000, "raw the same for this long is stuck"),
    TIME("debounce", false, 0, "a switch must stay changed this long"),
    OTHER("steady", KEY_STEADY, false,
          "BAND TIME: what is shown moves once the value stayed in BAND"),
    OTHER("plausible", KEY_RANGE, false,
          "raw values outside LOW..HIGH are rejected"),
    OTHER("nothing", KEY_LATER, false,
          "raw values by which it says that it sees nothing"),
    OTHER("smooth", KEY_SMOOTH, false,
          "median N, trimmed N K or mean N; N odd up to 31"),
    OTHER("of", KEY_LATER, false,
          "made of these sensors, instead of being asked itself"),
    ONE_OF("takes", false, "what of them; middle if not given", "mean",
           "driest", "wettest", "middle", "lowest", "highest"),
    COUNTED("at_least", false, 1, CUP_SEVERAL_MOST,
            "lost when fewer of them can be read; half of them if not given"),
    OTHER("apart", KEY_LATER, false,
          "one that is farther than this from the middle is told"),
    TIME("lost_after", false, 10,
         "how long a last good value is held; 10 times every if not given"),
};

static const struct key tank_keys[] = {
    A_THING("sensor", false, "what tells its level", "sensor"),
    OTHER("floats", KEY_LATER, false,
          "FLOAT MARK, one or two of them: float switches that tell its level"),
    OTHER("leak", KEY_LATER, false,
          "LENGTH in TIME: falling so much while nothing runs is told"),
    ONE_OF("shape", false, "the form of the vessel", "upright", "box",
           "tapered", "lying", "table"),
    LENGTH("diameter", false, 100, 500000, "inside, upright or lying"),
    LENGTH("length", false, 100, 500000, "inside, of a box or lying"),
    LENGTH("width", false, 100, 500000, "inside, of a box"),
    LENGTH("bottom", false, 100, 500000, "diameter at the floor, tapered"),
    LENGTH("top", false, 100, 500000, "diameter at the full mark, tapered"),
    OTHER("table", KEY_POINTS, false, "DEPTH:VOLUME pairs from 0mm:0L"),
    LENGTH("depth", false, 100, 600000, "from the floor to the full mark"),
    LENGTH("gap", false, 0, 65000,
           "from the full mark up to the sensor's face"),
    LENGTH("above", false, 0, 65000,
           "height of a pressure sensor above the floor"),
    COUNTED("density", false, 500, 3000, "kg/m3; 1000 if not given"),
    PERCENT("heel", false, "below this a pump draws air"),
    LENGTH("blanking", false, 0, 65000, "nearer than this it cannot measure"),
    PERCENT("leap", false,
            "a reading farther than this from what is believed is a leap"),
    TIME("believe", false, 1000,
         "how long a level that leapt must hold; 15m if not given"),
    FLOW("gains", false, "what flows in by itself at the most: rain, a hose"),
    FLOW("loses", false, "what is taken by itself at the most: taps, animals"),
};

static const struct key pump_keys[] = {
    OTHER("port", KEY_PORT, false, "the output that switches it"),
    ONE_OF("active", false, "the pin when it runs; high if not given", "high",
           "low"),
    A_THING("from", false, "the tank it draws from", "tank"),
    A_THING("into", false, "the tank it fills", "tank"),
    PERCENT("full_at", false,
            "destination above this: it never runs; 97% if "
            "not given"),
    OTHER("needs", KEY_LATER, false,
          "SENSOR above LIMIT back LIMIT: a supply it may not run below"),
    OTHER("frost", KEY_LATER, false,
          "THERMOMETER above LIMIT back LIMIT: it may not run in frost"),
    PERCENT("dry_below", false, "source below this: it never runs"),
    PERCENT("dry_clear", false, "source above this: it may run again"),
    OTHER("proof", KEY_LATER, false,
          "TANK rises|falls LENGTH in TIME, SENSOR rises|falls BY in TIME, or "
          "SENSOR above LIMIT in TIME"),
    TIME("shortest", false, 0, "a run goes on this long, guards aside"),
    OTHER("per_day", KEY_PER_DAY, false,
          "TIME, VOLUME, Nstarts: any of them, limits of a day"),
    FLOW("flow", false, "what it gives; for volumes"),
    TIME("rest", false, 0,
         "between a stop and the next start; 10s of a pump if not given"),
    TIME("longest", false, 100, "a run this long is a trip"),
    OTHER("retry", KEY_RETRY, false,
          "TIME xN: pause after a trip, and tries before it is locked"),
    TIME("hand_limit", false, 1000, "the longest hand run; 10m if not given"),
    A_THING("group", false, "what shares its battery or line with it", "group"),
    OTHER("travel", KEY_LATER, false,
          "TIME, or 100% in TIME: from shut to open"),
    PERCENT("safe", false,
            "where a vent goes when off, at boot and on faults; 0% if not "
            "given"),
    OTHER("open", KEY_PORT, false, "the output that opens it, with close"),
    OTHER("close", KEY_PORT, false, "the output that shuts it, with open"),
};

static const struct key duty_keys[] = {
    A_THING("run", true, "the pump it asks for", "pump"),
    A_THING("keep", false, "whose level it keeps", "sensor", "tank"),
    OTHER("start", KEY_MARK, false, "beyond this it starts"),
    OTHER("stop", KEY_MARK, false, "beyond this it stops"),
    OTHER("speed", KEY_LATER, false,
          "MARK:SHARE pairs, the gentlest first, such as 34%:40% 20%:100%: how "
          "far its output is driven"),
    TIME("confirm", false, 0, "a crossing must hold this long"),
    OTHER("also", KEY_LATER, false,
          "SENSOR START STOP: a second condition that must agree to start"),
    ONE_OF("stops", false, "which of the two stops it; either if not given",
           "either", "both"),
    TIME("dose", false, 100, "run so long, then soak and look again"),
    TIME("soak", false, 1000, "from a dose until it looks again"),
    COUNTED("doses", false, 1, CUP_DOSES_MOST,
            "at most so many; no limit if not given"),
    TIME("flood", false, 1000, "run so long, at dawn and then every"),
    OTHER("until", KEY_LATER, false,
          "FLOAT, or THING above MARK: ends a flood or a timed run early"),
    TIME("every", false, 1000, "from the start of one run to the next"),
    A_THING("by", false, "only by this day", "day"),
    TIME("at_most_apart", false, 1000,
         "floods never further apart, day or night"),
    TIME("at_least_apart", false, 1000,
         "from the start of one flood to the next, at least; half of every if "
         "not given"),
    TIME("owed", false, 1000,
         "what could not begin is missed after this; half of every, or until "
         "the next time of the clock, if not given"),
    OTHER("at", KEY_LATER, false, "times of the clock, such as 06:30 18:10"),
    TIME("for", false, 1000, "how long a timed run is"),
    OTHER("give", KEY_LATER, false,
          "the volume of a timed run or of a dose; its pump needs flow"),
    OTHER("between", KEY_LATER, false,
          "HH:MM..HH:MM: only within these hours of the clock"),
    OTHER("through", KEY_LATER, false,
          "valves that must stand open while it runs"),
    OTHER("change", KEY_LATER, false,
          "its numbers that may be changed while running, such as start stop"),
};

static const struct key day_keys[] = {
    A_THING("light", false, "the sensor of light", "sensor"),
    OTHER("day_above", KEY_MARK, false, "brighter than this is day"),
    OTHER("night_below", KEY_MARK, false, "darker than this is night"),
    TIME("steady", false, 0, "either must hold this long"),
    OTHER("between", KEY_LATER, false,
          "HH:MM..HH:MM: day by the clock; with light, either"),
};

static const struct key alert_keys[] = {
    A_THING("of", true, "whose value it looks at", "sensor", "tank"),
    OTHER("below", KEY_MARK, false, "told when below this"),
    OTHER("above", KEY_MARK, false, "told when above this"),
    OTHER("clear", KEY_MARK, true, "over when past this"),
    TIME("steady", false, 0, "must hold this long, to tell and to be over"),
    TIME("repeat", false, 60000, "told again as often as this"),
    OTHER("say", KEY_TEXT, false, "what to read when it is told"),
};

static const struct key group_keys[] = {
    COUNTED("at_once", true, 1, 250, "pumps of it that may run together"),
};

static const struct key source_keys[] = {
    ONE_OF("form", true, "how it is asked", "modbus"),
    OTHER("port", KEY_PORT, true, "its serial line"),
    COUNTED("unit", true, 1, 247, "its address on the line"),
    OTHER("read", KEY_READ, true, "holding or input, FIRST, COUNT"),
    TIME("every", true, 10, "how often it is asked"),
    COUNTED("baud", false, 300, 921600, "speed of its serial line"),
};

static const struct key bar_keys[] = {
    A_THING("of", true, "whose level it shows", "sensor", "tank"),
    OTHER("lamps", KEY_LATER, true, "its outputs, the lowest lamp first"),
    OTHER("marks", KEY_LATER, true,
          "one a lamp, rising: lit while the level is above it"),
    ONE_OF("as", false,
           "bar: all lamps whose marks are passed; band: the highest of them "
           "alone; bar if not given",
           "bar", "band"),
};

static const struct key signal_keys[] = {
    OTHER("port", KEY_PORT, true, "its output"),
    ONE_OF("as", false,
           "lamp: steady when well, blinking when something waits, fast on a "
           "fault; horn: sounds on a fault; lamp if not given",
           "lamp", "horn"),
};

static const struct key panel_keys[] = {
    OTHER("port", KEY_PORT, true, "where, as the port understands it"),
    ONE_OF("width", false, "letters of a line; 16 if not given", "16", "20"),
    TIME("lapse", false, 1000,
         "a change that nobody keeps is forgotten; 30s if not given"),
    TIME("light", false, 1000,
         "its back-light goes out after this; 60s if not given"),
};

static const struct key button_keys[] = {
    OTHER("port", KEY_PORT, true, "its input"),
    ONE_OF("active", false, "the pin when it is pressed; low if not given",
           "low", "high"),
    OTHER("says", KEY_LATER, true,
          "the word of a press, such as lift hand 5m or site quiet"),
    OTHER("again", KEY_LATER, false,
          "the word of a press while that holds still, such as lift auto"),
    OTHER("held", KEY_LATER, false,
          "the word of a press of 1.5 s or more, such as lift clear"),
};

const struct kind cup_kinds[KIND_COUNT] = {
    [KIND_SITE] = {"site", site_keys, COUNT(site_keys), "the whole"},
    [KIND_SENSOR] = {"sensor", sensor_keys, COUNT(sensor_keys),
                     "something that is measured"},
    [KIND_TANK] = {"tank", tank_keys, COUNT(tank_keys),
                   "a vessel with a level"},
    [KIND_PUMP] = {"pump", pump_keys, COUNT(pump_keys),
                   "something that is switched"},
    [KIND_DUTY] = {"duty", duty_keys, COUNT(duty_keys), "what a pump is for"},
    [KIND_SOURCE] = {"source", source_keys, COUNT(source_keys),
                     "a block of registers"},
    [KIND_DAY] = {"day", day_keys, COUNT(day_keys), "day and night"},
    [KIND_ALERT] = {"alert", alert_keys, COUNT(alert_keys),
                    "what a person must be told"},
    [KIND_GROUP] = {"group", group_keys, COUNT(group_keys),
                    "pumps that share a battery or a line"},
    [KIND_BAR] = {"bar", bar_keys, COUNT(bar_keys), "lamps that show a level"},
    [KIND_SIGNAL] = {"signal", signal_keys, COUNT(signal_keys),
                     "a lamp or a horn for the whole site"},
    [KIND_PANEL] = {"panel", panel_keys, COUNT(panel_keys),
                    "two lines and four inputs"},
    [KIND_BUTTON] = {"button", button_keys, COUNT(button_keys),
                     "a switch that stands for words"},
};

#define AS_STYLE(style, word) word,
const char *const cup_pump_styles[] = {PUMP_STYLES(AS_STYLE) NULL};
