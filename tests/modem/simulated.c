#include "simulated.h"

#include <stdarg.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

void sim_open(struct sim *sim, const struct sim_faults *faults)
{
    *sim = (struct sim){.faults = *faults};
}

unsigned sim_count(const struct sim *sim)
{
    unsigned count = 0;
    for (size_t i = 0; i < SIM_PLACES; i++)
        count += sim->kept[i].there;
    return count;
}

/* Answers */

static void put(struct sim *sim, uint32_t now_ms, const char *form, ...)
{
    char text[1200];
    va_list rest;
    va_start(rest, form);
    vsnprintf(text, sizeof(text), form, rest);
    va_end(rest);
    size_t length = strlen(text);
    if (sim->faults.tears > 0 && length > sim->faults.tears)
        length = sim->faults.tears;
    if (sim->faults.garbles && length > 3)
        text[length / 2] ^= 0x15;
    if (sim->out_at == sim->out_used)
        sim->out_at = sim->out_used = 0;
    for (int i = 0; i < (sim->faults.repeats ? 2 : 1); i++)
        if (sim->out_used + length <= SIM_OUT) {
            memcpy(sim->out + sim->out_used, text, length);
            sim->out_used += length;
        }
    sim->due_ms = now_ms + sim->faults.late_ms;
}

static void ok(struct sim *sim, uint32_t now_ms)
{
    put(sim, now_ms, "\r\nOK\r\n");
}

static void error(struct sim *sim, uint32_t now_ms, int number)
{
    put(sim, now_ms, "\r\n+CMS ERROR: %d\r\n", number);
}

static size_t put_letter(char *text, unsigned letter)
{
    static const unsigned char firsts[] = {0x00, 0xc0, 0xe0, 0xf0};
    unsigned after = letter < 0x80      ? 0
                     : letter < 0x800   ? 1
                     : letter < 0x10000 ? 2
                                        : 3;
    for (unsigned i = 0; i <= after; i++) {
        unsigned bits = letter >> (6 * (after - i));
        text[i] = (char)(i == 0 ? firsts[after] | bits : 0x80 | (bits & 0x3f));
    }
    return after + 1;
}

/* Digits, four a letter, to UTF-8. */
static void from_wide(const char *digits, char *text, size_t size)
{
    size_t used = 0;
    unsigned half, high = 0;
    for (; strlen(digits) >= 4 && sscanf(digits, "%4X", &half) == 1 &&
           used + 5 < size;
         digits += 4) {
        if (half >> 10 == 0x36)
            high = half;
        else if (half >> 10 == 0x37)
            used += put_letter(text + used, 0x10000 + ((high & 0x3ff) << 10) +
                                                (half & 0x3ff));
        else
            used += put_letter(text + used, half);
    }
    text[used] = '\0';
}

static void to_wide(const char *text, char *digits, size_t size)
{
    *digits = '\0';
    for (size_t at = 0; *text && at + 5 < size; text++, at += 4)
        snprintf(digits + at, 5, "%04X", (unsigned char)*text);
}

/* Commands */

static void take_pin(struct sim *sim, uint32_t now_ms, const char *pin)
{
    size_t length = sim->faults.pin ? strlen(sim->faults.pin) : 0;
    sim->pins++;
    sim->unlocked = sim->faults.pin &&
                    strncmp(pin, sim->faults.pin, length) == 0 &&
                    pin[length] == '"';
    if (sim->unlocked)
        ok(sim, now_ms);
    else
        put(sim, now_ms, "\r\n+CME ERROR: 16\r\n");
}

static void give_message(struct sim *sim, uint32_t now_ms, unsigned place)
{
    if (place < 1 || place > SIM_PLACES || !sim->kept[place - 1].there) {
        error(sim, now_ms, 321);
        return;
    }
    const struct sim_kept *kept = &sim->kept[place - 1];
    put(sim, now_ms,
        "\r\n+CMGR: \"REC UNREAD\",\"%s\",,\"%s\"\r\n%s\r\n\r\nOK\r\n",
        kept->from, kept->time, kept->text);
}

static void drop_message(struct sim *sim, uint32_t now_ms, unsigned place)
{
    if (place >= 1 && place <= SIM_PLACES)
        sim->kept[place - 1].there = false;
    ok(sim, now_ms);
}

static void begin_send(struct sim *sim, uint32_t now_ms, const char *to)
{
    snprintf(sim->to, sizeof(sim->to), "%.*s", (int)strcspn(to, "\""), to);
    if (sim->faults.refuses || sim->faults.no_net) {
        error(sim, now_ms, 331);
        return;
    }
    if (!sim->faults.no_prompt)
        put(sim, now_ms, "\r\n> ");
    sim->reads_text = true;
}

