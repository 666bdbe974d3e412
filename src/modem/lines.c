/* Lines of a modem, and letters on their way in. */
#include "modem_inside.h"

#define SECONDS_OF_DAY 86400u
/* Days from 1970 to 2000. */
#define DAYS_TO_2000 10957u

/* Of the line; 0 past its end. */
static char at_of(const struct cup_modem *modem, uint8_t at)
{
    if (at >= CUP_MODEM_LINE)
        return '\0';
    return modem->line[at];
}

bool cup_begins(const struct cup_modem *modem, CUP_FLASH char *word)
{
    for (uint8_t at = 0; word[at] != '\0'; at++)
        if (at_of(modem, at) != word[at])
            return false;
    return true;
}

bool cup_is_word(const struct cup_modem *modem, CUP_FLASH char *word)
{
    uint8_t length = 0;
    while (word[length] != '\0')
        length++;
    return cup_begins(modem, word) && at_of(modem, length) == '\0';
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
    while (digits < 15u && text[digits + 1u] >= '0' && text[digits + 1u] <= '9')
        digits++;
    return text[digits + 1u] == '\0' && digits >= 7u;
}

/* Past so many commas from a place on that are not within quotes. */
static uint8_t past_commas(const struct cup_modem *modem, uint8_t at,
                           uint8_t commas)
{
    bool quoted = false;
    for (; commas > 0 && at < CUP_MODEM_LINE; at++) {
        char byte = at_of(modem, at);
        if (byte == '\0')
            return CUP_MODEM_LINE;
        quoted ^= byte == '"';
        if (byte == ',' && !quoted)
            commas--;
    }
    return at;
}

/* Where a field begins; CUP_MODEM_LINE: there is none. */
static uint8_t field_of(const struct cup_modem *modem, uint8_t which)
{
    uint8_t at = 0;
    while (at < CUP_MODEM_LINE && at_of(modem, at) != ':')
        at++;
    at = past_commas(modem, (uint8_t)(at + 1u), which);
    while (at < CUP_MODEM_LINE && at_of(modem, at) == ' ')
        at++;
    return at < CUP_MODEM_LINE ? at : CUP_MODEM_LINE;
}

uint16_t cup_read_field(const struct cup_modem *modem, uint8_t which)
{
    uint8_t at = field_of(modem, which);
    uint16_t number = 0;
    uint8_t digit = cup_digit(at_of(modem, at));
    if (digit > 9u)
        return UINT16_MAX;
    for (; digit <= 9u; digit = cup_digit(at_of(modem, ++at))) {
        if (number > 6000u || at == CUP_MODEM_LINE)
            return UINT16_MAX;
        number = (uint16_t)(number * 10u + digit);
    }
    return number;
}

/* Four digits as one sign of ASCII; 0: they are not. */
static char sign_of(const struct cup_modem *modem, uint8_t at)
{
    uint32_t half = 0;
    for (uint8_t i = 0; i < 4u; i++) {
        uint8_t digit = cup_digit(at_of(modem, (uint8_t)(at + i)));
        if (digit > 15u)
            return '\0';
        half = half * 16u + digit;
    }
    if (half >= 0x80u)
        return '\0';
    return (char)half;
}

/* Within quotes, as it is or each sign as four digits. What is longer than a
 * number is none. */
static void modem_read_number(struct cup_modem *modem, uint8_t at)
{
    uint8_t used = 0;
    bool plain =
        at_of(modem, at) != '"' || at_of(modem, (uint8_t)(at + 1)) == '+';
    if (at_of(modem, at) == '"')
        at++;
    while (used < CUP_NUMBER_SIZE - 1 && at < CUP_MODEM_LINE &&
           at_of(modem, at) != '"') {
        char sign = at_of(modem, at);
        if (!plain)
            sign = sign_of(modem, at);
        if (sign == '\0')
            break;
        modem->heard.from[used++] = sign;
        at = (uint8_t)(at + (plain ? 1 : 4));
    }
    if (at_of(modem, at) != '"')
        used = 0;
    modem->heard.from[used] = '\0';
}

/* Two digits; more than 99: they are not. */
static uint8_t two_digits(const struct cup_modem *modem, uint8_t at)
{
    uint8_t tens = cup_digit(at_of(modem, at));
    uint8_t ones = cup_digit(at_of(modem, (uint8_t)(at + 1)));
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

/* "26/11/29": days since 1970; 0: it is none. */
static uint32_t read_days(const struct cup_modem *modem, uint8_t at)
{
    uint8_t year = two_digits(modem, at);
    uint8_t month = two_digits(modem, (uint8_t)(at + 3u));
    uint8_t day = two_digits(modem, (uint8_t)(at + 6u));
    if (year > 99u || month < 1u || month > 12u || day < 1u || day > 31u)
        return 0;
    return DAYS_TO_2000 + days_before(year, month) + day - 1u;
}

/* "18:05:22"; a day or more: it is none. */
static uint32_t read_seconds(const struct cup_modem *modem, uint8_t at)
{
    uint32_t hour = two_digits(modem, at);
    uint32_t minute = two_digits(modem, (uint8_t)(at + 3u));
    uint32_t second = two_digits(modem, (uint8_t)(at + 6u));
    if (hour > 23u || minute > 59u || second > 59u)
        return SECONDS_OF_DAY;
    return (hour * 60u + minute) * 60u + second;
}

/* "26/11/29,18:05:22+04", quarters of an hour ahead of UTC; 0: it is none. */
static uint32_t read_time(const struct cup_modem *modem, uint8_t at)
{
    uint32_t days = read_days(modem, at);
    uint32_t seconds = read_seconds(modem, (uint8_t)(at + 9u));
    uint32_t quarters = two_digits(modem, (uint8_t)(at + 18u));
    if (days == 0 || seconds == SECONDS_OF_DAY || quarters > 96u)
        return 0;
    uint32_t ahead = quarters * 900u;
    seconds += days * SECONDS_OF_DAY;
    return at_of(modem, (uint8_t)(at + 17u)) == '-' ? seconds + ahead
                                                    : seconds - ahead;
}

bool cup_read_head(struct cup_modem *modem)
{
    uint8_t number = field_of(modem, 1);
    uint8_t time = field_of(modem, 3);
    if (number == CUP_MODEM_LINE || time == CUP_MODEM_LINE)
        return false;
    modem_read_number(modem, number);
    modem->heard.sent_s =
        at_of(modem, time) == '"' ? read_time(modem, (uint8_t)(time + 1)) : 0;
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
    uint8_t first = (uint8_t)letter;
    if (after > 0)
        first = (uint8_t)(firsts[after] + six_of(letter, after));
    text[modem->text_used++] = (char)first;
    while (after > 0) {
        after--;
        text[modem->text_used++] =
            (char)(uint8_t)(0x80u + six_of(letter, after));
    }
    text[modem->text_used] = '\0';
}
