/* What a report says, in sentences, each advice with its figure. */
#include <inttypes.h>
#include <math.h>
#include <stdarg.h>
#include <stdio.h>
#include <string.h>

#include "cuplatch/codes.h"
#include "report.h"

#define SENTENCE_SIZE 400

/* Less than this is not worth a word. */
#define SHARE_TOLD 0.001
/* From these on something should be done. */
#define OUT_OF_BAND 0.05
#define REJECTS_MANY 0.10
#define REJECTS_ROSE 2.0
#define RESTLESS_ROSE 2.0
#define RESTLESS_LEAST_PCT 2.0
#define STARTS_MANY_A_DAY 48
#define RUN_SHORT_S 60
#define DRIFT_DAYS 4

struct telling {
    const struct report *report;
    const struct report_sink *sink;
};

__attribute__((format(printf, 3, 4))) static void
say(const struct telling *telling, bool advice, const char *form, ...)
{
    char text[SENTENCE_SIZE];
    va_list values;
    va_start(values, form);
    vsnprintf(text, sizeof(text), form, values);
    va_end(values);
    telling->sink->sentence(telling->sink->self, text, advice);
}

static void title(const struct telling *telling, const char *text)
{
    telling->sink->title(telling->sink->self, text);
}

/* Values as people read them */

struct text {
    char text[40];
};

static struct text value_text(const struct telling *telling, double value,
                              uint8_t unit)
{
    struct text text = {""};
    double steps = pow(10, cup_unit_decimals(unit));
    cup_say_number(text.text, sizeof(text.text), telling->report->us,
                   (int32_t)lround(value * steps), unit);
    return text;
}

static struct text level_text(const struct telling *telling, double value,
                              const char *symbol)
{
    return value_text(telling, value, history_unit(symbol));
}

/* "412 L" or "109 gal": more than a value's 32 bits hold. */
static struct text litres_text(const struct telling *telling, double litres)
{
    struct text text;
    bool us = telling->report->us;
    double shown = us ? litres / 3.785411784 : litres;
    snprintf(text.text, sizeof(text.text), "%.*f %s", shown < 10 ? 1 : 0, shown,
             us ? "gal" : "L");
    return text;
}

static struct text span_text(double seconds)
{
    struct text text;
    int64_t s = llround(seconds);
    if (s < 60)
        snprintf(text.text, sizeof(text.text), "%" PRId64 " s", s);
    else if (s < 3600)
        snprintf(text.text, sizeof(text.text), "%" PRId64 "m %02" PRId64 "s",
                 s / 60, s % 60);
    else if (s < 86400)
        snprintf(text.text, sizeof(text.text), "%" PRId64 "h %02" PRId64 "m",
                 s / 3600, s / 60 % 60);
    else
        snprintf(text.text, sizeof(text.text), "%" PRId64 "d %" PRId64 "h",
                 s / 86400, s / 3600 % 24);
    return text;
}

/* Never 0 of what was not nothing, nor all of what was not. */
static struct text percent_text(double share)
{
    struct text text;
    double percent = share * 100;
    if (share > 0 && percent < 0.1)
        snprintf(text.text, sizeof(text.text), "under 0.1 %%");
    else if (share < 1 && percent > 99.9)
        snprintf(text.text, sizeof(text.text), "over 99.9 %%");
    else
        snprintf(text.text, sizeof(text.text), "%.*f %%",
                 percent > 0 && (percent < 10 || percent > 99) && share < 1,
                 percent);
    return text;
}

/* "once", "9 times". */
static struct text times_text(unsigned count)
{
    struct text text = {"once"};
    if (count != 1)
        snprintf(text.text, sizeof(text.text), "%u times", count);
    return text;
}

static const char *plural(unsigned count)
{
    return count == 1 ? "" : "s";
}

/* Parts */

static unsigned count_of(const struct report_reasons *reasons)
{
    unsigned count = 0;
    for (size_t i = 0; i < reasons->count; i++)
        count += reasons->list[i].times;
    return count;
}

/* A level was on the wrong side of its start for long: what kept its pump off
 * meanwhile, or else its marks. */
static void advise_kept(const struct telling *telling,
                        const struct report_duty *duty, double wrong_s,
                        const char *share)
{
    const struct report_pump *pump =
        report_pump_of(telling->report, duty->pump);
    unsigned trips = pump ? count_of(&pump->trips) : 0;
    unsigned own = count_of(&duty->trips);
    double blocked_s = 0;
    for (size_t i = 0; pump && i < pump->blocks.count; i++)
        blocked_s += pump->blocks.list[i].seconds;
    if (trips > 0)
        say(telling, true, "%s tripped %s meanwhile: see to that first.",
            duty->pump, times_text(trips).text);
    else if (own > 0)
        say(telling, true, "%s tripped %s meanwhile: see to that first.",
            duty->name, times_text(own).text);
    else if (blocked_s > wrong_s / 4)
        say(telling, true,
            "%s was kept off for %s meanwhile, as is told below: see to that "
            "first.",
            duty->pump, span_text(blocked_s).text);
    else
        say(telling, true,
            "That is %s of the time, and nothing kept %s off: let it begin "
            "earlier, with a %s start.",
            share, duty->pump, duty->start < duty->stop ? "higher" : "lower");
}

