/* Outputs that the port cannot drive: a pump that does not obey stays off, and
 * so does what shares its tanks; it counts as running, since it may. */
#include "inside.h"

#if CUP_USES_FAILS

static bool is_failing(const struct cup_pump_state *pump)
{
    return cup_pump_is(pump, CUP_PUMP_IS_FAILING);
}

/* The tank of the pump looked at that a failing pump moves: true when there is
 * one, else `about` is its last tank. */
static bool shares_failed(const struct cup_pass *pass, cup_index *about)
{
    CUP_FLASH struct cup_guard *guard = pass->pump_plan->guards;
    for (uint8_t left = pass->pump_plan->guard_count; left > 0;
         left--, guard++) {
        const struct cup_tank_state *tank =
            cup_in_levels_guarded(site_of(pass), guard);
        if (tank)
            *about = guard->about;
        if (tank && tank->failing > 0)
            return true;
    }
    return false;
}

uint8_t cup_in_fails_guard(struct cup_pass *pass, uint8_t no)
{
    if (is_failing(pass->pump)) {
        if (!pass->pump_plan->uncounted)
            pass->pumps_running++;
        return CUP_REASON_CANNOT_DRIVE;
    }
    cup_index about;
    return shares_failed(pass, &about) ? CUP_REASON_SHARES_FAILED : no;
}

uint8_t cup_in_fails_cause(struct cup_pass *pass, uint8_t reason)
{
    cup_index about = cup_pump_thing(site_of(pass)->plan, pass->i);
    if (reason == CUP_REASON_SHARES_FAILED)
        shares_failed(pass, &about);
    return cup_in_because(pass, reason, about);
}

void cup_in_fails_tell(struct cup_pass *pass)
{
    for (cup_index i = 0; i < site_of(pass)->plan->pump_count; i++) {
        cup_in_pass_pump(pass, i);
        bool failing = is_failing(pass->pump);
        if (failing == cup_pump_is(pass->pump, CUP_PUMP_FAIL_TOLD))
            continue;
        cup_in_because(pass, CUP_REASON_CANNOT_DRIVE,
                       cup_pump_thing(site_of(pass)->plan, i));
        cup_in_tell_pump(pass, failing ? CUP_KIND_ALERT : CUP_KIND_OVER);
        cup_pump_set(pass->pump, CUP_PUMP_FAIL_TOLD, failing);
    }
}

/* A pump's tanks are out of bounds while it does not obey. */
static void count_failing(const struct cup_site *site, cup_index i, int by)
{
    CUP_FLASH struct cup_pump *pump = &site->plan->pumps[i];
    for (uint8_t g = 0; g < pump->guard_count; g++) {
        struct cup_tank_state *tank =
            cup_in_levels_guarded(site, &pump->guards[g]);
        if (tank)
            tank->failing = (cup_few)(tank->failing + by);
    }
}

void cup_site_drove(const struct cup_site *site, cup_index pump, bool failed)
{
    if (pump >= site->plan->pump_count ||
        failed == is_failing(&site->pumps[pump]))
        return;
    cup_pump_set(&site->pumps[pump], CUP_PUMP_IS_FAILING, failed);
    count_failing(site, pump, failed ? 1 : -1);
    if (!cup_pump_is(&site->pumps[pump], CUP_PUMP_IS_ON))
        cup_in_movers_count(site, &site->plan->pumps[pump], failed);
    unsigned flags = site->pass->flags & ~(unsigned)PASS_FAILING;
    for (cup_index i = 0; i < site->plan->pump_count; i++)
        if (is_failing(&site->pumps[i]))
            flags |= PASS_FAILING;
    site->pass->flags = (uint16_t)(flags | PASS_DROVE | PASS_TOUCHED);
}

#else
/* The port does as it is told. */
void cup_site_drove(const struct cup_site *site, cup_index pump, bool failed)
{
    (void)site, (void)pump, (void)failed;
}
#endif
