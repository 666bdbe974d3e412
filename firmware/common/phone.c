#include "phone.h"

#ifdef BOARD_PHONE

#include "cuplatch/console.h"
#include "cuplatch/modem.h"

/* Texts that wait; the oldest goes first, and what finds no room is told by the
 * next alert's repeat. */
#define WAITING 3
#define TEXT_SIZE 200
/* Bytes that go out in a turn: 8 ms at 38400 baud. */
#define BYTES_A_TURN 32
#define TURN_MS 10
#define AGAIN_MS 30000

static CUP_FLASH char number[] = BOARD_PHONE;
static struct cup_modem modem;
static char waiting[WAITING][TEXT_SIZE];
static uint8_t count;
static uint32_t failed_ms;
static bool began, fails;

static void append_byte(char *text, char byte)
{
    uint8_t used = 0;
    while (text[used] != '\0')
        used++;
    if (used == TEXT_SIZE - 1)
        return;
    text[used] = byte;
    text[used + 1] = '\0';
}

/* Of flash, and of RAM. */
static void append(char *text, CUP_FLASH char *more)
{
    while (*more != '\0')
        append_byte(text, *more++);
}

static void append_text(char *text, const char *more)
{
    while (*more != '\0')
        append_byte(text, *more++);
}

/* A new text at the end; null: there is no room. */
static char *new_text(void)
{
    if (count == WAITING)
        return NULL;
    char *text = waiting[count++];
    text[0] = '\0';
    return text;
}

void phone_event(const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    bool calls = event->kind == CUP_KIND_ALERT ||
                 event->kind == CUP_KIND_TRIP || event->kind == CUP_KIND_LOCK ||
                 event->kind == CUP_KIND_LEAK;
    char *text = calls ? new_text() : NULL;
    if (!text)
        return;
    cup_say_event(why, sizeof(why), baked.plan, event);
    append(text, cup_thing_name(baked.plan, event->of));
    append(text, CUP_TEXT(": "));
    append_text(text, why);
}

/* Words */

static void answer_line(void *self, const char *line)
{
    char *text = self;
    if (text[0] != '\0')
        append(text, CUP_TEXT("; "));
    append_text(text, line);
}

static bool ends_with(const char *text, CUP_FLASH char *end)
{
    uint8_t length = 0;
    while (end[length] != '\0')
        length++;
    uint8_t used = 0;
    while (text[used] != '\0')
        used++;
    if (used < length)
        return false;
    for (uint8_t i = 0; i < length; i++)
        if (text[used - length + i] != end[i])
            return false;
    return true;
}

static void make_small(char *small, const char *text)
{
    uint8_t used = 0;
    for (; *text != '\0' && used < CUP_MESSAGE_SIZE - 1; text++)
        small[used++] =
            *text >= 'A' && *text <= 'Z' ? (char)(*text + 32) : *text;
    small[used] = '\0';
}

/* What does not only stop is a question, whatever it says. */
static void take_words(uint32_t now_ms, const char *words)
{
    char line[TEXT_SIZE];
    char small[CUP_MESSAGE_SIZE];
    char *text = new_text();
    if (!text)
        return;
    make_small(small, words);
    bool stops = ends_with(small, CUP_TEXT(" off")) ||
                 ends_with(small, CUP_TEXT("site hold"));
    bool asks = small[0] == 'a' && small[1] == 's' && small[2] == 'k';
    line[0] = '\0';
    if (!stops && !asks)
        append(line, CUP_TEXT("ask "));
    append_text(line, small);
    const struct cup_printer printer = {answer_line, text};
    (void)!cup_console_line(&baked, now_ms, line, &printer);
}

static bool is_known(const char *from)
{
    uint8_t i = 0;
    while (number[i] != '\0' && from[i] == number[i])
        i++;
    return number[i] == '\0' && from[i] == '\0';
}

static void hear(uint32_t now_ms)
{
    const struct cup_message *heard = cup_modem_heard(&modem);
    if (!heard || count == WAITING)
        return;
    if (is_known(heard->from))
        take_words(now_ms, heard->text);
    cup_modem_forget(&modem);
}

static void drop_first(void)
{
    count--;
    for (uint8_t i = 0; i < count; i++)
        for (uint8_t at = 0; at < TEXT_SIZE; at++)
            waiting[i][at] = waiting[i + 1][at];
}

static void send(uint32_t now_ms)
{
    static bool sends;
    enum cup_sending is = cup_modem_sending(&modem);
    if (sends && is != CUP_SENDING_NOW) {
        sends = false;
        fails = is == CUP_SENDING_FAILED;
        failed_ms = now_ms;
        if (!fails)
            drop_first();
    }
    if (count == 0 || sends ||
        (fails && cup_left(now_ms, failed_ms, AGAIN_MS) > 0))
        return;
    char to[TEXT_SIZE];
    to[0] = '\0';
    append(to, number);
    sends = cup_modem_send(&modem, to, waiting[0]);
}

uint32_t phone_turn(uint32_t now_ms)
{
    char byte;
    int heard;
    uint8_t said = 0;
    if (!began)
        cup_modem_open(&modem, now_ms, NULL);
    began = true;
    while ((heard = board_modem_heard()) >= 0)
        cup_modem_take(&modem, now_ms, (char)heard);
    for (; said < BYTES_A_TURN && cup_modem_give(&modem, now_ms, &byte); said++)
        board_modem_say(byte);
    hear(now_ms);
    send(now_ms);
    return said > 0 || count > 0 ? TURN_MS : 100;
}

#endif
