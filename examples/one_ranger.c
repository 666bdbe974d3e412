/* The decoders of two rangers: a stream of bytes that begins in the middle of
 * a frame and holds a damaged one, and an echo in warm and in cold air. */
#include <stdio.h>

#include "cuplatch/decode.h"
#include "cuplatch/echo.h"

int main(void)
{
    static const uint8_t stream[] = {0xFA, 0xFD, 0xFF, 0x04, 0xFA, 0xFD, 0xFF,
                                     0x04, 0xFA, 0x00, 0xFF, 0x00, 0x26, 0x25};
    struct cup_stream_state state = {{0}, 0};
    for (size_t i = 0; i < sizeof(stream); i++) {
        struct cup_heard heard = cup_range_bytes(&state, stream[i]);
        if (heard.dropped)
            printf("a damaged frame\n");
        if (heard.complete)
            printf("%d mm\n", (int)heard.raw);
    }
    for (int32_t celsius = 0; celsius <= 30; celsius += 10) {
        struct cup_mean trip = {5210, 1};
        int32_t mm10 = cup_echo_mm10(trip, celsius * 100, 0);
        printf("an echo of 5210 us at %2d C: %d.%d mm\n", (int)celsius,
               (int)(mm10 / 10), (int)(mm10 % 10));
    }
    return 0;
}
