/* A site, a garden and a fault of any words through `rehearse --out`, with a
 * gnuplot that takes nothing but our own script. */
#include <stdlib.h>
#include <string.h>

#include "../../cli/common/cli.h"
#include "bytes.h"

/* What the site's name is in a site that is right otherwise. */
static const char *site_of(const uint8_t *bytes, size_t count)
{
    static const char rest[] =
        "\n[soil]\nis = sensor\nmeasures = moisture\nform = counts\n"
        "port = adc:0\ndry = 1000\nwet = 0\nevery = 10s\n"
        "[lift]\nis = pump\nport = relay:0\nlongest = 5m\n"
        "[bed]\nis = duty\nrun = lift\nkeep = soil\nstart = 30%\n"
        "stop = 60%\n";
    static char text[9000];
    size_t most = count < 180 ? count : 180;
    int head = snprintf(text, sizeof(text), "[site]\nname = %.*s", (int)most,
                        (const char *)bytes);
    size_t length = (size_t)head;
    memcpy(text + length, rest, sizeof(rest) - 1);
    length += sizeof(rest) - 1;
    return bytes_as_file((const uint8_t *)text, length);
}

static void rehearse(const char *site)
{
    char garden[] = FUZZ_DIR "/garden.ini";
    const char *words[] = {"rehearse", site,   "--garden", garden,
                           "--days",   "0.01", "--out",    folder_of_ours(),
                           NULL};
    rehearse_main(8, words);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    stand_in_for_gnuplot();
    rehearse(site_of(bytes, count));
    return 0;
}
