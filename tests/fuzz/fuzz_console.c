/* Bytes of any kind on the console of a running site. */
#include <stdlib.h>
#include <string.h>

#include "../../sitefile/sitefile.h"
#include "bytes.h"
#include "cuplatch/console.h"
#include "cuplatch/say.h"

static void line(void *self, const char *text)
{
    (void)self;
    if (strlen(text) > 2 * CUP_NAME_MAX + 32 + CUP_SENTENCE_SIZE)
        abort();
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static struct cup_file *file;
    static uint32_t state[2048];
    static const struct cup_printer printer = {line, NULL};
    struct cup_console console = {.used = 0};
    struct cup_site site;
    if (!file)
        file = cup_file_read("examples/keeper/keeper.ini");
    const struct cup_plan *plan = file ? cup_file_plan(file) : NULL;
    if (!plan || cup_site_bind(&site, plan, state, sizeof(state)))
        abort();
    for (size_t i = 0; i < count; i++) {
        uint32_t now_ms = (uint32_t)(i * 997);
        cup_console_take(&console, &site, now_ms, (char)bytes[i], &printer);
        if (bytes[i] == '\n')
            cup_site_decide(&site, now_ms, NULL);
    }
    return 0;
}
