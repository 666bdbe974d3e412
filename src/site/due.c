/* Which sensors are due, one after another on a shared channel, powered only
 * while they are read. Nothing here waits. */
#include "inside.h"

/* A search for what is due. `next`: ms until something else will be. */
struct search {
    HOLDS_SITE
    struct cup_want *want;
    uint32_t now;
    uint32_t next;
    uint32_t warming;
};

/* Something will be due in so many ms. */
static void due_in(struct search *search, uint32_t ms)
{
    if (CUP_USES_QUIET)
        search->next = cup_least(search->next, ms);
}

#if CUP_USES_PACES
static bool has(const struct cup_sensor_state *state, unsigned flag)
{
    return state->reading.flags & flag;
}
#endif

static bool want(const struct search *search, enum cup_want_kind kind,
                 cup_index index, bool on)
{
    *search->want = (struct cup_want){index, (uint8_t)kind, on};
    return true;
}

static bool sample(struct search *search, cup_index i)
{
    due_in(search, site_of(search)->plan->sensors[i].every_ms);
    return want(search, CUP_WANT_SAMPLE, i, false);
}

#if CUP_USES_SUPPLIES
static void clear_flags(struct cup_sensor_state *state, unsigned flags)
{
    state->reading.flags = (uint8_t)(state->reading.flags & ~flags);
}

/* The sensor was read: its channel is free, its supply goes off with the last
 * that uses it. */
static bool let_go(struct search *search, cup_index i)
{
    CUP_FLASH struct cup_sensor *sensor = &site_of(search)->plan->sensors[i];
    clear_flags(&site_of(search)->sensors[i], CUP_READING_SPENT);
    if (sensor->channel != CUP_NONE)
        site_of(search)->channels[sensor->channel] = 0;
    cup_set_bits(&site_of(search)->pass->flags, PASS_AGAIN, true);
    return --site_of(search)->supplies[sensor->supply] == 0 &&
           want(search, CUP_WANT_SUPPLY, sensor->supply, false);
}

static bool warm(struct search *search, cup_index i)
{
    CUP_FLASH struct cup_sensor *sensor = &site_of(search)->plan->sensors[i];
    struct cup_sensor_state *state = &site_of(search)->sensors[i];
    uint32_t left = cup_left(search->now, state->asked_ms, sensor->warm_up_ms);
    if (left > 0) {
        due_in(search, left);
        search->warming = cup_least(search->warming, left);
        return false;
    }
    clear_flags(state, CUP_READING_WARM);
    state->reading.flags |= CUP_READING_SPENT;
    return sample(search, i);
}

/* Powers a sensor whose turn it is; false when another has its channel. */
static bool power(struct search *search, cup_index i)
{
    CUP_FLASH struct cup_sensor *sensor = &site_of(search)->plan->sensors[i];
    struct cup_sensor_state *state = &site_of(search)->sensors[i];
    uint8_t *channel = sensor->channel == CUP_NONE
                           ? NULL
                           : &site_of(search)->channels[sensor->channel];
    if (channel && *channel) {
        if (state->reading.reason == CUP_REASON_NONE)
            state->reading.reason = CUP_REASON_TURN;
        return false;
    }
    if (channel)
        *channel = 1;
    state->reading.flags |= CUP_READING_ASKED | CUP_READING_WARM;
    state->asked_ms = search->now;
    if (site_of(search)->supplies[sensor->supply]++ == 0)
        return want(search, CUP_WANT_SUPPLY, sensor->supply, true);
    return warm(search, i);
}

#endif

#if CUP_USES_PACES
/* ms until a sensor that is not warming up is due; 0 when it is. */
static uint32_t left_of(const struct search *search, cup_index i)
{
    const struct cup_sensor_state *state = &site_of(search)->sensors[i];
    CUP_FLASH struct cup_sensor *sensor = &site_of(search)->plan->sensors[i];
    if (!has(state, CUP_READING_ASKED))
        return 0;
    if (!CUP_USES_QUIET) /* when it is due does not matter, but whether */
        return !cup_is_over(search->now, &state->asked_ms, &sensor->every_ms);
    return cup_left(search->now, state->asked_ms, sensor->every_ms);
}

static bool ask_sensor(struct search *search, cup_index i)
{
    struct cup_sensor_state *state = &site_of(search)->sensors[i];
    CUP_WHERE(SUPPLIES, {
        if (has(state, CUP_READING_SPENT) && let_go(search, i))
            return true;
        if (has(state, CUP_READING_WARM))
            return warm(search, i);
    })
    uint32_t left = left_of(search, i);
    if (left > 0) {
        due_in(search, left);
        return false;
    }
    CUP_WHERE(SOURCES, {
        if (site_of(search)->plan->sensors[i].source != CUP_NONE)
            return false;
    })
    CUP_WHERE(SEVERAL, {
        if (site_of(search)->plan->sensors[i].several)
            return false;
    })
    CUP_WHERE(SUPPLIES, {
        if (site_of(search)->plan->sensors[i].supply != CUP_NONE)
            return power(search, i);
    })
    state->reading.flags |= CUP_READING_ASKED;
    state->asked_ms = search->now;
    return sample(search, i);
}

