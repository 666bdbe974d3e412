/* Lines of any bytes, as if a controller had said them, into a history in
 * memory: what is no line of one counts for nothing. */
#include <stdlib.h>
#include <string.h>

#include "../../serve/past/taker.h"
#include "bytes.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    char said[200];
    const char *at = (const char *)bytes;
    struct history *history =
        history_open(":memory:", HISTORY_WRITE, said, sizeof(said));
    if (!history || !history_begin(history))
        abort();
    struct taker *taker = taker_open(history);
    while (count > 0) {
        const char *end = memchr(at, '\n', count);
        size_t length = end ? (size_t)(end - at) : count;
        json_t *line = json_loadb(at, length, JSON_REJECT_DUPLICATES, NULL);
        if (line && !taker_line(taker, line, 1933761600))
            abort(); /* in memory nothing can fail */
        json_decref(line);
        length += end != NULL;
        at += length;
        count -= length;
    }
    if (!taker_gone(taker) || !history_commit(history))
        abort();
    taker_close(taker);
    history_close(history);
    return 0;
}
