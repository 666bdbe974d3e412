#include "ranks.h"

#include <stdbool.h>
#include <stdio.h>
#include <string.h>

/* A reading that was lost for so many s calls somebody. */
#define SETTLES_S 120

/* Reasons by which a thing is more, or less, than help; and what to do. Those
 * of one thing share its name. */
static const struct row {
    const char *reason;
    const char *name;
    enum rank rank;
    const char *to_do;
} rows[] = {
    {"leak", "leak", RANK_HARM,
     "Look for wet ground, and empty or shut what leaks."},
    {"still-falls", "relay", RANK_HARM,
     "Its relay may have stuck: switch its power off by hand."},
    {"still-rises", "relay", RANK_HARM,
     "Its relay may have stuck: switch its power off by hand."},
    {"still-flows", "relay", RANK_HARM,
     "Its relay may have stuck: switch its power off by hand."},
    {"volume", "volume", RANK_HARM,
     "Look where the water goes: is its hose off?"},
    {"cannot-drive", "port", RANK_HARM,
     "Look at its wire and its board; if it runs, switch its power off."},
    {"journal-fails", "journal", RANK_HARM,
     "Make room on the disk, or change the card."},
    {"kept-off", "kept", RANK_HELP,
     "Look at what keeps it off; water by hand what needs it."},
    {"look-in", "brim", RANK_HELP, "Then say so, such as \"header is 60%\"."},
    {"strays", "strays", RANK_HELP,
     "Look at that probe: is it in a puddle, or out of the ground?"},
    {"until-stands", "until", RANK_HELP, "Look whether its float is stuck."},
    {"missed", "missed", RANK_HELP, "Water by hand what needs it."},
    {"record-lost", "record", RANK_HELP,
     "Look at what is to be off, then say site go."},
    {"record-strange", "record", RANK_HELP,
     "Look at what is to be off, then say site go."},
    {"journal-lost", "lost journal", RANK_HELP,
     "Look at its settings, and at what had tripped."},
    {"still-off", "off", RANK_CHOICE, "Say auto if it is to run again."},
    {"still-held", "held", RANK_CHOICE, "Say site go if it is to water again."},
};

static const char tripped[] =
    "Does water come? Look at its source, its hose and itself, then clear it.";

static const struct row *row_of(const char *reason)
{
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++)
        if (strcmp(rows[i].reason, reason) == 0)
            return &rows[i];
    return NULL;
}

const char *event_text(const json_t *json, const char *key)
{
    const char *text = json_string_value(json_object_get(json, key));
    return text ? text : "";
}

static struct ranked ranked(const json_t *event, enum rank_how how,
                            enum rank rank, const char *name, const char *to_do)
{
    struct ranked is = {.rank = rank, .how = how, .to_do = to_do};
    snprintf(is.thing, sizeof(is.thing), "%.60s %s", event_text(event, "of"),
             name);
    return is;
}

/* An alert, a leak, and that one is over: of one thing by their reason. */
static struct ranked of_alert(const json_t *event, enum rank_how how)
{
    const struct row *row = row_of(event_text(event, "reason"));
    return row ? ranked(event, how, row->rank, row->name, row->to_do)
               : ranked(event, how, RANK_HELP, "alert", "");
}

static struct ranked of_reading(const json_t *event)
{
    const char *reason = event_text(event, "reason");
    struct ranked lost = ranked(event, RANK_COMES, RANK_HELP, "reading",
                                "Look at its plug, its wire and its supply.");
    lost.settles = SETTLES_S;
    if (strcmp(reason, "readable") == 0)
        lost.how = RANK_GOES;
    else if (strcmp(reason, "reading-lost") != 0)
        lost.how = RANK_NOTHING; /* a leap, and how often it was */
    return lost;
}

static bool is_one_of(const char *kind, const char *one, const char *other)
{
    return strcmp(kind, one) == 0 || strcmp(kind, other) == 0;
}

struct ranked rank_of(const json_t *event)
{
    const char *kind = event_text(event, "kind");
    const char *reason = event_text(event, "reason");
    if (is_one_of(kind, "alert", "leak"))
        return of_alert(event, RANK_COMES);
    if (strcmp(kind, "over") == 0)
        return of_alert(event, RANK_GOES);
    if (is_one_of(kind, "trip", "lock"))
        return ranked(event, RANK_COMES, RANK_HELP, "trip", tripped);
    if (strcmp(kind, "clear") == 0 && strcmp(reason, "cleared") == 0)
        return ranked(event, RANK_GOES, RANK_HELP, "trip", "");
    if (strcmp(kind, "quality") == 0)
        return of_reading(event);
    if (strcmp(kind, "stop") == 0 && strcmp(reason, "frost-cold") == 0)
        return ranked(event, RANK_ONCE, RANK_HARM, "frost",
                      "Empty the pipes that may burst.");
    return (struct ranked){.how = RANK_NOTHING};
}

const char *rank_word(enum rank rank)
{
    static const char *const words[] = {"note", "choice", "help", "harm"};
    return words[rank];
}

bool rank_is_harm(const json_t *alert)
{
    return strcmp(event_text(alert, "rank"), rank_word(RANK_HARM)) == 0;
}
