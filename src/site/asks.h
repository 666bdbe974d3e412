/* What is asked for: days, duties, their numbers, and what people chose. */
#ifndef CUPLATCH_SITE_ASKS_H
#define CUPLATCH_SITE_ASKS_H

#include "pass.h"

/* clock.c: time by the clock on the wall. `now` is our time. */
void cup_in_clock_set(const struct cup_site *site, uint32_t now,
                      uint32_t clock_s);
void cup_in_clock_tick(struct cup_pass *pass);
uint16_t cup_in_clock_date(const struct cup_pass *pass); /* 0: none */
uint32_t cup_in_clock_midnight(const struct cup_pass *pass);
uint32_t cup_in_clock_next_minute(const struct cup_pass *pass);

/* daylight.c: the clock goes on, day and night come. */
void cup_in_daylight_step(struct cup_pass *pass);

/* duties.c: what duties ask for, and which pumps they get. */
void cup_in_duties_step(struct cup_pass *pass);

/* wants.c: whether a duty asks for its pump, and whether it would, whoever or
 * whatever keeps it off. */
bool cup_in_wants(const struct cup_site *site, cup_index duty);
bool cup_in_wants_despite(const struct cup_site *site, cup_index duty);

/* settings.c: a duty's numbers as they are now, where they can be read: in
 * `room` if need be. */
CUP_NUMBERS struct cup_latch *cup_in_settings_latch(const struct cup_site *site,
                                                    cup_index duty,
                                                    struct cup_latch *room);
CUP_NUMBERS struct cup_dose *cup_in_settings_dose(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_dose *room);
CUP_NUMBERS struct cup_turn *cup_in_settings_turn(const struct cup_site *site,
                                                  cup_index duty,
                                                  struct cup_turn *room);
/* These numbers of the duty that the pass looks at. */
#if CUP_USES_SETTINGS
#define cup_in_pass_latch(pass, room)                                          \
    cup_in_settings_latch(site_of(pass), (pass)->d, room)
#define cup_in_pass_dose(pass, room)                                           \
    cup_in_settings_dose(site_of(pass), (pass)->d, room)
#define cup_in_pass_turn(pass, room)                                           \
    cup_in_settings_turn(site_of(pass), (pass)->d, room)
#else
#define cup_in_pass_latch(pass, room) cup_latch_of(&(pass)->duty->latch, room)
#define cup_in_pass_dose(pass, room) ((void)(room), (pass)->duty->dose)
#define cup_in_pass_turn(pass, room) ((void)(room), (pass)->duty->turn)
#endif
void cup_in_settings_count(const struct cup_site *site);

/* What a duty's numbers are about, as the journal knows things; 0 when that is
 * nothing. */
uint32_t cup_in_settings_about(CUP_FLASH struct cup_plan *plan, cup_index duty);

/* After a journal was read: marks that would meet or cross are as written. */
void cup_in_settings_settle(const struct cup_site *site);
void cup_in_settings_tell(struct cup_pass *pass);
/* Words of one moment, and the one that is judged. */
struct cup_said {
    const struct cup_word *words;
    size_t count;
    const struct cup_word *word;
};
enum cup_error cup_in_settings_may(const struct cup_site *site,
                                   const struct cup_said *said);
void cup_in_settings_take(const struct cup_site *site,
                          const struct cup_word *word);

#if CUP_USES_CHOICES
/* choices.c: what people chose, in rows: of each pump, of each duty, and of the
 * site last. Where they are, and what is changed of one; the duty looked at is
 * skipped, and was; why something is off by a row; the duty looked at asks; a
 * pass looks at what stands; the power was off; a record was read. */
struct cup_choice_state *cup_in_choices_site(const struct cup_site *site);
struct cup_choice_state *cup_in_choices_duty(const struct cup_site *site,
                                             cup_index duty);
void cup_in_choices_take(const struct cup_site *site, cup_index row,
                         uint32_t now, uint32_t for_ms);
void cup_in_choices_end(const struct cup_site *site, cup_index row);
void cup_in_choices_skip(const struct cup_site *site, cup_index duty);
void cup_in_choices_skipped(struct cup_pass *pass);
uint8_t cup_in_choices_cause(struct cup_pass *pass, cup_index row,
                             uint8_t forever, uint8_t for_now, cup_index about);
void cup_in_choices_note(const struct cup_pass *pass);

/* waits.c: the duty looked at wants water, or does not: one that is kept off
 * for as long as the site is patient is told of. */
void cup_in_waits_look(struct cup_pass *pass, bool wants);

/* Whether it was kept off when it was looked at last. */
#if CUP_USES_CHOICES
static inline bool cup_in_waits_is(const struct cup_site *site, cup_index duty)
{
    return cup_choice_is(&site->choices[site->plan->pump_count + duty],
                         CUP_CHOICE_KEPT);
}
#endif
void cup_in_choices_step(struct cup_pass *pass);
void cup_in_choices_age(const struct cup_site *site, uint32_t off_ms);
void cup_in_choices_recount(const struct cup_site *site, bool unkept);

static inline bool cup_in_choices_off(const struct cup_site *site,
                                      cup_index duty)
{
    return cup_choice_is(&site->choices[site->plan->pump_count + duty],
                         CUP_CHOICE_STANDS);
}
#endif

/* hold.c: the site goes on hold, or on. */
void cup_in_hold_set(const struct cup_site *site, uint32_t now, bool hold);

/* trips.c: a run of the pump looked at reached its longest for a duty, which
 * trips; whether the pump is to trip, too. Then: nothing can be said against
 * the pump any more; the duty that it ran for is done; what the tries of the
 * duty looked at come to by now; a person clears a duty, or all of a pump. */
bool cup_in_trips_trip(struct cup_pass *pass);
void cup_in_trips_acquit(const struct cup_pass *pass);
void cup_in_trips_done(const struct cup_pass *pass);
void cup_in_trips_step(struct cup_pass *pass);
void cup_in_trips_clear(const struct cup_site *site, cup_index duty);
void cup_in_trips_clear_all(const struct cup_site *site, cup_index pump);

#endif