/* Commands that ask for no more than an answer; null: it is none of them. */
static const char *simple_answer(const struct sim *sim, const char *line)
{
    static const char *const fine[] = {"AT",
                                       "ATE0",
                                       "AT+CMGF=1",
                                       "AT+CSCS=\"UCS2\"",
                                       "AT+CNMI=2,1,0,0,0",
                                       "AT+CSMP=17,167,0,0",
                                       "AT+CSMP=17,167,0,8"};
    for (size_t i = 0; i < sizeof(fine) / sizeof(fine[0]); i++)
        if (strcmp(line, fine[i]) == 0)
            return "";
    if (strcmp(line, "AT+CPIN?") == 0)
        return sim->faults.pin && !sim->unlocked ? "\r\n+CPIN: SIM PIN\r\n"
                                                 : "\r\n+CPIN: READY\r\n";
    if (strcmp(line, "AT+CREG?") == 0)
        return sim->faults.no_net ? "\r\n+CREG: 0,2\r\n" : "\r\n+CREG: 0,1\r\n";
    if (strcmp(line, "AT+CEREG?") == 0)
        return "\r\n+CEREG: 0,2\r\n";
    return NULL;
}

static void take_line(struct sim *sim, uint32_t now_ms, const char *line)
{
    unsigned place = 0;
    const char *simple = simple_answer(sim, line);
    if (sim->faults.rings)
        put(sim, now_ms, "\r\nRING\r\n\r\n+CREG: 1\r\n");
    if (simple)
        put(sim, now_ms, "%s\r\nOK\r\n", simple);
    else if (strncmp(line, "AT+CPIN=\"", 9) == 0)
        take_pin(sim, now_ms, line + 9);
    else if (strcmp(line, "AT+CPMS?") == 0)
        put(sim, now_ms,
            "\r\n+CPMS: \"SM\",%u,%d,\"SM\",%u,%d,\"SM\",%u,%d\r\n\r\nOK\r\n",
            sim_count(sim), SIM_PLACES, sim_count(sim), SIM_PLACES,
            sim_count(sim), SIM_PLACES);
    else if (sscanf(line, "AT+CMGR=%u", &place) == 1)
        give_message(sim, now_ms, place);
    else if (sscanf(line, "AT+CMGD=%u", &place) == 1)
        drop_message(sim, now_ms, place);
    else if (strncmp(line, "AT+CMGS=\"", 9) == 0)
        begin_send(sim, now_ms, line + 9);
    else
        put(sim, now_ms, "\r\nERROR\r\n");
}

static void take_text(struct sim *sim, uint32_t now_ms)
{
    sim->reads_text = false;
    from_wide(sim->to, sim->last_to, sizeof(sim->last_to));
    from_wide(sim->line, sim->last_text, sizeof(sim->last_text));
    sim->sent++;
    put(sim, now_ms, "\r\n+CMGS: %u\r\n\r\nOK\r\n", sim->sent);
}

/* Whether a byte ends what was said to it. */
static bool take_end(struct sim *sim, uint32_t now_ms, char byte)
{
    if (sim->reads_text && byte == '\x1b')
        sim->reads_text = false;
    else if (sim->reads_text && byte == '\x1a')
        take_text(sim, now_ms);
    else if (!sim->reads_text && byte == '\r')
        take_line(sim, now_ms, sim->line);
    else
        return false;
    return true;
}

void sim_take(struct sim *sim, uint32_t now_ms, char byte)
{
    if (sim->faults.dumb)
        return;
    if (sim->faults.echoes && sim->out_used < SIM_OUT)
        sim->out[sim->out_used++] = byte;
    sim->line[sim->used] = '\0';
    if (take_end(sim, now_ms, byte))
        sim->used = 0;
    else if (sim->used + 1 < sizeof(sim->line))
        sim->line[sim->used++] = byte;
}

bool sim_give(struct sim *sim, uint32_t now_ms, char *byte)
{
    if (sim->out_at == sim->out_used || (int32_t)(now_ms - sim->due_ms) < 0)
        return false;
    *byte = sim->out[sim->out_at++];
    return true;
}

bool sim_comes(struct sim *sim, uint32_t now_ms, const char *from,
               const char *text, const char *time)
{
    for (unsigned i = 0; i < SIM_PLACES; i++) {
        struct sim_kept *kept = &sim->kept[i];
        if (kept->there)
            continue;
        kept->there = true;
        to_wide(from, kept->from, sizeof(kept->from));
        to_wide(text, kept->text, sizeof(kept->text));
        snprintf(kept->time, sizeof(kept->time), "%s", time);
        if (!sim->faults.dumb)
            put(sim, now_ms, "\r\n+CMTI: \"SM\",%u\r\n", i + 1);
        return true;
    }
    return false;
}
