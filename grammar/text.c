/* UTF-8, letter by letter. */
#include "text.h"

#include <stdbool.h>
#include <stdint.h>
#include <stdio.h>
#include <string.h>

/* How many bytes the letter that begins so has; 0 when none begins so. */
static size_t length_of(unsigned char first)
{
    if (first < 0x80)
        return 1;
    if (first >= 0xC2 && first < 0xE0)
        return 2;
    if (first >= 0xE0 && first < 0xF0)
        return 3;
    return first >= 0xF0 && first < 0xF5 ? 4 : 0;
}

/* The letter at `text`, of which `left` bytes are there: how long it is, and
 * its number. 0 when it is none; it is `cut` when only its end is missing. */
static size_t letter(const char *text, size_t left, uint32_t *code, bool *cut)
{
    static const uint32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
    const unsigned char *bytes = (const unsigned char *)text;
    size_t length = length_of(bytes[0]);
    *cut = false;
    *code = length < 2 ? bytes[0] : bytes[0] & (0x7Fu >> length);
    for (size_t i = 1; i < length; i++) {
        *cut = i == left;
        if (*cut || (bytes[i] & 0xC0) != 0x80)
            return 0;
        *code = *code << 6 | (bytes[i] & 0x3F);
    }
    bool twin = *code >= 0xD800 && *code < 0xE000;
    return *code < least[length] || twin || *code > 0x10FFFF ? 0 : length;
}

static bool steers(uint32_t code)
{
    return (code < 0x20 && code != '\t') || (code >= 0x7F && code < 0xA0);
}

const char *text_wrong(const char *text, size_t length, size_t *at)
{
    uint32_t code;
    bool cut;
    for (size_t i = 0; i < length;) {
        size_t bytes = letter(text + i, length - i, &code, &cut);
        *at = i;
        if (bytes == 0)
            return "is not UTF-8";
        if (code == 0)
            return "is a zero byte";
        if (steers(code))
            return "is a control character";
        i += bytes;
    }
    return NULL;
}

char *text_mend(char *text)
{
    uint32_t code;
    bool cut;
    size_t length = strlen(text);
    for (size_t i = 0; i < length;) {
        size_t bytes = letter(text + i, length - i, &code, &cut);
        if (bytes == 0 && cut) {
            text[i] = '\0';
            break;
        }
        if (bytes == 0 || steers(code))
            memset(text + i, '?', bytes ? bytes : 1);
        i += bytes ? bytes : 1;
    }
    return text;
}

char *text_cut(char *to, size_t size, const char *text)
{
    snprintf(to, size, "%s", text);
    return text_mend(to);
}

size_t text_mark(const char *text)
{
    static const char mark[] = "\xEF\xBB\xBF";
    size_t length = sizeof(mark) - 1;
    return strncmp(text, mark, length) == 0 ? length : 0;
}
