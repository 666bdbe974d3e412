/* A session is a row of doses. Its first dose tells how long water takes, its
 * last one how long it goes on arriving, all of them how far one lifts. */
#include "bed.h"

#include <math.h>
#include <stdio.h>
#include <string.h>

#define SESSIONS_LEAST 3
/* Doses further apart than so many soaks are of two sessions. */
#define APART 3
#define APART_LEAST_S 1800
/* After the last dose it is watched for so long. */
#define WATCH_S 10800
/* Arrived: this part of what it rose by in all. */
#define REACHED 0.1
/* Or all of it but for this part of one dose. */
#define SETTLED 0.92
#define UNSETTLED 0.3
#define CALM 5 /* neighbours on either side */
/* A dose is to lift by this part of the way from start to stop. */
#define LIFT_GOOD 0.35
#define LIFT_LEAST 0.1
#define LIFT_MOST 0.7
#define DOSE_TIMES 2 /* at most, at once */

struct session {
    uint32_t from_s, to_s;
    size_t doses;
};

struct sessions {
    struct numbers lift, reach, settle;
    size_t doses;
};

static double toward(const struct bed_now *now, double value)
{
    return now->stop > now->start ? value : -value;
}

/* The first moment from `at_s` on at which it has gained so much; `end_s` when
 * it does not. */
static uint32_t gained_at(const struct bed_now *now, uint32_t at_s,
                          uint32_t end_s, double base, double gain)
{
    for (size_t p = track_from(now->track, at_s);
         p < now->track->count && now->track->list[p].at_s < end_s; p++)
        if (toward(now, now->track->list[p].value - base) >= gain)
            return now->track->list[p].at_s;
    return end_s;
}

static void look_at(const struct bed_now *now, const struct session *session,
                    uint32_t next_s, struct sessions *all)
{
    int32_t base;
    double most = 0;
    uint32_t end = session->to_s + WATCH_S;
    end = end < next_s ? end : next_s;
    if (!track_at(now->track, session->from_s, now->old_s, &base))
        return;
    for (size_t p = track_from(now->track, session->from_s);
         p < now->track->count && now->track->list[p].at_s < end; p++)
        most =
            fmax(most, toward(now, (double)now->track->list[p].value - base));
    if (most < REACHED * fabs(now->stop - now->start))
        return; /* nothing arrived: a fault, or rain before it */
    uint32_t reach = gained_at(now, session->from_s, end, base, REACHED * most);
    uint32_t settle =
        gained_at(now, session->to_s, end, base,
                  fmin(SETTLED, 1 - UNSETTLED / (double)session->doses) * most);
    numbers_add(&all->lift, most / (double)session->doses);
    numbers_add(&all->reach, (double)reach - session->from_s);
    numbers_add(&all->settle, (double)settle - session->to_s);
    all->doses += session->doses;
}

static void look_at_each(const struct bed_now *now, struct sessions *all)
{
    struct session session = {.doses = 0};
    uint32_t apart = APART * now->soak_s + now->dose_s;
    apart = apart < APART_LEAST_S ? APART_LEAST_S : apart;
    for (size_t i = 0; i < now->runs->count; i++) {
        const struct run *run = &now->runs->list[i];
        if (run->duty != now->duty || run->to_s == UINT32_MAX)
            continue;
        if (session.doses > 0 && run->from_s > session.to_s + apart) {
            look_at(now, &session, run->from_s, all);
            session.doses = 0;
        }
        if (session.doses == 0)
            session.from_s = run->from_s;
        session.to_s = run->to_s;
        session.doses++;
    }
    if (session.doses > 0)
        look_at(now, &session, UINT32_MAX, all);
}

/* By a level without its noise. */
static void look_at_all(const struct bed_now *now, struct sessions *all)
{
    struct track calm = {.list = NULL};
    struct bed_now by = *now;
    track_calm(now->track, CALM, &calm);
    by.track = &calm;
    look_at_each(&by, all);
    track_free(&calm);
}

bool bed_look(const struct bed_now *now, struct bed_facts *facts)
{
    struct sessions all = {.doses = 0};
    look_at_all(now, &all);
    *facts = (struct bed_facts){
        .sessions = all.lift.count,
        .doses = all.doses,
        .lift = numbers_part(&all.lift, 0.5),
        .reach_s = (uint32_t)numbers_part(&all.reach, 0.5),
        .settle_s = (uint32_t)numbers_part(&all.settle, 0.8)};
    numbers_free(&all.lift);
    numbers_free(&all.reach);
    numbers_free(&all.settle);
    return facts->sessions >= SESSIONS_LEAST;
}

static bool propose_soak(const struct bed_now *now,
                         const struct bed_facts *facts,
                         struct proposal *proposal)
{
    char reach[QUANTITY_SIZE];
    char settle[QUANTITY_SIZE];
    bool early = now->soak_s < 0.8 * facts->settle_s;
    bool late = now->soak_s > 3.0 * facts->settle_s + 120;
    if (!early && !late)
        return false;
    double s = early ? facts->settle_s : 1.5 * facts->settle_s + 60;
    quantity_time((uint64_t)(1000 * s), proposal->value,
                  sizeof(proposal->value));
    quantity_time(UINT64_C(1000) * facts->reach_s, reach, sizeof(reach));
    quantity_time(UINT64_C(1000) * facts->settle_s, settle, sizeof(settle));
    proposal->looser = late;
    snprintf(proposal->why, sizeof(proposal->why),
             "in %zu sessions water reached the probe %s after the first dose "
             "began, and had arrived %s after the last ended: %s",
             facts->sessions, reach, settle,
             early ? "the next dose comes before the last one is seen."
                   : "there is no need to wait for longer.");
    return true;
}

static bool propose_dose(const struct bed_now *now,
                         const struct bed_facts *facts,
                         struct proposal *proposal)
{
    char lift[QUANTITY_SIZE];
    double way = fabs(now->stop - now->start);
    bool big = facts->lift > LIFT_MOST * way;
    bool small = facts->lift < LIFT_LEAST * way;
    if (!big && !small)
        return false;
    double times = fmin(LIFT_GOOD * way / facts->lift, DOSE_TIMES);
    quantity_time((uint64_t)(1000 * times * now->dose_s), proposal->value,
                  sizeof(proposal->value));
    quantity_text(facts->lift, cup_unit_of_change(now->unit), false, lift,
                  sizeof(lift));
    proposal->looser = small;
    snprintf(proposal->why, sizeof(proposal->why),
             "in %zu sessions of %zu doses one lifted it by %s, %.0f %% of the "
             "way from start to stop: %s",
             facts->sessions, facts->doses, lift, 100 * facts->lift / way,
             big ? "it is watered past its mark."
                 : "it takes many, and each starts the pump.");
    return true;
}

size_t propose_bed(const struct bed_now *now, const struct bed_facts *facts,
                   struct proposal *proposals)
{
    static const struct {
        const char *key;
        bool (*rule)(const struct bed_now *now, const struct bed_facts *facts,
                     struct proposal *proposal);
    } rules[] = {{"soak", propose_soak}, {"dose", propose_dose}};
    size_t count = 0;
    for (size_t i = 0; i < sizeof(rules) / sizeof(rules[0]); i++) {
        proposals[count] = (struct proposal){.looser = false};
        snprintf(proposals[count].key, sizeof(proposals[count].key), "%s",
                 rules[i].key);
        count += rules[i].rule(now, facts, &proposals[count]);
    }
    return count;
}
