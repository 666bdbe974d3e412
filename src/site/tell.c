/* Tells of what a pass found out, and notes what the journal must know. */
#include "inside.h"

/* What a horn that was quieted sounds for again: not what is only said again.
 */
static bool is_new_fault(const struct cup_event *event)
{
    switch (event->kind) {
    case CUP_KIND_TRIP:
    case CUP_KIND_LOCK:
    case CUP_KIND_LEAK:
        return true;
    case CUP_KIND_ALERT:
        return event->cause.reason != CUP_REASON_ALERT_LASTS;
    case CUP_KIND_QUALITY:
        return event->cause.reason == CUP_REASON_READING_LOST;
    default:
        return false;
    }
}

void cup_in_tell(struct cup_pass *pass, cup_index of, uint8_t kind)
{
    static CUP_FLASH uint8_t writes[CUP_KIND_COUNT] = {
        [CUP_KIND_START] = PASS_WRITE / 256,
        [CUP_KIND_STOP] = PASS_WRITE / 256,
        [CUP_KIND_CLEAR] = PASS_AT_ONCE / 256,
        [CUP_KIND_TRIP] = PASS_AT_ONCE / 256,
        [CUP_KIND_LOCK] = PASS_AT_ONCE / 256,
        [CUP_KIND_MODE] = PASS_AT_ONCE / 256,
        [CUP_KIND_ALERT] = PASS_WRITE / 256,
        [CUP_KIND_SETTING] = PASS_AT_ONCE / 256};
    pass->event.of = of;
    pass->event.kind = kind;
    /* what a guard, or nobody, cleared is no person's word */
    if (CUP_USES_JOURNAL && (kind != CUP_KIND_CLEAR ||
                             pass->event.cause.reason == CUP_REASON_CLEARED))
        cup_set_bits(&site_of(pass)->pass->flags, writes[kind] * 256u, true);
    if (CUP_USES_LAMPS && is_new_fault(&pass->event))
        site_of(pass)->pass->mood &= (uint8_t)~CUP_MOOD_QUIET;
    if (pass->sink && pass->sink->take)
        pass->sink->take(pass->sink->self, &pass->event);
}

#if CUP_USES_JOURNAL
/* What a run gives may be bounded: by a day, by doses, or by its length. Its
 * start and its stop are in the journal before any water flows, and as soon as
 * it does not. */
static void write_bounded(const struct cup_pass *pass)
{
    const struct cup_site *site = site_of(pass);
    cup_index by = pass->pump->duty;
    CUP_FLASH struct cup_duty *duty =
        by < site->plan->duty_count ? site->plan->duties + by : NULL;
    if (CUP_IF(PER_DAYS, pass->pump_plan->per_day) ||
        (duty && (CUP_IF(DOSES, duty->dose) || CUP_IF(TURNS, duty->turn))))
        cup_set_bits(&site->pass->flags, PASS_AT_ONCE, true);
}
#endif

void cup_in_tell_pump(struct cup_pass *pass, uint8_t kind)
{
    cup_in_tell(pass, cup_pump_thing(site_of(pass)->plan, pass->i), kind);
    CUP_WHERE(JOURNAL, {
        if (kind == CUP_KIND_START || kind == CUP_KIND_STOP)
            write_bounded(pass);
    })
}

void cup_in_tell_note(struct cup_pass *pass, cup_index of, uint8_t kind,
                      uint8_t reason)
{
    cup_in_because(pass, reason, CUP_NONE);
    cup_in_tell(pass, of, kind);
}