/* A duty that fills begins below its start; one that empties or cools above. */
static void tell_kept(const struct telling *telling,
                      const struct report_duty *duty)
{
    const struct report_level *level =
        report_level_of(telling->report, duty->keep);
    double all = duty->in_s + duty->below_s + duty->above_s;
    bool fills = duty->start < duty->stop;
    double wrong = fills ? duty->below_s : duty->above_s;
    const char *side = fills ? "below" : "above";
    if (!level)
        return;
    if (all <= 0) {
        say(telling, true, "%s was never known: nothing can be told of it.",
            duty->keep);
        return;
    }
    struct text start = level_text(telling, duty->start, level->unit);
    if (wrong / all < SHARE_TOLD)
        say(telling, false, "%s did not stay %s its start, %s.", duty->keep,
            side, start.text);
    else
        say(telling, false, "%s was %s its start, %s, for %s: %s of the time.",
            duty->keep, side, start.text, span_text(wrong).text,
            percent_text(wrong / all).text);
    if (fills)
        say(telling, false,
            "Between start and stop, %s, it was %s of the time.",
            level_text(telling, duty->stop, level->unit).text,
            percent_text(duty->in_s / all).text);
    if (wrong / all > OUT_OF_BAND)
        advise_kept(telling, duty, wrong, percent_text(wrong / all).text);
    if (duty->unknown_s > 0)
        say(telling, false, "It was not known for %s.",
            span_text(duty->unknown_s).text);
}

/* "9 times, 4h 52m in all, longest 33m 56s: 2921 L, 417 L a day". */
static void add_runs(const struct telling *telling, char *text, size_t size,
                     unsigned runs, double seconds, double longest_s,
                     double litres)
{
    double days = report_days(telling->report);
    int used = snprintf(text, size, "%s, %s in all", times_text(runs).text,
                        span_text(seconds).text);
    if (runs > 1)
        used += snprintf(text + used, size - (size_t)used, ", longest %s",
                         span_text(longest_s).text);
    if (!isnan(litres))
        snprintf(text + used, size - (size_t)used, ": %s, %s a day",
                 litres_text(telling, litres).text,
                 litres_text(telling, litres / days).text);
}

static void tell_reasons(const struct telling *telling, const char *pump,
                         const struct report_reasons *reasons, const char *what)
{
    for (size_t i = 0; i < reasons->count; i++) {
        const struct report_reason *reason = &reasons->list[i];
        char span[60] = "";
        if (reason->seconds >= 1)
            snprintf(span, sizeof(span), ", for %s in all",
                     span_text(reason->seconds).text);
        say(telling, false, "%s %s %s%s; last: %s.", pump, what,
            times_text(reason->times).text, span, reason->why);
    }
}

static void tell_duty(const struct telling *telling,
                      const struct report_duty *duty)
{
    char runs[160];
    title(telling, duty->name);
    if (*duty->keep)
        tell_kept(telling, duty);
    if (duty->runs == 0) {
        say(telling, false, "%s did not run for it.", duty->pump);
        return;
    }
    add_runs(telling, runs, sizeof(runs), duty->runs, duty->seconds,
             duty->longest_s, duty->litres);
    say(telling, false, "%s ran for it %s.", duty->pump, runs);
    tell_reasons(telling, duty->name, &duty->trips, "tripped");
    if (duty->trips.count > 0)
        say(telling, true,
            "Does water reach it? Look at its hose, its valve and its probe, "
            "then clear %s.",
            duty->name);
}

static void tell_pump(const struct telling *telling,
                      const struct report_pump *pump)
{
    double days = report_days(telling->report);
    char runs[160];
    add_runs(telling, runs, sizeof(runs), pump->starts, pump->seconds,
             pump->longest_s, pump->litres);
    if (pump->starts > 0)
        say(telling, false, "%s ran %s.", pump->name, runs);
    else
        say(telling, false, "%s did not run.", pump->name);
    if (pump->unknown > 0)
        say(telling, false, "Of %u of its runs nobody saw the end.",
            pump->unknown);
    tell_reasons(telling, pump->name, &pump->blocks, "was kept off");
    tell_reasons(telling, pump->name, &pump->trips, "tripped");
    unsigned ended = pump->starts - pump->unknown;
    if (ended > 0 && days >= 1 && pump->starts / days > STARTS_MANY_A_DAY &&
        pump->seconds / ended < RUN_SHORT_S)
        say(telling, true,
            "%.0f starts a day of %s each wear %s out: widen the gap between "
            "start and stop, or give it a longer shortest run.",
            pump->starts / days, span_text(pump->seconds / ended).text,
            pump->name);
    if (pump->trips.count > 0)
        say(telling, true,
            "A trip has a cause: look at %s, its pipe and its source before "
            "you clear it again.",
            pump->name);
}

