/* Numbers of a duty that may be changed while running: kept apart from the
 * plan, and changed together where an order between them must hold. */
#include "inside.h"

#if CUP_USES_SETTINGS
/* The number of a duty's setting; CUP_NONE when that may not be changed. */
static cup_index find(CUP_FLASH struct cup_plan *plan, cup_index duty,
                      uint8_t field)
{
    cup_index i = plan->duties[duty].settings;
    for (; i < plan->setting_count && plan->settings[i].duty == duty; i++)
        if (plan->settings[i].field == field)
            return i;
    return CUP_NONE;
}

static bool has_settings(const struct cup_site *site, cup_index duty)
{
    return site->pass->altered > 0 &&
           site->plan->duties[duty].settings < site->plan->setting_count;
}

void cup_in_settings_count(const struct cup_site *site)
{
    site->pass->altered = 0;
    for (cup_index i = 0; i < site->plan->setting_count; i++)
        if (site->settings[i] != cup_setting_written(site->plan, i))
            site->pass->altered++;
}

/* Puts what was set in the place of what was written. */
static int32_t now_or(const struct cup_site *site, cup_index duty,
                      uint8_t field, int32_t written)
{
    cup_index i = find(site->plan, duty, field);
    return i == CUP_NONE ? written : site->settings[i];
}

static uint32_t ms_now_or(const struct cup_site *site, cup_index duty,
                          uint8_t field, uint32_t written)
{
    return (uint32_t)now_or(site, duty, field, (int32_t)written);
}

#else
static bool has_settings(const struct cup_site *site, cup_index duty)
{
    (void)site, (void)duty;
    return false;
}
#endif

/* Numbers in RAM and those of the plan, as what is read of either. Each is
 * reached only where that is the same, so that nothing is converted. */
#define IN_ROOM(type, room) ((CUP_NUMBERS type *)(room))
#define WRITTEN(type, plan) ((CUP_NUMBERS type *)(plan))

CUP_NUMBERS struct cup_latch *cup_in_settings_latch(const struct cup_site *site,
                                                    cup_index duty,
                                                    struct cup_latch *room)
{
    CUP_FLASH struct cup_latch *written = &site->plan->duties[duty].latch;
    if (!has_settings(site, duty))
        return cup_latch_of(written, room);
    *room = *written;
    CUP_WHERE(SETTINGS, {
        room->start = now_or(site, duty, CUP_FIELD_START, room->start);
        room->stop = now_or(site, duty, CUP_FIELD_STOP, room->stop);
    })
    return IN_ROOM(struct cup_latch, room);
}

#if CUP_USES_DOSES
CUP_NUMBERS struct cup_dose *cup_in_settings_dose(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_dose *room)
{
    CUP_FLASH struct cup_dose *written = site->plan->duties[duty].dose;
    if (!CUP_NUMBERS_APART && !has_settings(site, duty))
        return WRITTEN(struct cup_dose, written);
    *room = *written;
    CUP_WHERE(SETTINGS, {
        if (has_settings(site, duty)) {
            room->dose_ms =
                ms_now_or(site, duty, CUP_FIELD_DOSE, room->dose_ms);
            room->soak_ms =
                ms_now_or(site, duty, CUP_FIELD_SOAK, room->soak_ms);
        }
    })
    return IN_ROOM(struct cup_dose, room);
}
#endif

#if CUP_USES_TURNS
CUP_NUMBERS struct cup_turn *cup_in_settings_turn(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_turn *room)
{
    CUP_FLASH struct cup_turn *written = site->plan->duties[duty].turn;
    if (!CUP_NUMBERS_APART && !has_settings(site, duty))
        return WRITTEN(struct cup_turn, written);
    *room = *written;
    CUP_WHERE(SETTINGS, {
        if (has_settings(site, duty)) {
            room->run_ms = ms_now_or(site, duty, CUP_FIELD_RUN, room->run_ms);
            room->every_ms =
                ms_now_or(site, duty, CUP_FIELD_EVERY, room->every_ms);
        }
    })
    return IN_ROOM(struct cup_turn, room);
}
#endif

cup_value cup_site_mark(const struct cup_site *site, cup_index duty, bool stop)
{
    if (duty >= site->plan->duty_count)
        return 0;
    struct cup_latch room;
    CUP_NUMBERS struct cup_latch *latch =
        cup_in_settings_latch(site, duty, &room);
    return stop ? CUP_TOLD(latch, stop) : CUP_TOLD(latch, start);
}

#if CUP_USES_SETTINGS
int32_t cup_setting_written(CUP_FLASH struct cup_plan *plan, cup_index setting)
{
    CUP_FLASH struct cup_duty *duty =
        &plan->duties[plan->settings[setting].duty];
    switch (plan->settings[setting].field) {
    case CUP_FIELD_STOP:
        return duty->latch.stop;
    case CUP_FIELD_DOSE:
        return CUP_IF(DOSES, (int32_t)duty->dose->dose_ms);
    case CUP_FIELD_SOAK:
        return CUP_IF(DOSES, (int32_t)duty->dose->soak_ms);
    case CUP_FIELD_RUN:
        return CUP_IF(TURNS, (int32_t)duty->turn->run_ms);
    case CUP_FIELD_EVERY:
        return CUP_IF(TURNS, (int32_t)duty->turn->every_ms);
    default:
        return duty->latch.start;
    }
}

int32_t cup_site_setting(const struct cup_site *site, cup_index setting)
{
    if (setting >= site->plan->setting_count)
        return 0;
    return site->pass->flags & PASS_BEGUN
               ? site->settings[setting]
               : cup_setting_written(site->plan, setting);
}

