/* range-bytes: a value comes only of four bytes whose sum is right. */
#include <stdlib.h>

#include "cuplatch/decode.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    struct cup_stream_state state = {{0}, 0};
    for (size_t i = 0; i < count; i++) {
        struct cup_heard heard = cup_range_bytes(&state, bytes[i]);
        if (!heard.complete)
            continue;
        if (i < 3 || bytes[i - 3] != 0xFF ||
            (uint8_t)(bytes[i - 3] + bytes[i - 2] + bytes[i - 1]) != bytes[i] ||
            heard.raw != (bytes[i - 2] << 8 | bytes[i - 1]))
            abort();
    }
    return 0;
}
