/* Why: every reason a decision can carry, every unit a number can have, and
 * every kind of event. Enum, code and sentence come from one list each, so
 * that they cannot drift. The codes are what streams and logs show. */
#ifndef CUPLATCH_REASON_H
#define CUPLATCH_REASON_H

#include "base.h"

CUP_C_BEGINS

/* Unit, symbol, decimals. The library's integer is the number times ten to the
 * decimals. People may be shown another unit: see cup_say_value(). KELVIN is a
 * difference of temperatures. */
#define CUP_UNITS(X)                                                           \
    X(NONE, "", 0)                                                             \
    X(PERCENT, "%", 2)                                                         \
    X(MM, "mm", 1)                                                             \
    X(CELSIUS, "C", 2)                                                         \
    X(PASCAL, "Pa", 0)                                                         \
    X(LITRE, "L", 3)                                                           \
    X(VOLT, "V", 3)                                                            \
    X(AMPERE, "A", 6)                                                          \
    X(SECOND, "s", 3)                                                          \
    X(FLOW, "L/min", 3)                                                        \
    X(CONDUCTIVITY, "uS/cm", 0)                                                \
    X(NUTRIENT, "mg/kg", 0)                                                    \
    X(CONTACT, "", 0)                                                          \
    X(KELVIN, "C", 2)

enum cup_unit {
#define X(name, symbol, decimals) CUP_UNIT_##name,
    CUP_UNITS(X)
#undef X
        CUP_UNIT_COUNT
};

/* The guards that look at a reading, those that look at a tank first. Name, the
 * name and code of its first reason, its own code, whether it looks at a tank;
 * sentences: past its mark, not yet clear, clear. A guard is a row, a key of
 * the site file and what makes it of that key: enum, reasons, sentences and
 * memory come of the row. One that comes later is a macro of its own row, which
 * stands in CUP_LATER_GUARDS and at the end of CUP_REASONS: no number moves. */
#define CUP_FIRST_GUARDS(G, X)                                                 \
    G(X, SOURCE, LOW, "low", "source", true, "%a %v is below dry_below %l",    \
      "%a %v is not yet above dry_clear %l", "%a %v is above dry_clear %l")    \
    G(X, DESTINATION, FULL, "full", "destination", true,                       \
      "%a %v is above full_at %l", "%a %v is not yet below %l",                \
      "%a %v is below %l again")                                               \
    G(X, SUPPLY, LOW, "low", "supply", false, "%a %v is below %l",             \
      "%a %v is not yet back above %l", "%a %v is back above %l")              \
    G(X, FROST, COLD, "cold", "frost", false, "%a %v is below frost %l",       \
      "%a %v is not yet back above %l", "%a %v is back above %l")

#define CUP_LATER_GUARDS(G, X)
#define CUP_GUARDS(G, X) CUP_FIRST_GUARDS(G, X) CUP_LATER_GUARDS(G, X)

/* The four reasons of each. That its reading is lost or was never there is said
 * as READING_LOST and NO_READING say it. */
