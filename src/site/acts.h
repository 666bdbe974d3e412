/* What may be and what is done: routes, proofs, guards, watches; and what comes
 * from outside between passes. */
#ifndef CUPLATCH_SITE_ACTS_H
#define CUPLATCH_SITE_ACTS_H

#include "pass.h"

/* routes.c: valves that must be open for a pump. They are wanted where it is;
 * why it has to wait for one; one of the duty looked at that cannot open; how
 * many count in the pump's own group; whether a pump needs one that runs. */
void cup_in_routes_open(const struct cup_pass *pass);
uint8_t cup_in_routes_wait(struct cup_pass *pass);
cup_index cup_in_routes_kept_shut(const struct cup_pass *pass);
uint8_t cup_in_routes_in_group(const struct cup_pass *pass);
bool cup_in_routes_in_use(const struct cup_pass *pass, cup_index valve);
CUP_FLASH struct cup_duty *cup_in_routes_of(const struct cup_site *site,
                                            cup_index pump);

/* movers.c: counts an output in or out, where it is on or may be: at the tanks
 * that it moves, and in its group. */
void cup_in_movers_count(const struct cup_site *site,
                         CUP_FLASH struct cup_pump *pump, bool in);

/* fails.c: outputs that the port cannot drive. The reason why the pump looked
 * at stays off, or `no`, and one that fails is counted as running; its cause;
 * and what came and went is told. */
uint8_t cup_in_fails_guard(struct cup_pass *pass, uint8_t no);
uint8_t cup_in_fails_cause(struct cup_pass *pass, uint8_t reason);
void cup_in_fails_tell(struct cup_pass *pass);

#if CUP_USES_PROOFS
/* What is known of the proof of the pump looked at. */
static CUP_LEAN struct cup_proof_state *
cup_in_pass_proof(const struct cup_pass *pass)
{
    return &site_of(pass)->proofs[cup_in_pass_own(site_of(pass)->plan->proofs,
                                                  pass->pump_plan->proof_own)];
}
#endif

/* onces.c: whether what is there, or is not, is to be told now; `news` when it
 * came or went. `which` is its place in the onces, `about` the thing. */
bool cup_in_onces_tell(struct cup_pass *pass, cup_index which, cup_index about,
                       bool there, bool news);
bool cup_in_onces_every(struct cup_pass *pass, cup_index which, cup_index about,
                        bool there, uint32_t repeat_ms);

/* blind.c: whether a guard that says no is not heard this time, since nobody
 * can see into its tank, and something else watches the pump. Where nothing
 * does, somebody is asked to look in. */
bool cup_in_blind_may(struct cup_pass *pass, CUP_FLASH struct cup_guard *guard);

/* quiet.c: nothing can come of the pump looked at before so many ms. */
void cup_in_quiet_pump(struct cup_pass *pass);

/* act.c: guards, proofs, stops and starts. */
void cup_in_act_step(struct cup_pass *pass);

/* watches.c: watches and alerts. */
void cup_in_watches_step(struct cup_pass *pass);

/* bind.c: the first call of all: rests and waits count from here. */
void cup_in_bind_begin(const struct cup_site *site, uint32_t now_ms);

/* hear.c: what must be seen to before anything is heard; and a pass that comes
 * too late while something runs, so many ms after the last, is marked. */
void cup_in_hear_first(const struct cup_site *site, uint32_t now_ms);
void cup_in_hear_late(const struct cup_site *site, uint32_t step);

/* presses.c: somebody said a word: what a button said of the same is its own no
 * more. */
void cup_in_presses_disown(const struct cup_site *site,
                           const struct cup_word *word);

/* The switch that a verb sets: auto, off or hand. */
static inline enum cup_mode cup_in_steer_mode(uint8_t verb)
{
    static CUP_FLASH uint8_t modes[] = {CUP_MODE_AUTO, CUP_MODE_OFF,
                                        CUP_MODE_HAND};
    return (enum cup_mode)modes[verb];
}

/* parts.c: one of the parts of a sensor was heard; tells which of them stray.
 */
void cup_in_parts_hear(const struct cup_site *site, cup_index sensor,
                       cup_index part, uint32_t now);
void cup_in_parts_tell(struct cup_pass *pass);

#endif
