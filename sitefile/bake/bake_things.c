/* The tables of sensors, tanks, pumps and all the other things. */
#include <string.h>

#include "baking.h"

#define NUMBER(field) words_number(words, #field, sizeof(at->field), at->field)
#define VALUE(field) words_value(words, #field, at->field)
#define INDEX(field) words_index(words, #field, at->field)

/* Fields that are only there where their block is built. */
#define WHERE(block, put)                                                      \
    do {                                                                       \
        words->where = CUP_BLOCK_##block;                                      \
        put;                                                                   \
        words->where = ALWAYS;                                                 \
    } while (0)
/* Fields that are only there where their block is not built. */
#define UNLESS(block, put)                                                     \
    do {                                                                       \
        words->unless = true;                                                  \
        WHERE(block, put);                                                     \
        words->unless = false;                                                 \
    } while (0)
/* What has a name in the headers is written by it. */
#define NAMED(field, names)                                                    \
    words_constant(words, #field, sizeof(at->field), names[at->field])
#define NUMBER_WHERE(block, field) WHERE(block, NUMBER(field))
#define INDEX_WHERE(block, field) WHERE(block, INDEX(field))
#define POINTER_WHERE(block, field, of_one)                                    \
    WHERE(block, words_pointer(words, #field, field, of_one))

#define X(name, ...) "CUP_FORM_" #name,
static const char *const form_names[] = {CUP_FORMS(X)};
#undef X
#define X(name, ...) "CUP_UNIT_" #name,
static const char *const unit_names[] = {CUP_UNITS(X)};
#undef X
#define X(x, name, ...) "CUP_GUARD_" #name,
static const char *const guard_names[] = {CUP_GUARDS(X, )};
#undef X

static const char *put_knots(struct bake *bake, const struct cup_curve *curve)
{
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < curve->count; i++) {
        const struct cup_knot *at = &curve->knots[i];
        words_element(words);
        VALUE(y);
        NUMBER_WHERE(VALUES, share);
        words_open(words, "x", 2, 2); /* never empty */
        fprintf(words->to, "%u", at->x);
        words_close(words);
        NUMBER_WHERE(VALUES, whole);
        words_next(words);
    }
    return bake_table(bake, "struct cup_knot", "knots", true, words);
}

static const char *put_curve(struct bake *bake, const struct cup_curve *at)
{
    if (!at)
        return NULL;
    const char *knots = put_knots(bake, at);
    struct words *words = words_begin(bake);
    words_pointer(words, "knots", knots, false);
    NUMBER(count);
    NUMBER(clamp);
    return bake_table(bake, "struct cup_curve", "curve", false, words);
}

static const char *put_checks(struct bake *bake, const struct cup_checks *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    VALUE(near);
    VALUE(brim);
    NUMBER(rise_per_s);
    NUMBER(jump_per_s);
    NUMBER(stuck_ms);
    NUMBER(debounce_ms);
    VALUE(band);
    NUMBER(steady_ms);
    return bake_table(bake, "struct cup_checks", "checks", false, words);
}

static void put_window(struct words *words, struct cup_window window)
{
    words_open(words, "window", sizeof(window), sizeof(window));
    fprintf(words->to, "{%d, %d}", window.size, window.trim);
    words_close(words);
}

static void put_sensor(struct words *words, const struct cup_sensor *at,
                       const char *curve, const char *checks)
{
    words_element(words);
    words_pointer(words, "curve", curve, true);
    POINTER_WHERE(CHECKS, checks, true);
    NUMBER(every_ms);
    NUMBER(lost_after_ms);
    NUMBER_WHERE(SUPPLIES, warm_up_ms);
    NUMBER_WHERE(OFFSETS, offset);
    NUMBER(lowest);
    NUMBER(highest);
    NUMBER(cells);
    INDEX_WHERE(CHECKS, checks_own);
    INDEX_WHERE(FRAMES, stream_own);
    INDEX_WHERE(SUPPLIES, supply);
    INDEX_WHERE(SUPPLIES, channel);
    INDEX_WHERE(AIR, air);
    INDEX_WHERE(SOURCES, source);
    INDEX_WHERE(SOURCES, sibling);
    put_window(words, at->window);
    NAMED(form, form_names);
    NAMED(unit, unit_names);
    NUMBER_WHERE(FRAMES, part);
    NUMBER_WHERE(FRAMES, scale);
    NUMBER_WHERE(SOURCES, word);
    words_next(words);
}

const char *bake_sensors(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->sensor_count; i++) {
        const struct cup_sensor *at = &bake->plan->sensors[i];
        put_sensor(words, at, put_curve(bake, at->curve),
                   put_checks(bake, at->checks));
    }
    return bake_table(bake, "struct cup_sensor", "sensors", true, words);
}

static void put_slope(struct words *words, const struct cup_slope *slope)
{
    words_open(words, "rise", sizeof(*slope), sizeof(*slope));
    fprintf(words->to, "{%uU, %uU, %uU, %uU}", (unsigned)slope->rise,
            (unsigned)slope->width, (unsigned)slope->whole,
            (unsigned)slope->share);
    words_close(words);
}

static void put_tank(struct bake *bake, struct words *words,
                     const struct cup_tank *at)
{
    const char *fill = put_curve(bake, at->fill);
    const char *volume =
        bake->uses[CUP_BLOCK_VOLUMES] ? put_curve(bake, at->volume) : NULL;
    words_element(words);
    words_pointer(words, "fill", fill, true);
    POINTER_WHERE(VOLUMES, volume, true);
    WHERE(PRESSURES, put_slope(words, &at->rise));
    VALUE(top);
    NUMBER_WHERE(FLOATS, low_pct100);
    NUMBER_WHERE(FLOATS, high_pct100);
    INDEX(sensor);
    INDEX_WHERE(FLOATS, high);
    NUMBER(form);
    NUMBER(step_mm10);
    words_next(words);
}

const char *bake_tanks(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->tank_count; i++)
        put_tank(bake, words, &bake->plan->tanks[i]);
    return bake_table(bake, "struct cup_tank", "tanks", true, words);
}

