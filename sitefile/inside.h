/* What the files of this room share: a file with its things and its plan. */
#ifndef CUPLATCH_SITEFILE_INSIDE_H
#define CUPLATCH_SITEFILE_INSIDE_H

#include "../grammar/problems.h"
#include "read/things.h"
#include "sitefile.h"

/* The tables of a plan under construction, each as long as its kind counts. */
struct tables {
    struct cup_sensor *sensors;
    int32_t *nothings;            /* CUP_NOTHINGS_MOST for each sensor */
    struct cup_several *severals; /* one a sensor, used or not */
    cup_index *ofs;               /* CUP_SEVERAL_MOST for each sensor */
    struct cup_tank *tanks;
    struct cup_span *spans; /* one a tank, used or not */
    struct cup_pump *pumps;
    struct cup_per_day *per_days; /* one a pump, used or not */
    struct cup_proof *proofs;     /* one a pump, used or not */
    struct cup_guard *guards;     /* CUP_GUARD_COUNT for each pump */
    struct cup_duty *duties;
    struct cup_source *sources;
    struct cup_dose *doses; /* one a duty, used or not */
    struct cup_also *alsos;
    struct cup_turn *turns;
    struct cup_speed *speeds;
    struct cup_speed_point *speed_points; /* CUP_SPEED_POINTS for each duty */
    cup_index *through;         /* as many for each duty as there are pumps */
    uint16_t *minutes;          /* CUP_TIMES_MOST for each duty */
    struct cup_travel *travels; /* one a pump, used or not */
    struct cup_day *days;
    struct cup_alert *alerts;
    struct cup_watch *watches;    /* one a tank, two a pump, used or not */
    struct cup_setting *settings; /* CUP_FIELD_COUNT a duty, used or not */
    cup_index *groups;
    struct cup_bar *bars;
    int32_t *marks; /* CUP_LAMPS_MOST for each bar */
    struct cup_signal *signals;
    struct cup_button *buttons;
    struct cup_word *words; /* CUP_BUTTON_WORDS for each button */
    uint32_t *keys;
    struct cup_checks *checks; /* one a sensor, used or not */
    struct cup_curve *curves;  /* a sensor's, then two a tank */
    struct cup_knot *knots;    /* CUP_CURVE_POINTS for each curve */
    const char **names;
};

struct cup_file {
    char *path;
    struct ini_file ini;
    struct things things;
    struct problems problems;
    struct tables tables;
    struct cup_plan plan;
};

/* Tables as long as the things need; in plan_tables.c. */
void plan_make_tables(struct cup_file *file);

/* Turns the things into the plan, checking what needs more than one key. */
void plan_make(struct cup_file *file);
void plan_free(struct cup_file *file);

/* Sensors and the blocks they take values of; in plan_sensor.c. */
void plan_make_sensor(struct cup_file *file, const struct thing *thing);
void plan_make_source(struct cup_file *file, const struct thing *thing);

/* Sensors that are made of others, once these are made; in plan_several.c. */
void plan_make_severals(struct cup_file *file);

/* Tanks; in plan_tank.c. */
void plan_make_tank(struct cup_file *file, const struct thing *thing);

/* What tells the brim from a spider, once pumps are made; in plan_brim.c. */
void plan_make_brims(struct cup_file *file);

/* How the levels of tanks may leap, once pumps and duties are made; in
 * plan_span.c. */
void plan_make_spans(struct cup_file *file);

/* How far one ml moves a tank where it is narrowest, in mm10; 0: nobody knows.
 */
double plan_mm10_of_ml(const struct cup_tank *tank);

/* How far a tank's curve is from its true shape at the worst, in per cent of
 * its volume. */
double plan_tank_error(const struct cup_file *file, cup_index tank);

/* Pumps and their guards; in plan_pump.c. */
void plan_make_pump(struct cup_file *file, const struct thing *thing);
void plan_make_guards(struct cup_file *file, const struct thing *thing);

/* How long a pump takes for a volume, by its flow of ml_min in a minute: at
 * least a ms, at most a day. */
uint32_t plan_time_of(int32_t ml, int32_t ml_min);

/* Duties; in plan_duty.c. */
void plan_make_duty(struct cup_file *file, const struct thing *thing);

