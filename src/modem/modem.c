/* A step at a time: a command goes out, and what comes back, or that nothing
 * does, says which step is next. One file, though a long one: boards that are
 * not optimized as a whole pay for calls between two. */
#include "modem_inside.h"

#define QUIET_MS 1000u
#define ANSWER_MS 5000u
/* A card, a network and a service centre take their time. */
#define PIN_MS 20000u
#define PROMPT_MS 10000u
#define SENT_MS 120000u
#define LOCKED_MS 60000u
#define NETWORK_MS 30000u
#define LOOK_MS 60000u
/* So many in a row: nobody is there. */
#define SILENCES_MOST 3u

#define END_OF_TEXT '\x1a'
#define NEVER_MIND '\x1b'

static void go(struct cup_modem *modem, uint32_t now_ms, enum cup_step step)
{
    modem->step = (uint8_t)step;
    modem->since_ms = now_ms;
    modem->out_used = modem->out_at = 0;
    modem->got = modem->reads = false;
    cup_put_command(modem, step);
}

/* Nobody knows what became of it; what was under way begins anew. */
static void begin_anew(struct cup_modem *modem, uint32_t now_ms)
{
    if (modem->sending == CUP_SENDING_NOW)
        modem->sending = CUP_SENDING_FAILED;
    modem->used = 0;
    modem->has = modem->forgets = false;
    go(modem, now_ms, QUIET);
}

static void fall_silent(struct cup_modem *modem, uint32_t now_ms)
{
    if (modem->silences < SILENCES_MOST)
        modem->silences++;
    if (modem->silences == SILENCES_MOST)
        modem->is = CUP_MODEM_ABSENT;
    begin_anew(modem, now_ms);
}

/* What is next */

static void begin_message(struct cup_modem *modem, uint32_t now_ms)
{
    for (uint16_t next = modem->at; cup_letter(modem, &next) == ' ';)
        modem->at = next;
    if (modem->at >= modem->length) {
        modem->sending = CUP_SENDING_DONE;
        go(modem, now_ms, REST);
        return;
    }
    modem->end = cup_message_end(modem, &modem->wide);
    go(modem, now_ms, KIND);
}

/* The next place in which a message may be. */
static void look_on(struct cup_modem *modem, uint32_t now_ms)
{
    if (modem->left > 0 && modem->place < modem->places) {
        modem->place++;
        go(modem, now_ms, READ);
        return;
    }
    modem->left = 0;
    go(modem, now_ms, REST);
}

static void rest(struct cup_modem *modem, uint32_t now_ms)
{
    if (modem->forgets)
        go(modem, now_ms, FORGET);
    else if (modem->sending == CUP_SENDING_NOW)
        begin_message(modem, now_ms);
    else if (!modem->has && modem->left > 0)
        look_on(modem, now_ms);
    else if (!modem->has &&
             (modem->looks || now_ms - modem->looked_ms >= LOOK_MS))
        go(modem, now_ms, COUNT);
    else if (now_ms - modem->network_ms >= NETWORK_MS)
        go(modem, now_ms, NETWORK);
}

/* Answers */

static void take_network(struct cup_modem *modem, uint32_t now_ms)
{
    modem->network_ms = now_ms;
    if (!modem->got && modem->step == NETWORK) {
        go(modem, now_ms, NETWORK_LATER);
        return;
    }
    modem->is = modem->got ? CUP_MODEM_READY : CUP_MODEM_SEARCHING;
    go(modem, now_ms, REST);
}

static void take_pin(struct cup_modem *modem, uint32_t now_ms)
{
    if (modem->got) {
        go(modem, now_ms, FORM);
        return;
    }
    bool tries = modem->pin[0] != '\0' && !modem->pin_tried;
    if (!tries)
        modem->is = CUP_MODEM_LOCKED;
    go(modem, now_ms, tries ? PIN_GIVEN : LOCKED);
    modem->pin_tried |= tries;
}

static void take_read(struct cup_modem *modem, uint32_t now_ms)
{
    if (!modem->got) {
        look_on(modem, now_ms);
        return;
    }
    modem->left--;
    modem->has = true;
    go(modem, now_ms, REST);
}