static bool ask_source(struct search *search, cup_index i)
{
    CUP_FLASH struct cup_source *source = &site_of(search)->plan->sources[i];
    struct cup_source_state *state = &site_of(search)->sources[i];
    uint32_t left = 0;
    if (state->asked)
        left = cup_left(search->now, state->asked_ms, source->every_ms);
    if (left > 0) {
        due_in(search, left);
        return false;
    }
    state->asked = 1;
    state->asked_ms = search->now;
    due_in(search, source->every_ms);
    return want(search, CUP_WANT_REQUEST, i, false);
}

/* Goes on from the cursor; a sensor that is not done keeps it. */
static bool go_on_sensors(struct search *search, cup_index count)
{
    struct cup_pass_state *pass = site_of(search)->pass;
    while (pass->cursor < count) {
        cup_index i = (cup_index)pass->cursor;
        bool found = ask_sensor(search, i);
        if (!CUP_IF(SUPPLIES,
                    found &&
                        site_of(search)->plan->sensors[i].supply != CUP_NONE))
            pass->cursor++;
        if (found)
            return true;
    }
    return false;
}

static bool go_on(struct search *search)
{
    struct cup_pass_state *pass = site_of(search)->pass;
    CUP_FLASH struct cup_plan *plan = site_of(search)->plan;
    if (pass->cursor < plan->sensor_count &&
        go_on_sensors(search, plan->sensor_count))
        return true;
    for (; CUP_USES_SOURCES &&
           pass->cursor < plan->sensor_count + plan->source_count;
         pass->cursor++)
        if (ask_source(search,
                       (cup_index)(pass->cursor - plan->sensor_count))) {
            pass->cursor++;
            return true;
        }
    return false;
}

#else
/* All of them, one after another, once it is time. */
static bool go_on(struct search *search)
{
    struct cup_pass_state *pass = site_of(search)->pass;
    if (pass->cursor == 0) {
        if (!cup_in_pass_all_due(site_of(search), search->now))
            return false;
        pass->asked_ms = search->now;
    }
    return pass->cursor < site_of(search)->plan->sensor_count &&
           sample(search, (cup_index)pass->cursor++);
}
#endif

/* A channel that became free in a search may be wanted by one passed over. */
static bool go_on_again(struct search *search)
{
    struct cup_pass_state *pass = site_of(search)->pass;
    if (!(pass->flags & PASS_AGAIN))
        return false;
    cup_set_bits(&pass->flags, PASS_AGAIN, false);
    pass->cursor = 0;
    return go_on(search);
}

/* Notes when to search again: one that is under way goes on from here. */
static void rest_search(const struct search *search, bool found)
{
    struct cup_pass_state *pass = site_of(search)->pass;
    struct cup_quiet_state *quiet = site_of(search)->quiet;
    quiet->looked_ms = search->next;
    quiet->warming_ms = search->warming;
    cup_set_bits(&pass->flags, PASS_ASKING, true);
    if (found)
        return;
    cup_set_bits(&pass->flags, PASS_ASKING, false);
    quiet->asking_ms = search->now;
    quiet->unasked_ms = search->next;
}

bool cup_site_ask(const struct cup_site *site, uint32_t now_ms,
                  struct cup_want *want)
{
    struct cup_pass_state *pass = site->pass;
    struct cup_quiet_state *quiet = site->quiet;
    if (!(pass->flags & PASS_BEGUN))
        cup_in_bind_begin(site, now_ms);
    uint32_t now = cup_in_pass_time(pass, now_ms);
    struct search search = {.want = want, .now = now, .next = QUIET_MAX};
    hold_site(&search, site);
    search.warming = UINT32_MAX;
    if (CUP_USES_QUIET &&
        cup_left(now, quiet->asking_ms, quiet->unasked_ms) > 0)
        return false;
    if (CUP_USES_QUIET && (pass->flags & PASS_ASKING)) {
        search.next = quiet->looked_ms;
        search.warming = quiet->warming_ms;
    }
    bool found = go_on(&search) || (CUP_USES_SUPPLIES && go_on_again(&search));
    if (CUP_USES_QUIET)
        rest_search(&search, found);
    if (found)
        return true;
    cup_set_bits(&pass->flags, PASS_AGAIN, false);
    pass->cursor = 0;
    return false;
}

uint32_t cup_site_warming(const struct cup_site *site, uint32_t now_ms)
{
    const struct cup_quiet_state *quiet = site->quiet;
    if (!CUP_USES_QUIET || !(site->pass->flags & PASS_BEGUN) ||
        quiet->warming_ms == UINT32_MAX)
        return UINT32_MAX;
    return cup_left(cup_in_pass_time(site->pass, now_ms), quiet->asking_ms,
                    quiet->warming_ms);
}