/* Days, alerts and groups; in plan_day.c. */
void plan_make_day(struct cup_file *file, const struct thing *thing);
void plan_make_alert(struct cup_file *file, const struct thing *thing);
void plan_make_group(struct cup_file *file, const struct thing *thing);

/* What buttons say; in plan_button.c. */
void plan_make_button(struct cup_file *file, const struct thing *thing);

/* Bars, signals and the panel; in plan_panel.c. */
void plan_make_bar(struct cup_file *file, const struct thing *thing);
void plan_make_signal(struct cup_file *file, const struct thing *thing);
void plan_make_panel(struct cup_file *file, const struct thing *thing);

/* Codes for nothing one sensor may have. */
#define CUP_NOTHINGS_MOST 8

/* Lamps one bar may have. */
#define CUP_LAMPS_MOST 16

/* What the site notices of tanks and pumps, once all are made; in
 * plan_watch.c. */
void plan_make_watches(struct cup_file *file);

/* Entries of the journal that bounded runs and the time ask for in a day, at
 * the most; in plan_entries.c. */
uint32_t plan_entries(const struct cup_plan *plan);

/* Events of a day at the most, whatever chatters, and those of one output; in
 * plan_entries.c. */
uint64_t plan_told(const struct cup_plan *plan);
uint64_t plan_told_of(const struct cup_plan *plan, cup_index pump);

/* Ports that two have, or that cannot be what they are for; in plan_ports.c. */
void plan_check_ports(struct cup_file *file);

/* What is legal but odd; in plan_odd.c. */
void plan_check_odd(struct cup_file *file);

/* The raw values that a ranger reads over a tank, with a fifth to spare on
 * either side. False where a tank has no ranger. */
bool plan_range(const struct cup_file *file, const struct thing *tank, int *low,
                int *high);

/* Times of the clock one duty may have. */
#define CUP_TIMES_MOST 24

/* Reads "06:30" into minutes of the day, or "05:30..21:00" into two. False
 * when it is none. */
bool read_minute(const char *text, uint16_t *minute);
bool read_hours(const char *text, uint16_t *from, uint16_t *to);

/* Reads a mark now that its unit is known; null when that cannot be, which was
 * told. */
const struct value *plan_mark(struct cup_file *file, const struct thing *thing,
                              const char *key, cup_index about);

/* That a mark has a unit at all, where what it is compared with is not known.
 */
void plan_check_unit(struct cup_file *file, const struct thing *thing,
                     const char *key);

/* The sensor or tank that a word of a value names, as a thing; CUP_NONE when it
 * is none, which was told. */
cup_index plan_find_read(struct cup_file *file, const struct value *value,
                         const char *name);

/* That each number among the words of a value has a unit, where what they are
 * of is not known. Null is no value. */
void plan_check_units(struct cup_file *file, const struct value *value);

/* That `about` can read above (`up`) or below a mark at all. */
void plan_check_mark(struct cup_file *file, const struct value *mark,
                     cup_index about, bool up);

/* Two marks that are the same, or can never be passed, are errors. */
void plan_check_marks(struct cup_file *file, const struct value *start,
                      const struct value *stop, cup_index about);

/* A mark that fills a tank must lie below where the pump's guard calls it
 * full. */
void plan_check_full(struct cup_file *file, const struct thing *pump,
                     const struct value *keep, const struct value *stop);

/* Numbers the supplies and channels that sensors share; before they are
 * made. */
void plan_share(struct cup_file *file);

/* A sensor's checks, which it then has. */
struct cup_checks *plan_checks(struct cup_file *file, cup_index sensor);

/* The curve of a number, and its making. */
struct cup_curve *plan_curve(struct cup_file *file, size_t number);
enum cup_error plan_make_curve(struct cup_file *file, size_t number,
                               const struct cup_point *points, uint8_t count,
                               bool clamp);

/* The number in the plan of the thing at a place among the things. */
cup_index plan_number(const struct cup_file *file, int32_t place);

/* The lowest and highest value a sensor or a tank can show. */
struct span {
    int32_t low;
    int32_t high;
};
struct span span_of(const struct cup_plan *plan, cup_index thing);

/* The thing that a part of a value names: its number in the plan, CUP_NONE,
 * with the error told, when it is none of a kind. */
struct scanned;
cup_index plan_find_part(struct cup_file *file, const struct value *value,
                         const struct scanned *name, const char *kind);

#endif