/* Marks as counts, where that is how they are compared. */
static struct counts bake_counts(const struct bake *bake, cup_index thing,
                                 int32_t start, int32_t stop)
{
    struct counts counts = {0, 0};
    if (!bake->uses[CUP_BLOCK_VALUES])
        (void)bake_pair(bake->plan, thing, start, stop, &counts);
    return counts;
}

static const char *put_guards(struct bake *bake, const struct cup_pump *pump)
{
    if (pump->guard_count == 0)
        return NULL;
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < pump->guard_count; i++) {
        const struct cup_guard *at = &pump->guards[i];
        struct counts counts =
            bake_counts(bake, at->about, at->mark, at->clear);
        words_element(words);
        words_mark(words, "mark", at->mark, counts.start);
        words_mark(words, "clear", at->clear, counts.stop);
        INDEX(about);
        NAMED(kind, guard_names);
        words_next(words);
    }
    return bake_table(bake, "struct cup_guard", "guards", true, words);
}

static const char *put_per_day(struct bake *bake, const struct cup_per_day *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    NUMBER(time_ms);
    NUMBER(volume_ml);
    NUMBER(volume_ms);
    NUMBER(starts);
    return bake_table(bake, "struct cup_per_day", "per_day", false, words);
}

static const char *put_proof(struct bake *bake, const struct cup_proof *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    NUMBER(change);
    NUMBER(within_ms);
    INDEX(about);
    NUMBER(kind);
    NUMBER(own);
    return bake_table(bake, "struct cup_proof", "proof", false, words);
}

static const char *put_travel(struct bake *bake, const struct cup_travel *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    NUMBER(all_ms);
    NUMBER(safe_pct100);
    return bake_table(bake, "struct cup_travel", "travel", false, words);
}

static void put_pump(struct bake *bake, struct words *words,
                     const struct cup_pump *at)
{
    const char *per_day = put_per_day(bake, at->per_day);
    const char *guards = put_guards(bake, at);
    const char *proof = put_proof(bake, at->proof);
    const char *travel = put_travel(bake, at->travel);
    words_element(words);
    NUMBER(rest_ms);
    NUMBER(longest_ms);
    NUMBER(retry_ms);
    NUMBER_WHERE(STEERING, hand_limit_ms);
    NUMBER(shortest_ms);
    POINTER_WHERE(PER_DAYS, per_day, true);
    words_pointer(words, "guards", guards, false);
    POINTER_WHERE(PROOFS, proof, true);
    POINTER_WHERE(TRAVELS, travel, true);
    INDEX_WHERE(TRAVELS, travel_own);
    INDEX_WHERE(AT_ONCE, group);
    INDEX_WHERE(PROOFS, proof_own);
    INDEX_WHERE(PER_DAYS, per_day_own);
    NUMBER(guard_count);
    NUMBER(retries);
    NUMBER(active_low);
    NUMBER_WHERE(TRAVELS, positional);
    NUMBER(uncounted);
    words_next(words);
}

const char *bake_pumps(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->pump_count; i++)
        put_pump(bake, words, &bake->plan->pumps[i]);
    return bake_table(bake, "struct cup_pump", "pumps", true, words);
}

static void put_latch(struct words *words, const struct cup_latch *at,
                      cup_index thing)
{
    struct counts counts = bake_counts(words->bake, thing, at->start, at->stop);
    words_open(words, "latch", 0, 0); /* its fields weigh */
    words_element(words);
    words_mark(words, "start", at->start, counts.start);
    words_mark(words, "stop", at->stop, counts.stop);
    NUMBER(confirm_ms);
    words_next(words);
}

