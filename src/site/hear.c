/* Takes in what sensors said: raw values, bytes, and blocks of registers. */
#include "inside.h"

void cup_in_hear_late(const struct cup_site *site, uint32_t step)
{
    struct cup_pass_state *pass = site->pass;
    if (!(pass->flags & PASS_RUNNING) || (pass->flags & PASS_LATE) ||
        step <= site->plan->late_ms || step >= CUP_TIME_BACK)
        return;
    cup_set_bits(&pass->flags, PASS_LATE, true);
    struct cup_sensor_state *state = site->sensors;
    for (cup_index i = 0; i < site->plan->sensor_count; i++, state++)
        cup_sensor_stale(state);
}

void cup_in_hear_first(const struct cup_site *site, uint32_t now_ms)
{
    struct cup_pass_state *pass = site->pass;
    if (!(pass->flags & PASS_BEGUN))
        cup_in_bind_begin(site, now_ms);
    if (pass->flags & PASS_RUNNING)
        cup_in_hear_late(site, now_ms - pass->seen_ms);
}

#if CUP_USES_SEVERAL
/* What a sensor is a part of hears of it, too. */
static void hear_whole(const struct cup_site *site, cup_index whole,
                       cup_index part, uint32_t now)
{
    if (whole != CUP_NONE)
        cup_in_parts_hear(site, whole, part, now);
}
#endif

void cup_site_hear(const struct cup_site *site, cup_index sensor,
                   uint32_t now_ms, struct cup_sample sample)
{
    if (sensor >= site->plan->sensor_count)
        return;
    cup_in_hear_first(site, now_ms);
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    uint32_t now = cup_in_pass_time(site->pass, now_ms);
    struct cup_before was = cup_in_weigh_before(&use, now);
    cup_sensor_hear(&use, now, sample);
    cup_in_weigh_after(site, sensor, &use, &was);
    CUP_WHERE(SEVERAL, hear_whole(site, use.sensor->part_of, sensor, now);)
}

#if CUP_USES_FRAMES
void cup_site_hear_bytes(const struct cup_site *site, cup_index sensor,
                         uint32_t now_ms, const uint8_t *bytes, size_t count)
{
    if (sensor >= site->plan->sensor_count)
        return;
    cup_in_hear_first(site, now_ms);
    struct cup_sensor_use use = cup_in_pass_use(site, sensor);
    cup_index own = use.sensor->stream_own;
    uint32_t now = cup_in_pass_time(site->pass, now_ms);
    struct cup_before was = cup_in_weigh_before(&use, now);
    cup_sensor_hear_bytes(&use, own == CUP_NONE ? NULL : &site->streams[own],
                          now, bytes, count);
    cup_in_weigh_after(site, sensor, &use, &was);
    CUP_WHERE(SEVERAL, hear_whole(site, use.sensor->part_of, sensor, now);)
}
#endif

#if CUP_USES_SOURCES
/* A register as the sensor means it. */
static struct cup_sample take_word(CUP_FLASH struct cup_sensor *sensor,
                                   const uint8_t *bytes)
{
    int32_t word = cup_modbus_register(bytes, sensor->word);
    bool minus = CUP_IF(OFFSETS, sensor->offset < 0) && word >= 0x8000;
    return (struct cup_sample){.raw = minus ? word - 0x10000 : word};
}

void cup_site_answer(const struct cup_site *site, cup_index source,
                     uint32_t now_ms, const uint8_t *bytes, size_t count)
{
    if (source >= site->plan->source_count)
        return;
    CUP_FLASH struct cup_source *plan = &site->plan->sources[source];
    uint8_t reason = CUP_REASON_NO_ANSWER;
    if (count > 0)
        reason = cup_modbus_answer(bytes, count, plan->unit,
                                   (enum cup_modbus_function)plan->function,
                                   plan->count);
    for (cup_index i = plan->sensor; i != CUP_NONE;
         i = site->plan->sensors[i].sibling) {
        struct cup_sample sample = {.reject = reason};
        if (reason == CUP_REASON_NONE)
            sample = take_word(&site->plan->sensors[i], bytes);
        cup_site_hear(site, i, now_ms, sample);
    }
}
#endif
