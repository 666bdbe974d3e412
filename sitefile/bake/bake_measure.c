/* The tables of sensors, of what they are values of, and of tanks. */
#include "fields.h"

#define X(name, ...) "CUP_FORM_" #name,
static const char *const form_names[] = {CUP_FORMS(X)};
#undef X
#define X(name, ...) "CUP_UNIT_" #name,
static const char *const unit_names[] = {CUP_UNITS(X)};
#undef X

static const char *put_knots(struct bake *bake, const struct cup_curve *curve)
{
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < curve->count; i++) {
        const struct cup_knot *at = &curve->knots[i];
        words_element(words);
        VALUE(y);
        NUMBER_WHERE(VALUES, share);
        words_field(words, "x", 2, 2); /* never empty */
        fprintf(words->to, "%u", at->x);
        words_field_end(words);
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
    NUMBER(jump_per_s);
    NUMBER(stuck_ms);
    NUMBER(debounce_ms);
    VALUE(band);
    NUMBER(steady_ms);
    return bake_table(bake, "struct cup_checks", "checks", false, words);
}

static void put_window(struct words *words, struct cup_window window)
{
    words_field(words, "window", sizeof(window), sizeof(window));
    fprintf(words->to, "{%d, %d}", window.size, window.trim);
    words_field_end(words);
}

static const char *put_nothing(struct bake *bake, const struct cup_sensor *at)
{
    if (at->nothing_count == 0)
        return NULL;
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < at->nothing_count; i++)
        fprintf(words->to, "%d, ", (int)at->nothing[i]);
    size_t size = sizeof(*at->nothing) * at->nothing_count;
    words->weight = (struct weight){size, size};
    return bake_table(bake, "int32_t", "nothing", true, words);
}

static const char *put_several(struct bake *bake, const struct cup_several *at)
{
    if (!at)
        return NULL;
    const char *of = bake_indexes(bake, "of", at->of, at->count);
    struct words *words = words_begin(bake);
    words_pointer(words, "of", of, false);
    VALUE(apart);
    INDEX(own);
    NUMBER(count);
    NUMBER(at_least);
    NUMBER(takes);
    return bake_table(bake, "struct cup_several", "several", false, words);
}

static void put_sensor(struct words *words, const struct cup_sensor *at,
                       const char *curve, const char *checks,
                       const char *nothing, const char *several)
{
    words_element(words);
    words_pointer(words, "curve", curve, true);
    POINTER_WHERE(CHECKS, checks, true);
    POINTER_WHERE(NOTHINGS, nothing, false);
    POINTER_WHERE(SEVERAL, several, true);
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
    NUMBER_WHERE(AIR, lean);
    INDEX_WHERE(SOURCES, source);
    INDEX_WHERE(SOURCES, sibling);
    INDEX_WHERE(SEVERAL, part_of);
    put_window(words, at->window);
    NAMED(form, form_names);
    NAMED(unit, unit_names);
    NUMBER_WHERE(FRAMES, part);
    NUMBER_WHERE(FRAMES, scale);
    NUMBER_WHERE(SOURCES, word);
    NUMBER_WHERE(NOTHINGS, nothing_count);
    words_next(words);
}

const char *bake_sensors(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->sensor_count; i++) {
        const struct cup_sensor *at = &bake->plan->sensors[i];
        put_sensor(words, at, put_curve(bake, at->curve),
                   put_checks(bake, at->checks), put_nothing(bake, at),
                   put_several(bake, at->several));
    }
    return bake_table(bake, "struct cup_sensor", "sensors", true, words);
}

static void put_slope(struct words *words, const struct cup_slope *slope)
{
    words_field(words, "rise", sizeof(*slope), sizeof(*slope));
    fprintf(words->to, "{%uU, %uU, %uU, %uU}", (unsigned)slope->rise,
            (unsigned)slope->width, (unsigned)slope->whole,
            (unsigned)slope->share);
    words_field_end(words);
}

static const char *put_span(struct bake *bake, const struct cup_span *at)
{
    if (!at)
        return NULL;
    struct words *words = words_begin(bake);
    NUMBER(believe_ms);
    NUMBER(boot_ms);
    NUMBER(lag_ms);
    NUMBER(gains);
    NUMBER(loses);
    NUMBER(leap);
    return bake_table(bake, "struct cup_span", "span", false, words);
}

static void put_tank(struct bake *bake, struct words *words,
                     const struct cup_tank *at)
{
    const char *fill = put_curve(bake, at->fill);
    const char *volume =
        bake->uses[CUP_BLOCK_VOLUMES] ? put_curve(bake, at->volume) : NULL;
    const char *span =
        bake->uses[CUP_BLOCK_SPANS] ? put_span(bake, at->span) : NULL;
    words_element(words);
    words_pointer(words, "fill", fill, true);
    POINTER_WHERE(VOLUMES, volume, true);
    WHERE(PRESSURES, put_slope(words, &at->rise));
    POINTER_WHERE(SPANS, span, true);
    VALUE(top);
    NUMBER_WHERE(FLOATS, low_pct100);
    NUMBER_WHERE(FLOATS, high_pct100);
    INDEX(sensor);
    INDEX_WHERE(FLOATS, high);
    INDEX_WHERE(SPANS, span_own);
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
