/* The loop of a site over a port, one turn of it. */
#include "../site/inside.h"
#include "cuplatch/journal.h"

static void take(void *self, const struct cup_event *event)
{
    cup_port_tell(self, event);
}

#if CUP_ALL_PLAIN
#if CUP_USES_PACES
/* Whether it is time for a sensor; then that is noted. */
static bool must_answer(const struct cup_sensor_use *use, uint32_t now)
{
    if ((use->state->reading.flags & CUP_READING_ASKED) &&
        !cup_is_over(now, &use->state->asked_ms, &use->sensor->every_ms))
        return false;
    use->state->reading.flags |= CUP_READING_ASKED;
    use->state->asked_ms = now;
    return true;
}
#endif

/* Asked and heard in one go, which is shorter. */
enum cup_error cup_port_ask(struct cup_port *port, const struct cup_site *site,
                            uint32_t now_ms)
{
    cup_in_hear_first(site, now_ms);
    uint32_t now = cup_in_pass_time(site->pass, now_ms);
    CUP_UNLESS(PACES, {
        if (!cup_in_pass_all_due(site, now))
            return CUP_OK;
        site->pass->asked_ms = now;
    })
    CUP_FLASH struct cup_sensor *sensor = site->plan->sensors;
    struct cup_sensor_state *state = site->sensors;
    for (cup_index i = 0; i < site->plan->sensor_count;
         i++, sensor++, state++) {
        struct cup_sensor_use use = cup_in_pass_use_by(site, i, sensor, state);
        CUP_WHERE(PACES, if (!must_answer(&use, now)) continue;)
        struct cup_before was = cup_in_weigh_before(&use, now);
        cup_sensor_hear(&use, now, cup_port_sample(port, i));
        cup_in_weigh_after(site, i, &use, &was);
    }
    return CUP_OK;
}

#else
#if CUP_USES_FRAMES || CUP_USES_SOURCES
static void hear_bytes(struct cup_port *port, const struct cup_site *site,
                       const struct cup_want *want, uint32_t now_ms)
{
    uint8_t bytes[CUP_FRAME_MOST];
    cup_index thing = want->kind == CUP_WANT_REQUEST
                          ? cup_source_thing(site->plan, want->index)
                          : want->index;
    size_t count = cup_port_bytes(port, thing, bytes, sizeof(bytes));
    CUP_WHERE(SOURCES, {
        if (want->kind == CUP_WANT_REQUEST) {
            cup_site_answer(site, want->index, now_ms, bytes, count);
            return;
        }
    })
    CUP_WHERE(FRAMES, {
        if (count > 0) {
            cup_site_hear_bytes(site, want->index, now_ms, bytes, count);
            return;
        }
    })
    cup_site_hear(site, want->index, now_ms,
                  cup_port_sample(port, want->index));
}
#define HEAR_BYTES(port, site, want, now_ms)                                   \
    hear_bytes(port, site, want, now_ms)
#else
/* Nothing answers with bytes. */
#define HEAR_BYTES(port, site, want, now_ms) ((void)0)
#endif

static void hear(struct cup_port *port, const struct cup_site *site,
                 const struct cup_want *want, uint32_t now_ms)
{
    if (CUP_IF(SOURCES, want->kind == CUP_WANT_REQUEST) ||
        CUP_IF(FRAMES,
               cup_form_is_bytes(site->plan->sensors[want->index].form)))
        HEAR_BYTES(port, site, want, now_ms);
    else
        cup_site_hear(site, want->index, now_ms,
                      cup_port_sample(port, want->index));
}

enum cup_error cup_port_ask(struct cup_port *port, const struct cup_site *site,
                            uint32_t now_ms)
{
    enum cup_error first = CUP_OK;
    struct cup_want want;
    while (cup_site_ask(site, now_ms, &want)) {
        enum cup_error error = CUP_OK;
        if (CUP_IF(SUPPLIES, want.kind == CUP_WANT_SUPPLY))
            error = cup_port_supply(port, want.index, want.on);
        else
            hear(port, site, &want, now_ms);
        if (!first)
            first = error;
    }
    return first;
}
#endif