uint8_t cup_setting_unit(CUP_FLASH struct cup_plan *plan, cup_index setting)
{
    if (setting >= plan->setting_count)
        return CUP_UNIT_NONE;
    CUP_FLASH struct cup_setting *one = &plan->settings[setting];
    return one->field <= CUP_FIELD_STOP
               ? cup_thing_unit(plan, plan->duties[one->duty].keep)
               : CUP_UNIT_SECOND;
}

/* Whether a word changes a setting; the last change counts. */
static bool sets(const struct cup_word *word, cup_index setting, int32_t *value)
{
    bool found = false;
    for (uint8_t c = 0; word->verb == CUP_VERB_SET && c < word->change_count;
         c++)
        if (word->changes[c].setting == setting) {
            *value = word->changes[c].value;
            found = true;
        }
    return found;
}

/* What a field would be after all that is said. */
static int32_t after(const struct cup_site *site, const struct cup_said *said,
                     cup_index duty, uint8_t field, int32_t written)
{
    int32_t value = written;
    cup_index i = find(site->plan, duty, field);
    if (i == CUP_NONE)
        return written;
    for (size_t w = said->count; w > 0; w--)
        if (sets(&said->words[w - 1], i, &value))
            return value;
    return cup_site_setting(site, i);
}

#if CUP_USES_TURNS
/* A turn is over before the next one comes. */
static bool turns_in_order(const struct cup_site *site,
                           const struct cup_said *said, cup_index duty)
{
    CUP_FLASH struct cup_turn *turn = site->plan->duties[duty].turn;
    int32_t every =
        after(site, said, duty, CUP_FIELD_EVERY, (int32_t)turn->every_ms);
    return every == 0 || after(site, said, duty, CUP_FIELD_RUN,
                               (int32_t)turn->run_ms) < every;
}
#endif

/* Marks may not meet or cross: a duty that raises must not come to lower. */
static bool keeps_order(const struct cup_site *site,
                        const struct cup_said *said, cup_index duty)
{
    CUP_FLASH struct cup_duty *plan = &site->plan->duties[duty];
    CUP_WHERE(TURNS, if (plan->turn) return turns_in_order(site, said, duty);)
    bool raises = plan->latch.start < plan->latch.stop;
    int32_t start = after(site, said, duty, CUP_FIELD_START, plan->latch.start);
    int32_t stop = after(site, said, duty, CUP_FIELD_STOP, plan->latch.stop);
    return raises ? start < stop : start > stop;
}

enum cup_error cup_in_settings_may(const struct cup_site *site,
                                   const struct cup_said *said)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    const struct cup_word *word = said->word;
    if (word->change_count == 0 || word->change_count > CUP_CHANGES_MOST)
        return CUP_ERROR_RANGE;
    for (uint8_t c = 0; c < word->change_count; c++) {
        const struct cup_change *change = &word->changes[c];
        if (change->setting >= plan->setting_count)
            return CUP_ERROR_NAME;
        CUP_FLASH struct cup_setting *one = &plan->settings[change->setting];
        if (change->value < one->low || change->value > one->high)
            return CUP_ERROR_RANGE;
    }
    for (uint8_t c = 0; c < word->change_count; c++)
        if (!keeps_order(site, said,
                         plan->settings[word->changes[c].setting].duty))
            return CUP_ERROR_ORDER;
    return CUP_OK;
}

uint32_t cup_in_settings_about(CUP_FLASH struct cup_plan *plan, cup_index duty)
{
    cup_index keep = plan->duties[duty].keep;
    return keep == CUP_NONE ? 0 : plan->keys[keep];
}

void cup_in_settings_settle(const struct cup_site *site)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    const struct cup_said unsaid = {0};
    for (cup_index duty = 0; duty < plan->duty_count; duty++) {
        cup_index i = plan->duties[duty].settings;
        if (i >= plan->setting_count || keeps_order(site, &unsaid, duty))
            continue;
        for (; i < plan->setting_count && plan->settings[i].duty == duty; i++)
            site->settings[i] = cup_setting_written(plan, i);
    }
    cup_in_settings_count(site);
}

void cup_in_settings_take(const struct cup_site *site,
                          const struct cup_word *word)
{
    for (uint8_t c = 0; c < word->change_count; c++) {
        const struct cup_change *change = &word->changes[c];
        if (site->settings[change->setting] == change->value)
            continue;
        site->settings[change->setting] = change->value;
        site->changes[change->setting] = 1;
    }
    cup_in_settings_count(site);
    site->pass->flags |= PASS_SET;
}

void cup_in_settings_tell(struct cup_pass *pass)
{
    CUP_FLASH struct cup_plan *plan = site_of(pass)->plan;
    for (cup_index i = 0; i < plan->setting_count; i++) {
        CUP_FLASH struct cup_setting *one = &plan->settings[i];
        if (!site_of(pass)->changes[i])
            continue;
        site_of(pass)->changes[i] = 0;
        cup_in_because_of(pass, (uint8_t)(CUP_REASON_SET_START + one->field),
                          plan->duties[one->duty].keep,
                          site_of(pass)->settings[i],
                          cup_setting_written(plan, i));
        cup_in_tell(pass, cup_duty_thing(plan, one->duty), CUP_KIND_SETTING);
    }
}
#else
/* There is none. */
int32_t cup_setting_written(CUP_FLASH struct cup_plan *plan, cup_index setting)
{
    (void)plan, (void)setting;
    return 0;
}

int32_t cup_site_setting(const struct cup_site *site, cup_index setting)
{
    (void)site, (void)setting;
    return 0;
}

uint8_t cup_setting_unit(CUP_FLASH struct cup_plan *plan, cup_index setting)
{
    (void)plan, (void)setting;
    return CUP_UNIT_NONE;
}
#endif
