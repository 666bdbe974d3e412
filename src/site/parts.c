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
                   CUP_FLASH struct cup_several *several, struct heard *heard)
{
    for (uint8_t i = 0; i < several->count; i++) {
        const struct cup_held *held = &site->sensors[several->of[i]].reading;
        if (!cup_usable(*held) || !(held->flags & CUP_READING_FRESH))
            continue;
        heard->values[heard->count++] = held->value;
        if (held->quality == CUP_QUALITY_GOOD)
            heard->good++;
    }
}

/* Notes which of them stray from the middle; a pass tells of it. */
static void look_for_strays(const struct cup_site *site,
                            CUP_FLASH struct cup_several *several,
                            cup_value middle)
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
    }
    if (state->strays != state->told)
        cup_set_bits(&site->pass->flags, PASS_TOUCHED, true);
}

void cup_in_parts_hear(const struct cup_site *site, cup_index sensor,
                       uint32_t now)
{
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    CUP_FLASH struct cup_several *several = use.sensor->several;
    struct cup_before was = cup_in_weigh_before(&use, now);
    struct cup_sample sample = {.reject = CUP_REASON_NO_ANSWER};
    struct heard heard = {.count = 0};
    listen(site, several, &heard);
    if (heard.good < several->at_least && !(was.flags & CUP_READING_KNOWN))
        return; /* the others are still to be heard */
    if (heard.good >= several->at_least) {
        look_for_strays(
            site, several,
            cup_several_take(CUP_TAKES_MIDDLE, heard.values, heard.count));
        sample = (struct cup_sample){
            .raw = cup_several_take((enum cup_takes)several->takes,
                                    heard.values, heard.count)};
    }
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
        for (uint8_t p = 0; news != 0; p++, news >>= 1)
            if (news & 1)
                tell_stray(pass, i, several->of[p], state->strays & 1u << p);
    }
}
#endif
