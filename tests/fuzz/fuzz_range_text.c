/* range-text: a value comes only of a whole line of a letter and digits. */
#include <ctype.h>
#include <stdlib.h>

#include "cuplatch/decode.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

static bool is_line_end(uint8_t byte)
{
    return byte == '\r' || byte == '\n';
}

static int32_t number_before(const uint8_t *bytes, size_t end)
{
    size_t at = end;
    int32_t number = 0;
    while (at > 0 && isdigit(bytes[at - 1]))
        at--;
    bool letter = at > 0 && isalpha(bytes[at - 1]);
    if (!letter || (at > 1 && !is_line_end(bytes[at - 2])))
        return -1;
    if (end - at < 1 || end - at > 5)
        return -1;
    while (at < end)
        number = number * 10 + bytes[at++] - '0';
    return number;
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    struct cup_stream_state state = {{0}, 0};
    for (size_t i = 0; i < count; i++) {
        struct cup_heard heard = cup_range_text(&state, bytes[i]);
        if (heard.complete && heard.raw != number_before(bytes, i))
            abort();
    }
    return 0;
}
