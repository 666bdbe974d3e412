/* The tables of duties and of the days that they wait for. */
#include "fields.h"

void bake_latch(struct words *words, const struct cup_latch *at,
                cup_index thing)
{
    struct counts counts = bake_counts(words->bake, thing, at->start, at->stop);
    words_field(words, "latch", 0, 0); /* its fields weigh */
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
    bake_latch(words, &at->latch, at->about);
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
    words_field(words, "until_side", 3, 4);
    fprintf(words->to, "CUP_MARK(%d, %d)", (int)at->until_side, (int)side);
    words_field_end(words);
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
    NUMBER_WHERE(OWED, owed_ms);
    words_number(words, "least_ms", sizeof(at->least_ms), least_of(bake, at));
    WHERE(CLOCK, words_pointer(words, "at", times, false));
    put_until(words, at);
    INDEX(until);
    INDEX_WHERE(DAYS, day);
    NUMBER_WHERE(CLOCK, at_count);
    NUMBER(dawn);
    return bake_table(bake, "struct cup_turn", "turn", false, words);
}

const char *bake_indexes(struct bake *bake, const char *stem,
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

static const char *put_speed(struct bake *bake, const struct cup_speed *speed)
{
    if (!speed)
        return NULL;
    struct words *words = words_begin(bake);
    for (uint8_t i = 0; i < speed->count; i++) {
        const struct cup_speed_point *at = &speed->points[i];
        words_element(words);
        VALUE(at);
        NUMBER(place_pct100);
        words_next(words);
    }
    const char *points =
        bake_table(bake, "struct cup_speed_point", "points", true, words);
    const struct cup_speed *at = speed;
    words = words_begin(bake);
    words_pointer(words, "points", points, false);
    NUMBER(count);
    return bake_table(bake, "struct cup_speed", "speed", false, words);
}

static void put_duty(struct bake *bake, struct words *words,
                     const struct cup_duty *at)
{
    const char *dose = put_dose(bake, at->dose, &at->latch);
    const char *also = put_also(bake, at->also);
    const char *turn = put_turn(bake, at->turn);
    const char *speed = put_speed(bake, at->speed);
    const char *through =
        bake_indexes(bake, "through", at->through, at->through_count);
    words_element(words);
    bake_latch(words, &at->latch, at->keep);
    POINTER_WHERE(DOSES, dose, true);
    POINTER_WHERE(ALSOS, also, true);
    POINTER_WHERE(TURNS, turn, true);
    POINTER_WHERE(SPEEDS, speed, true);
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

const char *bake_days(struct bake *bake)
{
    struct words *words = words_begin(bake);
    for (cup_index i = 0; i < bake->plan->day_count; i++) {
        const struct cup_day *at = &bake->plan->days[i];
        words_element(words);
        bake_latch(words, &at->latch, at->light);
        INDEX(light);
        NUMBER_WHERE(CLOCK, from);
        NUMBER_WHERE(CLOCK, to);
        words_next(words);
    }
    return bake_table(bake, "struct cup_day", "days", true, words);
}