static enum cup_error move_one(struct cup_port *port,
                               const struct cup_site *site, cup_index i)
{
    int way;
    uint16_t place = cup_site_place(site, i, &way);
    return cup_port_move(port, i, place, way);
}

enum cup_error cup_port_drive_all(struct cup_port *port,
                                  const struct cup_site *site)
{
    enum cup_error first = CUP_OK;
    CUP_FLASH struct cup_pump *pump = site->plan->pumps;
    const struct cup_pump_state *state = site->pumps;
    for (cup_index i = 0; i < site->plan->pump_count; i++, pump++, state++) {
        enum cup_error error;
        if (CUP_IF(TRAVELS, pump->positional))
            error = move_one(port, site, i);
        else
            error = cup_port_drive(port, i,
                                   cup_pump_is(state, CUP_PUMP_IS_ON) !=
                                       pump->active_low);
        if (CUP_USES_FAILS && (error || (site->pass->flags & PASS_FAILING)))
            cup_site_drove(site, i, error != CUP_OK);
        if (!first)
            first = error;
    }
    return first;
}

static void light_all(struct cup_port *port, const struct cup_site *site)
{
    CUP_FLASH struct cup_plan *plan = site->plan;
    if (plan->bar_count + plan->signal_count == 0)
        return;
    uint8_t mood = site->pass->mood;
    for (cup_index i = 0; i < plan->bar_count; i++)
        cup_port_light(port, i, cup_site_lit(site, i));
    for (cup_index i = 0; i < plan->signal_count; i++)
        cup_port_light(port, (cup_index)(plan->bar_count + i),
                       (uint8_t)cup_signal_pattern(&plan->signals[i], mood));
}

/* Whether the plan was compiled with what the core was; one that is the core's
 * own would not link. */
#ifdef CUP_ONE_SITE
#define FITS(site) true
#else
#define FITS(site) ((site)->plan->layout == CUP_LAYOUT)
#endif

#if CUP_USES_BUTTONS
static void hear_buttons(struct cup_port *port, const struct cup_site *site,
                         uint32_t now_ms)
{
    for (cup_index i = 0; i < site->plan->button_count; i++)
        (void)cup_site_press(site, i, now_ms, cup_port_closed(port, i));
}
#endif

enum cup_error cup_port_decide(struct cup_port *port,
                               const struct cup_site *site)
{
    if (!FITS(site))
        return CUP_ERROR_LAYOUT;
    struct cup_sink sink = {take, port};
    uint32_t now_ms = cup_port_now_ms(port);
    enum cup_error error = cup_port_ask(port, site, now_ms);
    CUP_WHERE(BUTTONS, hear_buttons(port, site, now_ms);)
    cup_site_decide(site, now_ms, &sink);
    return error;
}

enum cup_error cup_port_act(struct cup_port *port, const struct cup_site *site)
{
    if (!FITS(site))
        return CUP_ERROR_LAYOUT;
    enum cup_error error = cup_port_drive_all(port, site);
    if (CUP_USES_LAMPS)
        light_all(port, site);
    cup_port_feed(port);
    return error;
}

enum cup_error cup_port_pass(struct cup_port *port, const struct cup_site *site)
{
    enum cup_error first = cup_port_decide(port, site);
    enum cup_error second = cup_port_act(port, site);
    return first ? first : second;
}

enum cup_error cup_journal_pass(struct cup_journal *journal,
                                const struct cup_site *site,
                                struct cup_port *port)
{
    enum cup_error first = cup_port_decide(port, site);
    (void)!cup_journal_step(journal, site);
    enum cup_error second = cup_port_act(port, site);
    return first ? first : second;
}
