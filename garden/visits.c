/* What people do, and when: they refill a vessel, or say a word to the
 * controller. What a word means is not known here. */
#include <math.h>
#include <stdlib.h>
#include <string.h>

#include "../grammar/quantity.h"
#include "../grammar/text.h"
#include "inside.h"

static const char *wrong(const char *form, const char *what)
{
    static char message[200];
    snprintf(message, sizeof(message), form, what);
    return text_mend(message);
}

/* Cuts a text at the last place where a word stands between spaces; what is
 * behind it, or null. */
static char *cut(char *text, const char *word)
{
    char *found = NULL;
    for (char *at = strstr(text, word); at; at = strstr(at + 1, word))
        found = at;
    if (!found)
        return NULL;
    *found = '\0';
    return found + strlen(word);
}

/* "refill VESSEL [VOLUME]" */
static const char *read_refill(const struct garden *garden, struct visit *visit)
{
    char name[NAME_SIZE] = "";
    char volume[24] = "";
    int32_t ml = 0;
    sscanf(visit->word, "refill %31s %23s", name, volume);
    visit->vessel = garden_find(garden, VESSEL, name);
    visit->word[0] = '\0';
    if (visit->vessel < 0)
        return wrong("the garden has no vessel \"%s\" to refill", name);
    if (*volume && (quantity_read(volume, CUP_UNIT_LITRE, &ml) || ml <= 0))
        return wrong("%s: expected how much, such as 300L", volume);
    visit->litres = ml / 1000.0;
    return NULL;
}

static const char *read_times(char *text, struct visit *visit)
{
    char *at = cut(text, " at ");
    char *every = at ? cut(at, " every ") : NULL;
    visit->at_s = at ? garden_seconds(at) : -1;
    visit->every_s = every ? garden_seconds(every) : 0;
    if (visit->at_s < 0 || visit->every_s < 0 || (every && visit->every_s == 0))
        return "expected \"refill VESSEL [VOLUME] at TIME\" or \"WORD at "
               "TIME\", such as \"refill cistern 300L at 2d9h every 7d\" or "
               "\"lift off at 1d2h\"";
    return NULL;
}

const char *garden_visit(struct garden *garden, const char *text, double days)
{
    struct visit visit = {.vessel = -1};
    if (garden->visit_count == VISITS_MOST)
        return "more visits than a garden can have";
    if (strlen(text) >= VISIT_SIZE)
        return "longer than a visit may be: 95 letters";
    snprintf(visit.word, sizeof(visit.word), "%s", text);
    const char *message = read_times(visit.word, &visit);
    if (!message && strncmp(visit.word, "refill ", 7) == 0)
        message = read_refill(garden, &visit);
    if (!message && visit.at_s >= days * 86400)
        message = "this would be after the last day";
    if (!message)
        garden->visits[garden->visit_count++] = visit;
    return message;
}

static bool is_due(const struct garden *garden, const struct visit *visit)
{
    double since = garden->now_s - visit->at_s;
    if (since == 0 || visit->every_s == 0)
        return since == 0;
    return since > 0 && fmod(since, visit->every_s) == 0;
}

void garden_visits_step(struct garden *garden)
{
    for (int i = 0; i < garden->visit_count; i++) {
        const struct visit *visit = &garden->visits[i];
        if (visit->word[0] || !is_due(garden, visit))
            continue;
        struct vessel *vessel = &garden->vessels[visit->vessel];
        double room = vessel->capacity - vessel->litres;
        double litres = visit->litres > 0 ? least(visit->litres, room) : room;
        garden->refilled_l += litres;
        vessel_add(vessel, litres);
    }
}

const char *garden_word(struct garden *garden)
{
    while (garden->word < garden->visit_count) {
        const struct visit *visit = &garden->visits[garden->word++];
        if (visit->word[0] && is_due(garden, visit))
            return visit->word;
    }
    return NULL;
}

const char *garden_word_at(const struct garden *garden, int i)
{
    for (int at = 0; at < garden->visit_count; at++)
        if (garden->visits[at].word[0] && i-- == 0)
            return garden->visits[at].word;
    return NULL;
}
