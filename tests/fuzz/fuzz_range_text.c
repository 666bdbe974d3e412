/* range-text: a value comes only of a whole line of a letter and digits. */
#include <ctype.h>
#include <stdlib.h>

#include "cuplatch/decode.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

static int32_t number_before(const uint8_t *bytes, size_t end)
{
    size_t at = end;
    while (at > 0 && isdigit(bytes[at - 1]))
        at--;
    bool whole = at > 0 && isalpha(bytes[at - 1]) &&
                 (at == 1 || bytes[at - 2] == '\r' || bytes[at - 2] == '\n');
    if (!whole || end - at < 1 || end - at > 5)
        return -1;
    int32_t number = 0;
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
