/* A span of a history, added up: what the water did. Everything that is told of
 * it, as sentences, as a page or as bare numbers, is worked out here, once. */
#ifndef CUPLATCH_REPORT_REPORT_H
#define CUPLATCH_REPORT_REPORT_H

#include "../history/read.h"
#include "../history/units.h"

#define REPORT_NAME 32
#define REPORT_WHY 120
/* Reasons that are told of one pump. */
#define REPORT_REASONS 12

/* One reason that a pump was kept off, or tripped, by: how often, for how long,
 * and what was said of it last. */
struct report_reason {
    char code[REPORT_NAME];
    char why[REPORT_WHY];
    unsigned times;
    double seconds;
};

struct report_reasons {
    struct report_reason list[REPORT_REASONS];
    size_t count;
};

struct report_pump {
    char name[REPORT_NAME];
    int64_t number;
    unsigned starts;
    unsigned unknown; /* of them, those whose end nobody saw */
    double seconds;
    double longest_s;
    double litres; /* NAN: its flow is not known */
    struct report_reasons blocks;
    struct report_reasons trips;
};

struct report_level {
    char name[REPORT_NAME];
    char unit[12];
    int64_t number;
    bool tank;
    double known_s, held_s, lost_s;
    double least, mean, most; /* NAN: never known */
    uint64_t samples, rejects;
    unsigned leaps, believed; /* of a tank; how often the other level was */
    char leapt[REPORT_WHY];   /* what was said of the last leap */
    double share[2];    /* of rejects, in the first half and in the second */
    double restless[2]; /* most less least of a row of minutes, by halves */
};

struct report_duty {
    char name[REPORT_NAME];
    int64_t number;
    unsigned runs;
    double seconds, longest_s;
    double litres; /* NAN: the flow of its pump is not known */
    char pump[REPORT_NAME];
    char keep[REPORT_NAME]; /* empty: it keeps no level */
    double start, stop;
    double in_s, below_s, above_s, unknown_s;
    struct report_reasons trips;
};

struct report {
    int64_t site;
    char name[100];
    bool us;
    struct history_span span;
    struct report_duty *duties;
    size_t duty_count;
    struct report_pump *pumps;
    size_t pump_count;
    struct report_level *levels;
    size_t level_count;
    unsigned alerts, leaks, starts; /* told; and of the controller itself */
};

/* Adds up a span of a site. False when the history could not be read. Free it
 * with report_free(). */
bool report_make(struct report *report, struct history *history,
                 const struct history_site_row *site, struct history_span span);
void report_free(struct report *report);

/* By name; null: it is not in it. */
const struct report_level *report_level_of(const struct report *report,
                                           const char *name);
const struct report_pump *report_pump_of(const struct report *report,
                                         const char *name);

static inline double report_days(const struct report *report)
{
    return (double)(report->span.to - report->span.from) / 86400.0;
}

/* Sentences, in order; a title before each part. `title` null: a sentence goes
 * on with the part. `advice` is whether it says what to do. */
struct report_sink {
    void (*title)(void *self, const char *text);
    void (*sentence)(void *self, const char *text, bool advice);
    void *self;
};
void report_tell(const struct report *report, const struct report_sink *sink);

#endif
