/* News, as lines. */
#include "news.h"

#include <inttypes.h>
#include <stdio.h>
#include <stdlib.h>

#include "cuplatch/site.h"

void news_open(struct news *news, const struct cup_plan *plan)
{
    *news = (struct news){.plan = plan};
    news->alerts = calloc((size_t)cup_things(plan) + 1, sizeof(*news->alerts));
    if (!news->alerts)
        abort();
}

static void print_line(uint64_t s, const char *of, const char *what,
                       const char *why)
{
    printf("day %2" PRIu64 " %02" PRIu64 ":%02" PRIu64 "  %-12s %-8s %s\n",
           s / 86400 + 1, s / 3600 % 24, s / 60 % 60, of, what, why);
}

static void print_news(const struct news *news, uint64_t s,
                       const struct cup_event *event, const char *why)
{
    print_line(s, cup_thing_name(news->plan, event->of),
               cup_kind_code(event->kind), why);
}

/* What came again and again, in one line. */
static void print_again(struct news *news)
{
    char why[CUP_SENTENCE_SIZE];
    uint64_t s = news->first_s;
    if (news->again == 0)
        return;
    if (news->again == 1)
        cup_say_event(why, sizeof(why), news->plan, &news->event);
    else
        snprintf(why, sizeof(why),
                 "%u more since day %" PRIu64 " %02" PRIu64 ":%02" PRIu64,
                 news->again, s / 86400 + 1, s / 3600 % 24, s / 60 % 60);
    print_news(news, news->s, &news->event, why);
    news->again = 0;
}

/* The sentence of an event; of an alert with what the file says, too. */
static void say_news(char *why, size_t size, const struct cup_plan *plan,
                     const struct cup_event *event)
{
    size_t used = cup_say_event(why, size, plan, event);
    for (cup_index i = 0; i < plan->alert_count; i++)
        if (event->kind == CUP_KIND_ALERT &&
            event->of == cup_alert_thing(plan, i) && plan->alerts[i].say)
            snprintf(why + used, size - used, ": %s", plan->alerts[i].say);
}

/* An alert that stands is repeated to whoever has to act; here once is enough.
 * Says how often it was, once it is over. */
static bool is_repeated(struct news *news, const struct cup_event *event,
                        unsigned *again)
{
    struct standing_alert *alert;
    *again = 0;
    if (event->of == CUP_NONE)
        return false;
    alert = &news->alerts[event->of];
    if (event->kind == CUP_KIND_OVER) {
        *again = alert->again;
        *alert = (struct standing_alert){CUP_REASON_NONE, 0};
    }
    if (event->kind != CUP_KIND_ALERT)
        return false;
    if (alert->reason == event->cause.reason ||
        (alert->reason != CUP_REASON_NONE &&
         event->of >= cup_alert_thing(news->plan, 0))) {
        alert->again++;
        return true;
    }
    alert->reason = event->cause.reason;
    return false;
}

static bool is_news(const struct cup_event *event)
{
    return event->kind == CUP_KIND_TRIP || event->kind == CUP_KIND_LOCK ||
           event->kind == CUP_KIND_ALERT || event->kind == CUP_KIND_LEAK ||
           event->kind == CUP_KIND_OVER || event->kind == CUP_KIND_BOOT ||
           (event->kind == CUP_KIND_QUALITY &&
            event->cause.reason != CUP_REASON_READABLE);
}

/* The same trip or loss in a row is counted, until there is other news. */
static bool is_again(struct news *news, uint64_t s,
                     const struct cup_event *event)
{
    bool may = event->kind == CUP_KIND_TRIP || event->kind == CUP_KIND_QUALITY;
    bool same = may && news->event.of == event->of &&
                news->event.kind == event->kind &&
                news->event.cause.reason == event->cause.reason;
    if (!same)
        print_again(news);
    if (same && news->again++ == 0)
        news->first_s = s;
    news->event = *event;
    news->s = s;
    return same;
}

void news_event(struct news *news, uint64_t s, const struct cup_event *event)
{
    char why[2 * CUP_SENTENCE_SIZE];
    char more[2 * CUP_SENTENCE_SIZE + 40];
    unsigned again;
    if (!is_news(event) || is_repeated(news, event, &again) ||
        is_again(news, s, event))
        return;
    say_news(why, sizeof(why), news->plan, event);
    snprintf(more, sizeof(more), "%s; it was told %u more time%s", why, again,
             again == 1 ? "" : "s");
    print_news(news, s, event, again > 0 ? more : why);
}

void news_word(struct news *news, uint64_t s, const char *text,
               const char *refused)
{
    char what[CUP_SENTENCE_SIZE];
    print_again(news);
    news->event.kind = CUP_KIND_BOOT; /* what comes now follows this */
    snprintf(what, sizeof(what), "\"%s\"%s%s", text,
             refused ? " is refused: " : "", refused ? refused : "");
    print_line(s, "somebody", "says", what);
}

void news_end(struct news *news)
{
    print_again(news);
}

void news_close(struct news *news)
{
    free(news->alerts);
}
