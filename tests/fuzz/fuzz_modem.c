/* Bytes of any kind from a modem, at any time, while texts are sent: whatever
 * comes back, what goes out is a command, and a PIN is given once. */
#include <stdlib.h>
#include <string.h>

#include "bytes.h"
#include "cuplatch/modem.h"

static const char to[] = "+990100200300";
static const char text[] =
    "lift tripped \xe6\xb0\xb4 and a text that is longer "
    "than what one message of these letters holds, so "
    "that there are two of them";

/* Of what goes out: how often a PIN was. */
struct out {
    char line[1000];
    size_t used;
    int pins;
};

static void take_out(struct out *out, char byte)
{
    if (byte == '\x1a' || byte == '\x1b') {
        out->used = 0;
        return;
    }
    if (byte != '\r') {
        if (out->used + 1 == sizeof(out->line) || byte < ' ')
            abort();
        out->line[out->used++] = byte;
        return;
    }
    out->line[out->used] = '\0';
    if (strncmp(out->line, "AT", 2) != 0)
        abort();
    if (strncmp(out->line, "AT+CPIN=", 8) == 0 && ++out->pins > 1)
        abort();
    out->used = 0;
}

static void check_heard(struct cup_modem *modem)
{
    const struct cup_message *heard = cup_modem_heard(modem);
    if (!heard)
        return;
    if (strlen(heard->text) >= CUP_MESSAGE_SIZE ||
        strlen(heard->from) >= CUP_NUMBER_SIZE)
        abort();
    for (const char *at = heard->text; *at; at++)
        if ((unsigned char)*at < ' ')
            abort();
    cup_modem_forget(modem);
}

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    struct cup_modem modem;
    struct out out = {.used = 0};
    uint32_t now_ms = UINT32_MAX - 60000u;
    char byte;
    cup_modem_open(&modem, now_ms, "2718");
    for (size_t i = 0; i < count; i++) {
        /* a byte of 0x80 and more lets time pass, up to half a minute */
        if (bytes[i] >= 0x80)
            now_ms += (uint32_t)(bytes[i] - 0x7f) * 240u;
        else
            cup_modem_take(&modem, now_ms, (char)bytes[i]);
        while (cup_modem_give(&modem, now_ms, &byte))
            take_out(&out, byte);
        check_heard(&modem);
        (void)cup_modem_send(&modem, to, text);
    }
    return 0;
}