static void take_sent(struct cup_modem *modem, uint32_t now_ms)
{
    if (!modem->got) {
        begin_anew(modem, now_ms); /* an OK of something else */
        return;
    }
    modem->sent++;
    modem->at = modem->end;
    begin_message(modem, now_ms);
}

/* Of set-up, where only the order matters. */
static enum cup_step modem_after(enum cup_step step)
{
    switch (step) {
    case HELLO:
        return ECHO_OFF;
    case ECHO_OFF:
        return PIN_ASKED;
    case FORM:
        return LETTERS;
    case LETTERS:
        return TOLD;
    default:
        return NETWORK;
    }
}

static void take_forgotten(struct cup_modem *modem, uint32_t now_ms)
{
    modem->has = modem->forgets = false;
    go(modem, now_ms, REST);
}

static void take_count(struct cup_modem *modem, uint32_t now_ms)
{
    modem->looks = false;
    modem->looked_ms = now_ms;
    modem->place = 0;
    look_on(modem, now_ms);
}

/* OK, or an error, of a step that has to do with messages in the modem. */
static void end_look(struct cup_modem *modem, uint32_t now_ms, bool ok)
{
    modem->got = modem->got && ok;
    if (modem->step == FORGET)
        take_forgotten(modem, now_ms);
    else if (modem->step == READ)
        take_read(modem, now_ms);
    else
        take_count(modem, now_ms);
}

/* ... with one that is being sent. What is late, of a step before, counts for
 * nothing. */
static void end_send(struct cup_modem *modem, uint32_t now_ms, bool ok)
{
    if (!ok) {
        modem->sending = CUP_SENDING_FAILED;
        go(modem, now_ms, REST);
    } else if (modem->step == KIND)
        go(modem, now_ms, TO);
    else if (modem->step == SENT)
        take_sent(modem, now_ms);
}

/* ... with the card. */
static void end_pin(struct cup_modem *modem, uint32_t now_ms, bool ok)
{
    if (!ok) {
        modem->is = CUP_MODEM_LOCKED;
        go(modem, now_ms, LOCKED);
    } else if (modem->step == PIN_ASKED)
        take_pin(modem, now_ms);
    else
        go(modem, now_ms, PIN_ASKED);
}

/* ... with setting it up; that messages that come are told may be refused: it
 * is looked for them anyway. */
static void end_set_up(struct cup_modem *modem, uint32_t now_ms, bool ok)
{
    if (ok || modem->step == TOLD)
        go(modem, now_ms, modem_after((enum cup_step)modem->step));
    else
        fall_silent(modem, now_ms);
}

static void take_end(struct cup_modem *modem, uint32_t now_ms, bool ok)
{
    enum cup_step step = (enum cup_step)modem->step;
    if (step == QUIET || step == LOCKED || step == REST)
        return; /* late, and of nothing that is waited for */
    modem->silences = 0;
    if (step >= KIND)
        end_send(modem, now_ms, ok);
    else if (step >= COUNT)
        end_look(modem, now_ms, ok);
    else if (step >= NETWORK)
        take_network(modem, now_ms);
    else if (step == PIN_ASKED || step == PIN_GIVEN)
        end_pin(modem, now_ms, ok);
    else
        end_set_up(modem, now_ms, ok);
}

static void about_network(struct cup_modem *modem)
{
    uint16_t state = cup_read_field(modem, 1);
    if (cup_begins(modem, CUP_TEXT("+CREG:")) ||
        cup_begins(modem, CUP_TEXT("+CEREG:")))
        modem->got = state == 1u || state == 5u;
}

static void about_count(struct cup_modem *modem)
{
    if (!cup_begins(modem, CUP_TEXT("+CPMS:")))
        return;
    modem->left = cup_read_field(modem, 1);
    modem->places = cup_read_field(modem, 2);
    if (modem->left == UINT16_MAX || modem->places == UINT16_MAX)
        modem->left = 0;
}

static void about_message(struct cup_modem *modem)
{
    modem->reads =
        cup_begins(modem, CUP_TEXT("+CMGR:")) && cup_read_head(modem);
    modem->text_used = modem->digits = 0;
    modem->high = 0;
    modem->heard.text[0] = '\0';
}

