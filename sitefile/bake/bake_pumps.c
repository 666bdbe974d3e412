/* The tables of pumps and of all that belongs to one. */
#include "fields.h"

#define X(x, name, ...) "CUP_GUARD_" #name,
static const char *const guard_names[] = {CUP_GUARDS(X, )};
#undef X

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
    NUMBER(lag_ms);
    INDEX(about);
    INDEX_WHERE(FLOWS, shared);
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
