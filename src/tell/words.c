/* Steering words as a person types them: `lift hand 5m`, `site hold`. */
#include <string.h>

#include "cuplatch/say.h"

/* One word of a line, as a part of it. */
struct token {
    const char *start;
    size_t length;
};

static bool next_token(const char **text, struct token *token)
{
    const char *at = *text;
    while (*at == ' ' || *at == '\t')
        at++;
    token->start = at;
    while (*at && *at != ' ' && *at != '\t')
        at++;
    token->length = (size_t)(at - token->start);
    *text = at;
    return token->length > 0;
}

static bool is(const struct token *token, const char *word)
{
    return strlen(word) == token->length &&
           memcmp(word, token->start, token->length) == 0;
}

static uint32_t unit_ms(const char **at)
{
    static const struct {
        char name[3];
        uint32_t ms;
    } units[] = {
        {"ms", 1}, {"s", 1000}, {"m", 60000}, {"h", 3600000}, {"d", 86400000}};
    for (size_t i = 0; i < sizeof(units) / sizeof(units[0]); i++) {
        size_t length = strlen(units[i].name);
        if (strncmp(*at, units[i].name, length) == 0) {
            *at += length;
            return units[i].ms;
        }
    }
    return 0;
}

/* "90s", "1h30m": whole numbers with units, up to CUP_TIME_MAX_MS; else 0. */
static uint32_t read_duration(const struct token *token)
{
    const char *at = token->start;
    uint64_t total = 0;
    while (at < token->start + token->length) {
        uint64_t number = 0;
        const char *digits = at;
        while (*at >= '0' && *at <= '9' && number <= CUP_TIME_MAX_MS)
            number = number * 10 + (uint64_t)(*at++ - '0');
        uint32_t ms = at == digits ? 0 : unit_ms(&at);
        total += number * ms;
        if (ms == 0 || total > CUP_TIME_MAX_MS)
            return 0;
    }
    return (uint32_t)total;
}

static bool find_verb(const struct token *token, uint8_t *verb)
{
    static const char *const verbs[] = {
#define X(name, code) code,
        CUP_VERBS(X)
#undef X
    };
    for (uint8_t i = 0; i < CUP_VERB_COUNT; i++)
        if (is(token, verbs[i])) {
            *verb = i;
            return true;
        }
    return false;
}

static bool find_pump(CUP_FLASH struct cup_plan *plan,
                      const struct token *token, cup_index *pump)
{
    for (cup_index i = 0; i < plan->pump_count; i++)
        if (is(token, cup_thing_name(plan, cup_pump_thing(plan, i)))) {
            *pump = i;
            return true;
        }
    return false;
}

static const char *read_target(CUP_FLASH struct cup_plan *plan,
                               const struct token *who, struct cup_word *word)
{
    bool for_site = word->verb == CUP_VERB_HOLD || word->verb == CUP_VERB_GO;
    if (is(who, "site"))
        return for_site ? NULL : "the site takes hold or go";
    if (!find_pump(plan, who, &word->pump))
        return "there is no pump of that name";
    return for_site ? "a pump takes hand, off, auto or clear" : NULL;
}

const char *cup_read_word(CUP_FLASH struct cup_plan *plan, const char *text,
                          struct cup_word *word)
{
    struct token who;
    struct token verb;
    struct token rest;
    *word = (struct cup_word){.pump = 0};
    if (!next_token(&text, &who) || !next_token(&text, &verb))
        return "expected a name and a word, such as: lift off";
    if (!find_verb(&verb, &word->verb))
        return "expected hand, off, auto, clear, hold or go";
    const char *wrong = read_target(plan, &who, word);
    if (wrong)
        return wrong;
    bool more = next_token(&text, &rest);
    if (word->verb == CUP_VERB_HAND) {
        word->hand_for_ms = more ? read_duration(&rest) : 0;
        if (word->hand_for_ms == 0)
            return "hand needs a time with its unit, such as: lift hand 5m";
        more = next_token(&text, &rest);
    }
    return more ? "there are words left over" : NULL;
}
