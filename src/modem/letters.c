/* Letters on their way out: UTF-8, the alphabet of TS 23.038, UCS2 in digits.
 */
#include "modem_inside.h"

#define REPLACEMENT '?'
/* "[]{}\~^|" take two, and so does the euro sign. */
#define EURO 0x20acu

/* Letters past ASCII of the alphabet, in the order of their codes. */
static CUP_FLASH uint16_t beyond[] = {
    0x00a1, 0x00a3, 0x00a4, 0x00a5, 0x00a7, 0x00bf, 0x00c4, 0x00c5,
    0x00c6, 0x00c7, 0x00c9, 0x00d1, 0x00d6, 0x00d8, 0x00dc, 0x00df,
    0x00e0, 0x00e4, 0x00e5, 0x00e6, 0x00e8, 0x00e9, 0x00ec, 0x00f1,
    0x00f2, 0x00f6, 0x00f8, 0x00f9, 0x00fc, 0x0393, 0x0394, 0x0398,
    0x039b, 0x039e, 0x03a0, 0x03a3, 0x03a6, 0x03a8, 0x03a9};
#define BEYOND_COUNT (sizeof(beyond) / sizeof(beyond[0]))

/* How many bytes come after the first one, and the bits of that; 4: it is
 * none. */
static uint8_t rest_of(uint8_t first, uint32_t *bits)
{
    uint8_t count = 4;
    if (first < 0x80u) {
        count = 0;
        *bits = first;
    } else if (first >= 0xc2u && first < 0xe0u) {
        count = 1;
        *bits = first & 0x1fu;
    } else if (first >= 0xe0u && first < 0xf0u) {
        count = 2;
        *bits = first & 0x0fu;
    } else if (first >= 0xf0u && first < 0xf5u) {
        count = 3;
        *bits = first & 0x07u;
    }
    return count;
}

/* 0 past the end. */
static uint8_t byte_at(const struct cup_modem *modem, uint16_t at)
{
    return modem->text && at < modem->length ? (uint8_t)modem->text[at] : 0;
}

/* What follows the first byte of a letter; past what belongs to it. */
static uint32_t letter_after(const struct cup_modem *modem, uint16_t *at,
                             uint8_t count, uint32_t bits)
{
    uint32_t letter = bits;
    for (uint8_t i = 0; i < count; i++) {
        uint8_t byte = byte_at(modem, *at);
        if ((byte & 0xc0u) != 0x80u)
            return REPLACEMENT;
        letter = letter << 6 | (byte & 0x3fu);
        ++*at;
    }
    return letter;
}

uint32_t cup_letter(const struct cup_modem *modem, uint16_t *at)
{
    uint32_t bits = 0;
    if (*at >= modem->length)
        return 0;
    uint8_t count = rest_of(byte_at(modem, *at), &bits);
    ++*at;
    if (count > 3)
        return REPLACEMENT;
    uint32_t letter = letter_after(modem, at, count, bits);
    if (letter < ' ' || letter == 0x7fu)
        return ' ';
    return letter > 0x10ffffu || (letter >> 11) == 0x1bu ? REPLACEMENT : letter;
}

static bool is_beyond(uint32_t letter)
{
    for (uint8_t i = 0; i < BEYOND_COUNT; i++)
        if (beyond[i] == letter)
            return true;
    return false;
}

uint8_t cup_letter_takes(uint32_t letter)
{
    static CUP_FLASH char twice[] = "[]{}\\~^|";
    if (letter == '`')
        return 0;
    for (uint8_t i = 0; twice[i] != '\0'; i++)
        if ((uint32_t)twice[i] == letter)
            return 2;
    if (letter == EURO)
        return 2;
    return letter < 0x80u || is_beyond(letter) ? 1 : 0;
}

static bool is_wide(const struct cup_modem *modem)
{
    uint16_t at = modem->at;
    for (uint32_t letter = cup_letter(modem, &at); letter != 0;
         letter = cup_letter(modem, &at))
        if (cup_letter_takes(letter) == 0)
            return true;
    return false;
}

uint16_t cup_message_end(const struct cup_modem *modem, bool *wide)
{
    uint16_t at = modem->at;
    uint16_t between = 0; /* the last blank that is past the first word */
    uint8_t room = CUP_MESSAGE_LETTERS;
    *wide = is_wide(modem);
    if (*wide)
        room = CUP_MESSAGE_WIDE;
    for (;;) {
        uint16_t before = at;
        uint32_t letter = cup_letter(modem, &at);
        uint8_t takes = cup_letter_takes(letter);
        if (*wide)
            takes = letter > 0xffffu ? 2 : 1;
        if (letter == 0)
            return before;
        if (letter == ' ' && before != modem->at)
            between = before;
        if (takes > room)
            return between != 0 ? between : before;
        room = (uint8_t)(room - takes);
    }
}

char *cup_put_digits(char *out, uint16_t half)
{
    for (uint8_t shift = 16; shift > 0; out++) {
        shift = (uint8_t)(shift - 4u);
        uint8_t digit = (uint8_t)((uint32_t)half >> shift & 0xfu);
        *out = (char)(digit < 10u ? '0' + digit : 'A' + digit - 10);
    }
    return out;
}
