/* Sensors that are made of others: with each sample of one of these. */
#include "inside.h"

#if CUP_USES_SEVERAL

/* What its probes say that can be used now, how many these are, and how many of
 * them are good, not held. */
struct heard {
    cup_value values[CUP_SEVERAL_MOST];
    uint8_t count;
    uint8_t good;
};

static void listen(const struct cup_site *site,
                   CUP_FLASH struct cup_several *several, uint8_t mute,
                   struct heard *heard)
{
    heard->count = heard->good = 0;
    for (uint8_t i = 0; i < several->count; i++) {
        const struct cup_held *held = &site->sensors[several->of[i]].reading;
        if (!cup_usable(*held) || !(held->flags & CUP_READING_FRESH) ||
            (mute >> i & 1))
            continue;
        heard->values[heard->count++] = held->value;
        if (held->quality == CUP_QUALITY_GOOD)
            heard->good++;
    }
}

static bool is_good(const struct cup_site *site, cup_index sensor)
{
    return site->sensors[sensor].reading.quality == CUP_QUALITY_GOOD;
}

/* One that strays has no vote until it has agreed again for some samples. */
static void count_agreed(struct cup_several_state *state, uint8_t i,
                         bool strays, bool sampled)
{
    const uint8_t bit = (uint8_t)(1u << i);
    if (strays) {
        state->mute |= bit;
        state->agreed[i] = 0;
    } else if (sampled && (state->mute & bit) &&
               ++state->agreed[i] >= CUP_SEVERAL_AGREES) {
        state->mute = (uint8_t)(state->mute & ~bit);
    }
}

/* Enough of them are good; but of two that differ too much nobody can tell
 * which is right. */
static bool can_tell(CUP_FLASH struct cup_several *several,
                     const struct heard *heard)
{
    return heard->good >= several->at_least &&
           (several->apart == 0 || heard->count != 2 ||
            cup_gap(heard->values[0], heard->values[1]) <=
                (uint32_t)several->apart);
}

/* Notes which of them stray from the middle; a pass tells of it. */
static void look_for_strays(const struct cup_site *site,
                            CUP_FLASH struct cup_several *several,
                            cup_index part, cup_value middle)
{
    struct cup_several_state *state = &site->severals[several->own];
    for (uint8_t i = 0; i < several->count; i++) {
        const struct cup_held *held = &site->sensors[several->of[i]].reading;
        const uint8_t bit = (uint8_t)(1u << i);
        if (!cup_usable(*held))
            continue; /* neither near the others nor far */
        bool strays = cup_several_strays(several, state->strays & bit,
                                         held->value, middle);
        state->strays =
            (uint8_t)(strays ? state->strays | bit : state->strays & ~bit);
        count_agreed(state, i, strays,
                     several->of[i] == part && is_good(site, part));
    }
    if (state->strays != state->told)
        cup_set_bits(&site->pass->flags, PASS_TOUCHED, true);
}

/* Where those that have a vote can't tell, one that has none may have come to
 * agree with all others: else it would never be asked again. */
static void readmit(const struct cup_site *site,
                    CUP_FLASH struct cup_several *several, cup_index part)
{
    struct cup_several_state *state = &site->severals[several->own];
    struct heard all;
    listen(site, several, 0, &all);
    if (all.count < 2)
        return;
    cup_value low = cup_several_take(CUP_TAKES_LOWEST, all.values, all.count);
    cup_value high = cup_several_take(CUP_TAKES_HIGHEST, all.values, all.count);
    bool strays = cup_gap(low, high) > (uint32_t)several->apart;
    for (uint8_t i = 0; i < several->count; i++)
        if (state->mute >> i & 1)
            count_agreed(state, i, strays,
                         several->of[i] == part && is_good(site, part));
}

/* What those that have a vote say; one that strays from the middle loses it. */
static bool vote(const struct cup_site *site,
                 CUP_FLASH struct cup_several *several, cup_index part,
                 struct heard *heard)
{
    const struct cup_several_state *state = &site->severals[several->own];
    listen(site, several, state->mute, heard);
    if (!can_tell(several, heard)) {
        if (state->mute != 0)
            readmit(site, several, part);
        return false;
    }
    look_for_strays(
        site, several, part,
        cup_several_take(CUP_TAKES_MIDDLE, heard->values, heard->count));
    listen(site, several, state->mute, heard);
    return can_tell(several, heard);
}

void cup_in_parts_hear(const struct cup_site *site, cup_index sensor,
                       cup_index part, uint32_t now)
{
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    CUP_FLASH struct cup_several *several = use.sensor->several;
    struct cup_before was = cup_in_weigh_before(&use, now);
    struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
    struct heard heard;
    bool tells = vote(site, several, part, &heard);
    if (heard.good < several->at_least && !(was.flags & CUP_READING_KNOWN))
        return; /* the others are still to be heard */
    if (tells)
        sample = (struct cup_sample){
            .raw = cup_several_take((enum cup_takes)several->takes,
                                    heard.values, heard.count)};
    cup_sensor_hear(&use, now, sample);
    if (sample.reject != CUP_REASON_NONE)
        use.state->reading.reason = CUP_REASON_FEW;
    cup_in_weigh_after(site, sensor, &use, &was);
}

/* Tells of one that strays, or is near the others again. */
static void tell_stray(struct cup_pass *pass, cup_index of, cup_index about,
                       bool strays)
{
    const struct cup_site *site = site_of(pass);
    cup_in_because_values(pass, CUP_REASON_STRAYS, about,
                          site->sensors[about].reading.value,
                          site->sensors[of].reading.value);
    cup_in_tell(pass, of, (uint8_t)(strays ? CUP_KIND_ALERT : CUP_KIND_OVER));
}

static void note_stray(struct cup_pass *pass, cup_index of, cup_index part,
                       bool strays, bool news)
{
    const cup_index which =
        (cup_index)(site_of(pass)->plan->sensor_count + part);
    if (CUP_IF_ELSE(ONCE, cup_in_onces_tell(pass, which, part, strays, news),
                    ((void)which, news)))
        tell_stray(pass, of, part, strays);
}

void cup_in_parts_tell(struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    for (cup_index i = 0; i < site->plan->sensor_count; i++) {
        CUP_FLASH struct cup_several *several = site->plan->sensors[i].several;
        if (!several)
            continue;
        struct cup_several_state *state = &site->severals[several->own];
        unsigned news = state->strays ^ state->told;
        state->told = state->strays;
        for (uint8_t p = 0; p < several->count; p++)
            note_stray(pass, i, several->of[p], state->strays >> p & 1,
                       news >> p & 1);
    }
}
#endif