/* A tenth of the way from start to stop, away from 0. */
static int32_t answer_of(const struct cup_latch *marks)
{
    int64_t way = (int64_t)marks->stop - marks->start;
    return (int32_t)((way + (way > 0 ? 9 : -9)) / 10);
}

static const char *put_dose(struct bake *bake, const struct cup_dose *at,
                            const struct cup_latch *marks)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    NUMBER(dose_ms);
    NUMBER(soak_ms);
    UNLESS(SETTINGS, words_value(words, "answer", answer_of(marks)));
    NUMBER(doses);
    return bake_table(bake, "struct cup_dose", "dose", false, words);
}

static const char *put_also(struct bake *bake, const struct cup_also *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    put_latch(words, &at->latch, at->about);
    INDEX(about);
    NUMBER(both_stop);
    return bake_table(bake, "struct cup_also", "also", false, words);
}

static const char *put_times(struct bake *bake, const struct cup_turn *turn)
{
    if (turn->at_count == 0)
        return NULL;
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < turn->at_count; i++)
        fprintf(words->to, "%u, ", (unsigned)turn->at[i]);
    size_t size = sizeof(*turn->at) * turn->at_count;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "uint16_t", "times", true, words);
}

/* What ends a turn; counts that fall as a thing rises go on above the mark. */
static void put_until(struct words *words, const struct cup_turn *at)
{
    const struct cup_plan *plan = words->bake->plan;
    if (words->bake->uses[CUP_BLOCK_VALUES] || at->until == CUP_NONE) {
        VALUE(until_above);
        VALUE(until_side);
        return;
    }
    int32_t counts = bake_count(plan, at->until, at->until_above, true);
    int32_t side = bake_falls(plan, at->until) ? counts + 1 : counts - 1;
    words_mark(words, "until_above", at->until_above, counts);
    words_open(words, "until_side", 3, 4);
    fprintf(words->to, "CUP_MARK(%d, %d)", (int)at->until_side, (int)side);
    words_close(words);
}

/* Half of every, where nothing can change that while running. */
static uint32_t least_of(const struct bake *bake, const struct cup_turn *at)
{
    if (at->least_ms > 0 || !at->dawn || bake->uses[CUP_BLOCK_SETTINGS])
        return at->least_ms;
    return at->every_ms / 2;
}

static const char *put_turn(struct bake *bake, const struct cup_turn *at)
{
    if (!at)
        return NULL;
    const char *times = put_times(bake, at);
    struct words *words = words_begin(bake);
    NUMBER(run_ms);
    NUMBER(every_ms);
    NUMBER(apart_ms);
    words_number(words, "least_ms", sizeof(at->least_ms), least_of(bake, at));
    WHERE(CLOCK, words_pointer(words, "at", times, false));
    put_until(words, at);
    INDEX(until);
    INDEX_WHERE(DAYS, day);
    NUMBER_WHERE(CLOCK, at_count);
    NUMBER(dawn);
    return bake_table(bake, "struct cup_turn", "turn", false, words);
}

static const char *put_indexes(struct bake *bake, const char *stem,
                               const cup_index *list, size_t count)
{
    if (count == 0)
        return NULL;
    struct words *words = words_begin(bake);
    for (size_t i = 0; i < count; i++)
        fprintf(words->to, "%u, ", (unsigned)list[i]);
    words->weight = (struct weight){count, 2 * count};
    return bake_table(bake, "cup_index", stem, true, words);
}

static void put_duty(struct bake *bake, struct words *words,
                     const struct cup_duty *at)
{
    const char *dose = put_dose(bake, at->dose, &at->latch);
    const char *also = put_also(bake, at->also);
    const char *turn = put_turn(bake, at->turn);
    const char *through =
        put_indexes(bake, "through", at->through, at->through_count);
    words_element(words);
    put_latch(words, &at->latch, at->keep);
    POINTER_WHERE(DOSES, dose, true);
    POINTER_WHERE(ALSOS, also, true);
    POINTER_WHERE(TURNS, turn, true);
    POINTER_WHERE(ROUTES, through, false);
    INDEX(keep);
    INDEX(pump);
    INDEX_WHERE(SETTINGS, settings);
    INDEX_WHERE(DOSES, dose_own);
    INDEX_WHERE(ALSOS, also_own);
    INDEX_WHERE(TURNS, turn_own);
    NUMBER_WHERE(CLOCK, from);
    NUMBER_WHERE(CLOCK, to);
    NUMBER_WHERE(ROUTES, through_count);
    NUMBER_WHERE(LINES, line);
    words_next(words);
}

