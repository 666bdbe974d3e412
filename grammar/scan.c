/* Word by word, the value beside its form. */
#include "scan.h"

#include <stdarg.h>
#include <stdio.h>
#include <string.h>

#define BLANKS " \t"

/* How long the next word is, from which on `*at` stands then; 0: there is none.
 */
static size_t next_word(const char **at)
{
    *at += strspn(*at, BLANKS);
    return strcspn(*at, BLANKS);
}

static bool take(struct scanned *word, const char *at, size_t length)
{
    if (length >= sizeof(word->text))
        return false;
    snprintf(word->text, sizeof(word->text), "%.*s", (int)length, at);
    return true;
}

bool scan(const char *value, const char *form, ...)
{
    va_list words;
    va_start(words, form);
    bool fits = true;
    size_t length = next_word(&form);
    while (fits && length > 0) {
        size_t found = next_word(&value);
        if (length == 1 && *form == '*')
            fits = found > 0 &&
                   take(va_arg(words, struct scanned *), value, found);
        else
            fits = found == length && strncmp(form, value, length) == 0;
        form += length;
        value += found;
        length = next_word(&form);
    }
    va_end(words);
    return fits && next_word(&value) == 0;
}

bool scan_next(const char **at, struct scanned *word)
{
    size_t length = next_word(at);
    snprintf(word->text, sizeof(word->text), "%.*s", (int)length, *at);
    *at += length;
    return length > 0;
}