/* Lines with what was asked for. */
static void take_about(struct cup_modem *modem)
{
    enum cup_step step = (enum cup_step)modem->step;
    if (step == PIN_ASKED)
        modem->got |= cup_begins(modem, CUP_TEXT("+CPIN: READY"));
    else if (step == SENT)
        modem->got |= cup_begins(modem, CUP_TEXT("+CMGS:"));
    else if (step == NETWORK || step == NETWORK_LATER)
        about_network(modem);
    else if (step == COUNT)
        about_count(modem);
    else if (step == READ)
        about_message(modem);
}

static void modem_take_line(struct cup_modem *modem, uint32_t now_ms)
{
    if (cup_is_word(modem, CUP_TEXT("OK")))
        take_end(modem, now_ms, true);
    else if (cup_begins(modem, CUP_TEXT("ERROR")) ||
             cup_begins(modem, CUP_TEXT("+CME ERROR")) ||
             cup_begins(modem, CUP_TEXT("+CMS ERROR")))
        take_end(modem, now_ms, false);
    else if (cup_begins(modem, CUP_TEXT("+CMTI:")))
        modem->looks = true;
    else
        take_about(modem);
}

/* Bytes */

/* Letters beyond UCS2 come as two halves. */
static void take_half(struct cup_modem *modem, uint16_t half)
{
    uint16_t high = modem->high;
    modem->high = 0;
    if ((half & 0xfc00u) == 0xd800u)
        modem->high = half;
    else if ((half & 0xfc00u) != 0xdc00u)
        cup_hear_letter(modem, half);
    else if (high != 0)
        cup_hear_letter(modem, 0x10000u + ((uint32_t)(high & 0x3ffu) << 10) +
                                   (half & 0x3ffu));
    else
        cup_hear_letter(modem, '?');
}

/* The text of a message, up to the end of its line. */
static void take_digit(struct cup_modem *modem, char byte)
{
    uint8_t digit = cup_digit(byte);
    if (byte == '\n' || byte == '\r') {
        modem->got = modem->got || byte == '\r' || modem->text_used > 0;
        modem->reads = !modem->got;
        return;
    }
    if (digit > 15u)
        return;
    modem->letter = (uint16_t)(modem->letter << 4 | digit);
    if (++modem->digits < 4u)
        return;
    modem->digits = 0;
    take_half(modem, modem->letter);
}

/* "> ": the text may come. */
static bool is_prompt(const struct cup_modem *modem, char byte)
{
    return modem->step == TO && modem->used == 0 && byte == '>';
}

void cup_modem_take(struct cup_modem *modem, uint32_t now_ms, char byte)
{
    if (modem->step == QUIET)
        modem->since_ms = now_ms;
    if (modem->reads) {
        take_digit(modem, byte);
        return;
    }
    if (is_prompt(modem, byte)) {
        go(modem, now_ms, TEXT);
        return;
    }
    if (byte != '\n' && byte != '\r') {
        if (modem->used < CUP_MODEM_LINE - 1)
            modem->line[modem->used++] = byte;
        return;
    }
    if (modem->used < CUP_MODEM_LINE)
        modem->line[modem->used] = '\0';
    if (modem->used > 0)
        modem_take_line(modem, now_ms);
    modem->used = 0;
}

/* The next letter of the text, or its end. */
static void put_letter(struct cup_modem *modem, uint32_t now_ms)
{
    char *out = modem->out;
    modem->out_at = 0;
    if (modem->at >= modem->end) {
        go(modem, now_ms, SENT);
        modem->out[0] = END_OF_TEXT;
        modem->out_used = 1;
        return;
    }
    uint32_t letter = cup_letter(modem, &modem->at);
    if (letter > 0xffffu) {
        letter -= 0x10000u;
        out = cup_put_digits(out, (uint16_t)(0xd800u | letter >> 10));
        letter = 0xdc00u | (letter & 0x3ffu);
    }
    out = cup_put_digits(out, (uint16_t)letter);
    modem->out_used = (uint8_t)(out - modem->out);
}

