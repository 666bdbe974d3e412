/* Lines of a modem, and letters on their way in. */
#include "inside.h"

#define SECONDS_OF_DAY 86400u
/* Days from 1970 to 2000. */
#define DAYS_TO_2000 10957u

bool cup_begins(const char *line, CUP_FLASH char *word)
{
    while (*word != '\0')
        if (*line++ != *word++)
            return false;
    return true;
}

uint8_t cup_digit(char byte)
{
    if (byte >= '0' && byte <= '9')
        return (uint8_t)(byte - '0');
    if (byte >= 'A' && byte <= 'F')
        return (uint8_t)(byte - 'A' + 10);
    if (byte >= 'a' && byte <= 'f')
        return (uint8_t)(byte - 'a' + 10);
    return 16;
}

bool cup_is_number(const char *text)
{
    uint8_t digits = 0;
    if (text[0] != '+' || text[1] == '0')
        return false;
    for (text++; *text >= '0' && *text <= '9' && digits < CUP_NUMBER_SIZE;
         text++)
        digits++;
    return *text == '\0' && digits >= 7u && digits <= 15u;
}

/* Past the colon and so many commas that are not within quotes; null: there
 * are fewer. */
static const char *field_of(const char *line, uint8_t which)
{
    bool quoted = false;
    while (*line != '\0' && *line != ':')
        line++;
    if (*line == '\0')
        return NULL;
    for (line++; which > 0; line++) {
        if (*line == '\0')
            return NULL;
        quoted ^= *line == '"';
        if (*line == ',' && !quoted)
            which--;
    }
    while (*line == ' ')
        line++;
    return line;
}

uint16_t cup_read_field(const char *line, uint8_t which)
{
    const char *at = field_of(line, which);
    uint16_t number = 0;
    if (!at || *at < '0' || *at > '9')
        return UINT16_MAX;
    for (; *at >= '0' && *at <= '9'; at++) {
        if (number > 6000u)
            return UINT16_MAX;
        number = (uint16_t)(number * 10u + (uint16_t)(*at - '0'));
    }
    return number;
}

/* Four digits as one sign of ASCII; 0: they are not. */
static char sign_of(const char *digits)
{
    uint16_t half = 0;
    for (uint8_t i = 0; i < 4; i++) {
        uint8_t digit = cup_digit(digits[i]);
        if (digit > 15u)
            return '\0';
        half = (uint16_t)(half << 4 | digit);
    }
    return half < 0x80u ? (char)half : '\0';
}

/* Within quotes, as it is or each sign as four digits. What is longer than a
 * number is none. */
static void read_number(const char *at, char number[CUP_NUMBER_SIZE])
{
    uint8_t used = 0;
    bool plain = *at != '"' || at[1] == '+';
    if (*at == '"')
        at++;
    while (*at != '\0' && *at != '"' && used < CUP_NUMBER_SIZE - 1) {
        char sign = plain ? *at : sign_of(at);
        if (sign == '\0')
            break;
        number[used++] = sign;
        at += plain ? 1 : 4;
    }
    if (*at != '"')
        used = 0;
    number[used] = '\0';
}

/* Two digits; more than 99: they are not. */
static uint8_t two_digits(const char *at)
{
    uint8_t tens = cup_digit(at[0]);
    uint8_t ones = tens > 9u ? 16u : cup_digit(at[1]);
    return tens > 9u || ones > 9u ? 100u : (uint8_t)(tens * 10u + ones);
}

static uint16_t days_before(uint8_t year, uint8_t month)
{
    static CUP_FLASH uint16_t months[] = {0,   31,  59,  90,  120, 151,
                                          181, 212, 243, 273, 304, 334};
    uint16_t leap = year % 4u == 0 && month > 2u ? 1u : 0u;
    uint16_t leaps = (uint16_t)((year + 3u) / 4u);
    uint16_t whole = (uint16_t)(365u * year);
    return (uint16_t)(whole + leaps + leap + months[month - 1u]);
}

/* "26/11/29,18:05:22+04", quarters of an hour ahead of UTC; 0: it is none. */
static uint32_t read_time(const char *at)
{
    static CUP_FLASH uint8_t most[] = {99, 12, 31, 23, 59, 59, 96};
    uint8_t parts[7];
    for (uint8_t i = 0; i < 7; i++) {
        parts[i] = two_digits(at);
        if (parts[i] > most[i] || (i < 6 && at[2] == '\0'))
            return 0;
        at += i < 6 ? 3 : 0;
    }
    if (parts[1] == 0 || parts[2] == 0)
        return 0;
    uint32_t days =
        DAYS_TO_2000 + days_before(parts[0], parts[1]) + parts[2] - 1u;
    uint32_t seconds =
        days * SECONDS_OF_DAY + parts[3] * 3600u + parts[4] * 60u + parts[5];
    uint32_t ahead = parts[6] * 900u;
    return at[-1] == '-' ? seconds + ahead : seconds - ahead;
}

bool cup_read_head(const char *line, struct cup_message *message)
{
    const char *number = field_of(line, 1);
    const char *time = field_of(line, 3);
    if (!number || !time)
        return false;
    read_number(number, message->from);
    message->sent_s = *time == '"' ? read_time(time + 1) : 0;
    return true;
}

/* Six bits of a letter, so many sixes up. */
static uint8_t six_of(uint32_t letter, uint8_t up)
{
    uint32_t bits = letter >> (6u * (uint32_t)up);
    return (uint8_t)(bits & 0x3fu);
}

/* How many bytes come after the first one. */
static uint8_t bytes_after(uint32_t letter)
{
    if (letter < 0x80u)
        return 0;
    if (letter < 0x800u)
        return 1;
    return letter < 0x10000u ? 2 : 3;
}

/* In UTF-8, if all of it fits. */
void cup_hear_letter(struct cup_modem *modem, uint32_t letter)
{
    static CUP_FLASH uint8_t firsts[] = {0x00, 0xc0, 0xe0, 0xf0};
    uint8_t after = bytes_after(letter);
    char *text = modem->heard.text;
    if (letter < ' ' || letter == 0x7fu)
        letter = ' ';
    if (modem->text_used + after + 1u >= CUP_MESSAGE_SIZE)
        return;
    text[modem->text_used++] =
        after == 0 ? (char)letter
                   : (char)(uint8_t)(firsts[after] + six_of(letter, after));
    while (after > 0) {
        after--;
        text[modem->text_used++] =
            (char)(uint8_t)(0x80u + six_of(letter, after));
    }
    text[modem->text_used] = '\0';
}