/* A probe that corrodes gets restless, and answers less and less. */
static void tell_drift(const struct telling *telling,
                       const struct report_level *level)
{
    if (report_days(telling->report) < DRIFT_DAYS)
        return;
    if (level->share[1] > REJECTS_MANY / 2 &&
        level->share[1] > REJECTS_ROSE * level->share[0])
        say(telling, true,
            "Of %s the rejects rose from %s in the first half to %s in the "
            "second: it gets worse.",
            level->name, percent_text(level->share[0]).text,
            percent_text(level->share[1]).text);
    if (!level->tank && strcmp(level->unit, "%") == 0 &&
        level->restless[1] > RESTLESS_LEAST_PCT &&
        level->restless[1] > RESTLESS_ROSE * level->restless[0])
        say(telling, true,
            "Within minutes %s went up and down by %s in the first half, by "
            "%s in the second: a probe that corrodes does that.",
            level->name,
            level_text(telling, level->restless[0], level->unit).text,
            level_text(telling, level->restless[1], level->unit).text);
}

/* What of its samples did not count. */
static void tell_rejects(const struct telling *telling,
                         const struct report_level *level)
{
    double share = (double)level->rejects / (double)level->samples;
    if (share > REJECTS_MANY)
        say(telling, true,
            "Of %s %s of %" PRIu64 " samples did not count: watch it with "
            "cuplatch look, and see why.",
            level->name, percent_text(share).text, level->samples);
    tell_drift(telling, level);
}

/* What started nothing and may have kept water back. */
static void tell_leaps(const struct telling *telling,
                       const struct report_level *level)
{
    char believed[120] = "";
    if (level->leaps == 0)
        return;
    if (level->believed > 0)
        snprintf(believed, sizeof(believed),
                 "; %s the other level stayed, and was believed",
                 times_text(level->believed).text);
    say(telling, true,
        "%s leapt %s%s. Last: %s. Is something in the beam, or was it filled "
        "or emptied by hand?",
        level->name, times_text(level->leaps).text, believed, level->leapt);
}

static void tell_level(const struct telling *telling,
                       const struct report_level *level)
{
    char lost[80] = "";
    char rejects[90] = "";
    if (isnan(level->mean)) {
        say(telling, true, "%s was never known.", level->name);
        return;
    }
    if (level->lost_s > 0)
        snprintf(lost, sizeof(lost), "; lost for %s",
                 span_text(level->lost_s).text);
    if (level->rejects > 0 && level->samples > 0)
        snprintf(
            rejects, sizeof(rejects), "; %s of its samples did not count",
            percent_text((double)level->rejects / (double)level->samples).text);
    if (!*level->unit)
        say(telling, false, "%s was 1 for %s of the time%s%s.", level->name,
            percent_text(level->mean).text, rejects, lost);
    else
        say(telling, false, "%s was %s to %s, %s on average%s%s.", level->name,
            level_text(telling, level->least, level->unit).text,
            level_text(telling, level->most, level->unit).text,
            level_text(telling, level->mean, level->unit).text, rejects, lost);
    if (level->samples > 0)
        tell_rejects(telling, level);
    tell_leaps(telling, level);
}

static void tell_all(const struct telling *telling)
{
    const struct report *report = telling->report;
    double litres = 0;
    for (size_t i = 0; i < report->pump_count; i++)
        if (!isnan(report->pumps[i].litres))
            litres += report->pumps[i].litres;
    title(telling, "In all");
    if (litres > 0)
        say(telling, false, "Pumps of known flow moved %s, %s a day.",
            litres_text(telling, litres).text,
            litres_text(telling, litres / report_days(report)).text);
    say(telling, false, "%u alert%s, %u leak%s told.", report->alerts,
        plural(report->alerts), report->leaks, plural(report->leaks));
    if (report->starts > 1)
        say(telling, true,
            "The controller started %u times: see its log for why.",
            report->starts);
}

void report_tell(const struct report *report, const struct report_sink *sink)
{
    struct telling telling = {report, sink};
    for (size_t i = 0; i < report->duty_count; i++)
        tell_duty(&telling, &report->duties[i]);
    if (report->pump_count > 0)
        title(&telling, "Pumps and other outputs");
    for (size_t i = 0; i < report->pump_count; i++)
        tell_pump(&telling, &report->pumps[i]);
    if (report->level_count > 0)
        title(&telling, "Sensors and tanks");
    for (size_t i = 0; i < report->level_count; i++)
        tell_level(&telling, &report->levels[i]);
    tell_all(&telling);
}