#define CUP_GUARD_REASONS(X, name, past, past_code, code, tank, is_past,       \
                          not_clear, clear)                                    \
    X(name##_##past, code "-" past_code, THING, is_past, clear)                \
    X(name##_NOT_CLEAR, code "-not-clear", THING, not_clear, clear)            \
    X(name##_LOST, code "-lost", SECOND, "", "")                               \
    X(name##_UNKNOWN, code "-unknown", THING, "", "")

#define CUP_GUARD_KIND(X, name, ...) CUP_GUARD_##name,
enum cup_guard_kind { CUP_GUARDS(CUP_GUARD_KIND, ) CUP_GUARD_COUNT };

#define CUP_GUARD_ONE(X, name, ...) +1
#define CUP_FIRST_GUARD_COUNT (0 CUP_FIRST_GUARDS(CUP_GUARD_ONE, ))

/* How many look at a tank: the first ones. */
#define CUP_GUARD_TANK(X, name, past, past_code, code, tank, ...) +(tank)
#define CUP_GUARD_TANKS (0 CUP_GUARDS(CUP_GUARD_TANK, ))
CUP_ASSERT((0 CUP_LATER_GUARDS(CUP_GUARD_TANK, )) == 0,
           "one that looks at a tank stands before those that do not");

/* A sentence that is needed only where a block is built. */
#define CUP_SAID(block, text) "" CUP_WHERE(block, text)

/* Reason, code, the unit of its numbers (THING: that of the thing it is
 * about), sentence, sentence when it is over ("" where the first serves).
 * %a: the thing it is about, %o: the thing the event is of, %v: value,
 * %l: limit, %r and %f: a value that rose or fell, with the word for it. The
 * rejects come first, NO_ANSWER to NEAR. */
#define CUP_REASONS(X)                                                         \
    X(NONE, "none", THING, "", "")                                             \
    X(NO_ANSWER, "no-answer", THING, "%a gives no answer", "")                 \
    X(BAD_FRAME, "bad-frame", THING, "%a answers with damaged frames", "")     \
    X(IMPLAUSIBLE, "implausible", THING,                                       \
      "%a reads outside its plausible range", "")                              \
    X(FAULT, "sensor-fault", THING, "%a reports a fault of its own", "")       \
    X(JUMP, "jump", THING, "%a jumps faster than it can move", "")             \
    X(STUCK, "stuck", THING, "%a has not changed by one count", "")            \
    X(NOT_READY, "not-ready", THING, "%a is not ready yet", "")                \
    X(NEAR, "too-near", THING, "%a is nearer than it can measure", "")         \
    X(FEW, "too-few", THING,                                                   \
      CUP_SAID(SEVERAL, "too few probes of %a can be read"), "")               \
    X(TURN, "turn", THING, "%a waits for its turn on a shared channel", "")    \
    X(POWER_ON, "power-on", THING, "the controller started", "")               \
    X(BELOW_START, "below-start", THING, "%a %v is below start %l", "")        \
    X(ABOVE_START, "above-start", THING, "%a %v is above start %l", "")        \
    X(ABOVE_STOP, "above-stop", THING, "%a %v is above stop %l", "")           \
    X(BELOW_STOP, "below-stop", THING, "%a %v is below stop %l", "")           \
    X(FAR_FULL, "far-full", THING,                                             \
      CUP_SAID(LINES, "%a %v is above stop %l: the far end is full"), "")      \
    X(UNDER_WAY, "under-way", THING, "%a %v goes on until stop %l", "")        \
    X(NO_NEED, "no-need", THING, "%a %v needs nothing until start %l", "")     \
    X(ALSO_NOT, "also-not", THING,                                             \
      CUP_SAID(ALSOS, "%a %v must first pass its start %l"), "")               \
    X(STARTS_SOON, "starts-soon", THING,                                       \
      "%a %v is past start %l, but not for long enough yet", "")               \
    X(STOPS_SOON, "stops-soon", THING,                                         \
      "%a %v is past stop %l, but not for long enough yet", "")                \
    X(DOSE_GIVEN, "dose-given", SECOND, "%a has had a dose of %l", "")         \
    X(SOAKS, "soaks", SECOND, "%a soaks, %v left of %l", "")                   \
    X(DOSES_OUT, "doses-out", NONE,                                            \
      "%a is not past stop after %v doses: no more are given", "")             \
    X(DOSES_ANEW, "doses-anew", NONE, "%a has all its doses again", "")        \
    X(DUE, "due", SECOND, "%a is due, %v to give", "")                         \
    X(GIVEN, "given", SECOND, "%a has had its %v", "")                         \
    X(REACHED, "reached", THING, "%a %v is above until %l", "")                \
    X(NEXT, "next", SECOND, "%a comes in %v", "")                              \
    X(AWAITS, "awaits", NONE, "%a waits for day or its time", "")              \
    X(NO_CLOCK, "no-clock", NONE,                                              \
      CUP_SAID(CLOCK, "%a waits for the clock, which is not set"), "")         \
    X(HOURS, "hours", NONE, CUP_SAID(CLOCK, "%a is not within its hours"), "") \
    X(BUSY, "busy", NONE, "%o waits: %a has the pump", "")                     \
    X(NO_READING, "no-reading", THING, "%a is not known yet",                  \
      "%a can be read now")                                                    \
    X(READING_LOST, "reading-lost", SECOND, "%a is lost: nothing good for %v", \
      "%a can be read again")                                                  \
    X(READABLE, "readable", THING, "%a can be read again", "")                 \
    CUP_FIRST_GUARDS(CUP_GUARD_REASONS, X)                                     \
    X(FLOATS_DIFFER, "floats-differ", NONE,                                    \
      CUP_SAID(                                                                \
          FLOATS,                                                              \
          "the floats of %a contradict each other: only the upper is lifted"), \
      "")                                                                      \
    X(CANNOT_DRIVE, "cannot-drive", NONE, "%a does not obey: its port fails",  \
      "%a obeys again")                                                        \
    X(SHARES_FAILED, "shares-failed", NONE, "a pump at %a does not obey",      \
      "every pump at %a obeys again")                                          \
    X(NOT_FRESH, "not-fresh", THING, "%a has no sample since a late pass", "") \
    X(REST, "rest", SECOND, "%o rests, %v left of %l", "")                     \
    X(BOOT_WAIT, "boot-wait", SECOND, "%o waits after boot, %v left of %l",    \
      "")                                                                      \
    X(LONGEST, "longest", SECOND, "%o ran %v, its longest run is %l", "")      \
    X(NO_RISE, "no-rise", CHANGE, "%a %r in the run, not %l", "")              \
    X(NO_FALL, "no-fall", CHANGE, "%a %f in the run, not %l", "")              \
    X(NO_FLOW, "no-flow", THING,                                               \
      CUP_SAID(FLOWS, "%a %v is not above %l in the run"), "")                 \
    X(PROOF_LOST, "proof-lost", SECOND, "%a, which proves %o, is lost for %v", \
      "")                                                                      \
    X(PROOF_UNSURE, "proof-unsure", NONE,                                      \
      "%a could not tell %v times: other pumps moved it", "")                  \
    X(DAY_TIME, "day-time", SECOND,                                            \
      CUP_SAID(PER_DAYS, "%o ran %v today, per_day is %l"),                    \
      CUP_SAID(PER_DAYS, "a new day for %o"))                                  \
    X(DAY_VOLUME, "day-volume", LITRE,                                         \
      CUP_SAID(PER_DAYS, "%o gave %v today, per_day is %l"),                   \
      CUP_SAID(PER_DAYS, "a new day for %o"))                                  \
    X(DAY_STARTS, "day-starts", NONE,                                          \
      CUP_SAID(PER_DAYS, "%o started %v times today, per_day is %l"),          \
      CUP_SAID(PER_DAYS, "a new day for %o"))                                  \
    X(RETRY, "retry", SECOND, "%o tripped and tries again in %v", "")          \
    X(LOCKED, "locked", NONE, "%o tripped %v times and stays off until clear", \
      "")                                                                      \
    X(AT_ONCE, "at-once", NONE, "%o waits: %v pumps run, at_once is %l", "")   \
    X(GROUP_FULL, "group-full", NONE,                                          \
      "%o waits: %v of its group run, at_once is %l", "")                      \
    X(ROUTE_OPENS, "route-opens", SECOND,                                      \
      CUP_SAID(ROUTES, "%a opens, %v left of %l"), "")                         \
    X(ROUTE_SHUT, "route-shut", NONE,                                          \
      CUP_SAID(ROUTES, "%a is shut, and %o needs it open"), "")                \
    X(ROUTE, "route", NONE, CUP_SAID(ROUTES, "%o opens for %a"), "")           \
    X(NO_ROUTE, "no-route", NONE,                                              \
      CUP_SAID(ROUTES, "no pump needs %o open now"), "")                       \
    X(LATE, "late", SECOND, "the pass came %v after the last, late is %l", "") \
    X(TIME_BACK, "time-back", SECOND, "the time went back by %v", "")          \
    X(HAND, "hand", SECOND, "%o is by hand, %v left of %l", "")                \
    X(HAND_PAST, "hand-past-stop", THING,                                      \
      "%a %v is past stop %l, and it runs by hand",                            \
      "the hand run of %o past stop is over")                                  \
    X(HAND_OVER, "hand-over", SECOND, "the hand run of %o is over after %v",   \
      "")                                                                      \
    X(NO_DUTY, "no-duty", NONE, "%o has no duty", "")                          \
    X(OFF, "off", NONE, "%o is switched off", "")                              \
    X(AUTO, "auto", NONE, "%o follows its duty", "")                           \
    X(CLEARED, "cleared", NONE, "%o was cleared", "")                          \
    X(HOLD, "hold", NONE, "the site is on hold", "")                           \
    X(GO, "go", NONE, "the hold is over", "")                                  \
    X(QUIET, "quiet", NONE,                                                    \
      CUP_SAID(LAMPS, "the horn is quiet until something new is wrong"), "")   \
    X(SET_START, "set-start", THING, "%o.start is now %v, the file says %l",   \
      "")                                                                      \
    X(SET_STOP, "set-stop", THING, "%o.stop is now %v, the file says %l", "")  \
    X(SET_DOSE, "set-dose", SECOND, "%o.dose is now %v, the file says %l", "") \
    X(SET_SOAK, "set-soak", SECOND, "%o.soak is now %v, the file says %l", "") \
    X(SET_RUN, "set-run", SECOND, "%o now runs for %v, the file says %l", "")  \
    X(SET_EVERY, "set-every", SECOND, "%o.every is now %v, the file says %l",  \
      "")                                                                      \
    X(CLOCK, "clock", NONE, CUP_SAID(CLOCK, "the clock was set"), "")          \
    X(DAY, "day", NONE, "it is day", "")                                       \
    X(NIGHT, "night", NONE, "it is night", "")                                 \
    X(LEAK, "leak", MM, "%a fell %v while nothing ran, %l is too much",        \
      "%a keeps its level again")                                              \
    X(STILL_FALLS, "still-falls", MM, "%a fell %v though %o is off",           \
      "%a keeps its level again")                                              \
    X(STILL_RISES, "still-rises", MM, "%a rose %v though %o is off",           \
      "%a keeps its level again")                                              \
    X(STILL_FLOWS, "still-flows", THING, "%a %v is over %l with %o off",       \
      "%a %v is below %l again")                                               \
    X(VOLUME, "volume", LITRE, "%o ran longer than the %v of %a would last",   \
      "%o starts afresh")                                                      \
    X(ALERT_BELOW, "alert-below", THING, "%a %v is below %l",                  \
      "%a %v is above %l again")                                               \
    X(ALERT_ABOVE, "alert-above", THING, "%a %v is above %l",                  \
      "%a %v is below %l again")                                               \
    X(ALERT_LASTS, "alert-lasts", THING,                                       \
      "%a %v has not been clear of %l for long enough", "")                    \
    X(STRAYS, "strays", THING,                                                 \
      CUP_SAID(SEVERAL, "%a %v strays from the others: together %l"),          \
      CUP_SAID(SEVERAL, "%a %v is near the others again"))                     \
    X(JOURNAL, "journal", NONE, "the journal was read back", "")               \
    X(JOURNAL_OTHER, "journal-other", NONE,                                    \
      "the site was edited: what was set while it ran holds where the file "   \
      "says what it said",                                                     \
      "")                                                                      \
    X(JOURNAL_OLDER, "journal-older", NONE,                                    \
      "the last entry of the journal is torn: the one before it holds", "")    \
    X(JOURNAL_LOST, "journal-lost", NONE,                                      \
      "the journal cannot be read: the site begins as it is written", "")      \
    X(JOURNAL_FAILS, "journal-fails", NONE,                                    \
      "the journal cannot be written: a power cut would be forgotten",         \
      "the journal can be written again")                                      \
    X(SHUT_DOWN, "shut-down", NONE, "the controller is shutting down", "")     \
    X(LEAPT, "leapt", THING, "%a leapt to %v from %l: not believed yet", "")   \
    X(BELIEVED, "believed", THING, "%a stays at %v: believed now, %l no more", \
      "")                                                                      \
    X(SEEN, "seen", THING, "somebody looked in: %a is at %v", "")              \
    X(NOT_DRAWN, "not-drawn", THING,                                           \
      "%a fell %v too little for what was drawn, over %l", "")                 \
    X(LOOK_IN, "look-in", NONE,                                                \
      "nobody can tell what %a holds: look in, and say how full it is",        \
      "what %a holds can be told again")                                       \
    X(DOSES_DAY, "doses-day", NONE,                                            \
      "%a had %v doses in a day: no more until clear; do they reach it?", "")  \
    X(MEANWHILE, "meanwhile", NONE, "%a: %v times more since that was told",   \
      "")                                                                      \
    X(UNANSWERED, "unanswered", SECOND,                                        \
      CUP_SAID(TRIES,                                                          \
               "%o is not done after %v, the longest run: does water reach "   \
               "it?"),                                                         \
      "")                                                                      \
    X(TWO_DUTIES, "two-duties", NONE,                                          \
      CUP_SAID(TRIES, "%o ran its longest for %a and for one before"), "")     \
    X(DUTY_RETRY, "duty-retry", SECOND,                                        \
      CUP_SAID(TRIES, "%a tripped and tries again in %v"), "")                 \
    X(DUTY_LOCKED, "duty-locked", NONE,                                        \
      CUP_SAID(TRIES, "%a tripped %v times and stays off until clear"), "")    \
    X(OFF_FOR, "off-for", SECOND,                                              \
      CUP_SAID(CHOICES, "%o is switched off for %v"), "")                      \
    X(HOLD_FOR, "hold-for", SECOND,                                            \
      CUP_SAID(CHOICES, "the site is on hold for %v"), "")                     \
    X(DUTY_OFF, "duty-off", NONE, CUP_SAID(CHOICES, "%a is switched off"), "") \
    X(DUTY_OFF_FOR, "duty-off-for", SECOND,                                    \
      CUP_SAID(CHOICES, "%a is switched off for %v"), "")                      \
    X(DUTY_AUTO, "duty-auto", NONE,                                            \
      CUP_SAID(CHOICES, "%o goes by itself again"), "")                        \
    X(STILL_OFF, "still-off", NONE,                                            \
      CUP_SAID(CHOICES, "%o was switched off %v days ago, and is asked for"),  \
      CUP_SAID(CHOICES, "%o is no longer switched off"))                       \
    X(STILL_HELD, "still-held", NONE,                                          \
      CUP_SAID(CHOICES, "on hold for %v days, and something asks for water"),  \
      CUP_SAID(CHOICES, "the site is no longer on hold"))                      \
    X(SKIP, "skip", NONE,                                                      \
      CUP_SAID(CHOICES, "the next run of %o is to be left out"), "")           \
    X(SKIPPED, "skipped", NONE,                                                \
      CUP_SAID(CHOICES, "%o was left out this once"), "")                      \
    X(RECORD_LOST, "record-lost", NONE,                                        \
      CUP_SAID(CHOICES,                                                        \
               "what was switched off cannot be read: on hold until go"),      \
      "")                                                                      \
    X(MISSED, "missed", NONE,                                                  \
      CUP_SAID(OWED, "%a was missed %v times: nothing could run when it was "  \
                     "due"),                                                   \
      "")                                                                      \
    X(UNTIL_STANDS, "until-stands", NONE,                                      \
      CUP_SAID(OWED, "%a ended %o twice before it began: is it stuck?"),       \
      CUP_SAID(OWED, "%a lets %o begin again"))                                \
    X(RECORD_STRANGE, "record-strange", NONE,                                  \
      CUP_SAID(                                                                \
          CHOICES,                                                             \
          "what was off, tripped or locked has another name now: on hold "     \
          "until go"),                                                         \
      "")                                                                      \
    X(KEPT_OFF, "kept-off", SECOND,                                            \
      CUP_SAID(CHOICES, "%o has asked for %v, and %a keeps it off"),           \
      CUP_SAID(CHOICES, "%o is served, or asks no more"))

enum cup_reason {
#define X(name, code, unit, text, over) CUP_REASON_##name,
    CUP_REASONS(X)
#undef X
        CUP_REASON_COUNT
};

/* Rejects are reasons 1 to CUP_REJECTS. */
#define CUP_REJECTS CUP_REASON_NEAR

/* What happened, and the word for it. */
#define CUP_KINDS(X)                                                           \
    X(BOOT, "boot")                                                            \
    X(START, "start")                                                          \
    X(STOP, "stop")                                                            \
    X(BLOCK, "block")                                                          \
    X(CLEAR, "clear")                                                          \
    X(TRIP, "trip")                                                            \
    X(LOCK, "lock")                                                            \
    X(MODE, "mode")                                                            \
    X(SETTING, "setting")                                                      \
    X(QUALITY, "quality")                                                      \
    X(ALERT, "alert")                                                          \
    X(OVER, "over")                                                            \
    X(LEAK, "leak")

enum cup_kind {
#define X(name, code) CUP_KIND_##name,
    CUP_KINDS(X)
#undef X
        CUP_KIND_COUNT
};

/* A reason with its numbers. `about` is the thing whose value it is, in the
 * numbering of site.h; value and limit are in the unit of the reason. */
struct cup_cause {
    int32_t value;
    int32_t limit;
    cup_index about;
    uint8_t reason;
};

/* Sets a cause but for what it is about, which is left to the caller. Returns
 * the reason. */
static CUP_LEAN uint8_t cup_cause_set(struct cup_cause *cause, uint8_t reason,
                                      int32_t value, int32_t limit)
{
    cause->reason = reason;
    cause->value = value;
    cause->limit = limit;
    return reason;
}

/* Fills a cause whose numbers are values. */
static CUP_LEAN uint8_t cup_cause_values(struct cup_cause *cause,
                                         uint8_t reason, cup_value value,
                                         cup_value limit)
{
    return cup_cause_set(cause, reason, value, limit);
}

CUP_C_ENDS

#endif