const char *bake_duties(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->duty_count; i++)
        put_duty(bake, words, &bake->plan->duties[i]);
    return bake_table(bake, "struct cup_duty", "duties", true, words);
}

const char *bake_sources(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->source_count; i++) {
        const struct cup_source *at = &bake->plan->sources[i];
        words_element(words);
        NUMBER(every_ms);
        NUMBER(first);
        INDEX(sensor);
        NUMBER(count);
        NUMBER(unit);
        NUMBER(function);
        words_next(words);
    }
    return bake_table(bake, "struct cup_source", "sources", true, words);
}

const char *bake_days(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->day_count; i++) {
        const struct cup_day *at = &bake->plan->days[i];
        words_element(words);
        put_latch(words, &at->latch, at->light);
        INDEX(light);
        NUMBER_WHERE(CLOCK, from);
        NUMBER_WHERE(CLOCK, to);
        words_next(words);
    }
    return bake_table(bake, "struct cup_day", "days", true, words);
}

static const char *put_text(struct bake *bake, const char *text)
{
    if (!text)
        return NULL;
    struct words *words = words_begin(bake);
    fputc('"', words->to);
    for (const char *at = text; *at; at++)
        if (*at == '"' || *at == '\\')
            fprintf(words->to, "\\%c", *at);
        else if (*at == '?')
            fputs("\\?", words->to);
        else
            fputc(*at, words->to);
    fputc('"', words->to);
    size_t size = strlen(text) + 1;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "char", "text", true, words);
}

const char *bake_alerts(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->alert_count; i++) {
        const struct cup_alert *at = &bake->plan->alerts[i];
        const char *say =
            bake->kind != CUP_BAKE_ALL ? NULL : put_text(bake, at->say);
        words_element(words);
        put_latch(words, &at->latch, at->about);
        NUMBER(repeat_ms);
        words_pointer(words, "say", say, false);
        INDEX(about);
        words_next(words);
    }
    return bake_table(bake, "struct cup_alert", "alerts", true, words);
}

const char *bake_watches(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->watch_count; i++) {
        const struct cup_watch *at = &bake->plan->watches[i];
        words_element(words);
        NUMBER(change);
        NUMBER(within_ms);
        INDEX(about);
        INDEX(pump);
        NUMBER(kind);
        NUMBER(way);
        words_next(words);
    }
    return bake_table(bake, "struct cup_watch", "watches", true, words);
}

const char *bake_settings(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->setting_count; i++) {
        const struct cup_setting *at = &bake->plan->settings[i];
        words_element(words);
        NUMBER(low);
        NUMBER(high);
        INDEX(duty);
        NUMBER(field);
        words_next(words);
    }
    return bake_table(bake, "struct cup_setting", "settings", true, words);
}

static const char *put_marks(struct bake *bake, const struct cup_bar *bar)
{
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < bar->count; i++)
        fprintf(words->to, "%d, ", (int)bar->marks[i]);
    size_t size = sizeof(*bar->marks) * bar->count;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "cup_value", "marks", true, words);
}

const char *bake_bars(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->bar_count; i++) {
        const struct cup_bar *at = &bake->plan->bars[i];
        const char *marks = put_marks(bake, at);
        words_element(words);
        words_pointer(words, "marks", marks, false);
        INDEX(about);
        NUMBER(count);
        words_next(words);
    }
    return bake_table(bake, "struct cup_bar", "bars", true, words);
}

const char *bake_signals(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->signal_count; i++) {
        const struct cup_signal *at = &bake->plan->signals[i];
        words_element(words);
        fprintf(words->to, ".sounds = %d", at->sounds);
        words->weight.small++;
        words->weight.wide++;
        words_next(words);
    }
    return bake_table(bake, "struct cup_signal", "signals", true, words);
}

const char *bake_groups(struct bake *bake)
{
    return put_indexes(bake, "groups", bake->plan->groups,
                       bake->plan->group_count);
}

const char *bake_names(struct bake *bake)
{
    if (bake->kind != CUP_BAKE_ALL)
        return NULL;
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < cup_things(bake->plan); i++)
        fprintf(words->to, "%s,\n    ", put_text(bake, bake->plan->names[i]));
    size_t count = cup_things(bake->plan);
    words->weight = (struct weight){2 * count, 4 * count};
    return bake_table(bake, "char *CUP_FLASH", "names", true, words);
}

const char *bake_keys(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < cup_things(bake->plan); i++) {
        words_wrap(words);
        fprintf(words->to, "%uU, ", (unsigned)bake->plan->keys[i]);
    }
    size_t count = cup_things(bake->plan);
    words->weight = (struct weight){4 * count, 4 * count};
    return bake_table(bake, "uint32_t", "keys", true, words);
}