/* How long a step may take, in the order of the steps. */
static CUP_FLASH uint32_t patience[] = {
    QUIET_MS,  ANSWER_MS, ANSWER_MS, ANSWER_MS, PIN_MS,    LOCKED_MS, ANSWER_MS,
    ANSWER_MS, ANSWER_MS, ANSWER_MS, ANSWER_MS, ANSWER_MS, ANSWER_MS, ANSWER_MS,
    ANSWER_MS, ANSWER_MS, PROMPT_MS, ANSWER_MS, SENT_MS};
CUP_ASSERT(sizeof(patience) / sizeof(patience[0]) == SENT + 1,
           "each step has its time");

static uint32_t patience_of(enum cup_step step)
{
    return step <= SENT ? patience[step] : ANSWER_MS;
}

/* What was waited for has not come. */
static void pass(struct cup_modem *modem, uint32_t now_ms)
{
    enum cup_step step = (enum cup_step)modem->step;
    if (step == REST) {
        rest(modem, now_ms);
        return;
    }
    if (now_ms - modem->since_ms < patience_of(step))
        return;
    if (step == QUIET)
        go(modem, now_ms, HELLO);
    else if (step == LOCKED)
        go(modem, now_ms, PIN_ASKED);
    else {
        fall_silent(modem, now_ms);
        if (step == TO) { /* it may wait for a text yet */
            modem->out[0] = NEVER_MIND;
            modem->out_used = 1;
        }
    }
}

bool cup_modem_give(struct cup_modem *modem, uint32_t now_ms, char *byte)
{
    if (modem->out_at == modem->out_used && modem->step == TEXT)
        put_letter(modem, now_ms);
    if (modem->out_at == modem->out_used)
        pass(modem, now_ms);
    if (modem->out_at >= modem->out_used || modem->out_at >= CUP_MODEM_OUT)
        return false;
    *byte = modem->out[modem->out_at++];
    return true;
}

/* Opening */

/* Four to eight digits; what else goes into a command might be another. */
static void set_pin(struct cup_modem *modem, const char *pin)
{
    uint8_t digits = 0;
    while (pin && digits < CUP_PIN_SIZE - 1 && pin[digits] >= '0' &&
           pin[digits] <= '9') {
        modem->pin[digits] = pin[digits];
        digits++;
    }
    if (digits < 4u || pin[digits] != '\0')
        digits = 0;
    modem->pin[digits] = '\0';
}

void cup_modem_open(struct cup_modem *modem, uint32_t now_ms, const char *pin)
{
    *modem = (struct cup_modem){
        .looks = true, .network_ms = now_ms, .looked_ms = now_ms};
    set_pin(modem, pin);
    go(modem, now_ms, QUIET);
}

void cup_modem_pin(struct cup_modem *modem, uint32_t now_ms, const char *pin)
{
    set_pin(modem, pin);
    modem->pin_tried = false;
    if (modem->step != LOCKED)
        return;
    modem->is = CUP_MODEM_STARTING;
    go(modem, now_ms, PIN_ASKED);
}

bool cup_modem_send(struct cup_modem *modem, const char *to, const char *text)
{
    if (modem->is != CUP_MODEM_READY || modem->sending == CUP_SENDING_NOW ||
        !cup_is_number(to))
        return false;
    uint16_t length = 0;
    bool blank = true;
    for (; length < CUP_TEXT_MOST && text[length] != '\0'; length++)
        blank = blank && text[length] == ' ';
    if (blank)
        return false;
    modem->length = length;
    modem->text = text;
    modem->at = 0;
    for (uint8_t i = 0; i < CUP_NUMBER_SIZE; i++) {
        modem->to[i] = to[i];
        if (to[i] == '\0')
            break;
    }
    modem->to[CUP_NUMBER_SIZE - 1] = '\0';
    modem->sending = CUP_SENDING_NOW;
    return true;
}

enum cup_sending cup_modem_sending(const struct cup_modem *modem)
{
    return (enum cup_sending)modem->sending;
}

enum cup_modem_is cup_modem_is(const struct cup_modem *modem)
{
    return (enum cup_modem_is)modem->is;
}

uint16_t cup_modem_sent(const struct cup_modem *modem)
{
    return modem->sent;
}

const struct cup_message *cup_modem_heard(const struct cup_modem *modem)
{
    return modem->has && !modem->forgets ? &modem->heard : NULL;
}

void cup_modem_forget(struct cup_modem *modem)
{
    modem->forgets = modem->has;
}
