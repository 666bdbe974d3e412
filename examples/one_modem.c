/* A text message and nothing else: what goes to a modem and comes back, by a
 * modem that is two dozen lines. */
#include <stdio.h>
#include <string.h>

#include "cuplatch/modem.h"

/* What a modem says to a line of ours. */
static const char *answer(const char *line)
{
    if (strstr(line, "+CPIN?"))
        return "\r\n+CPIN: READY\r\n\r\nOK\r\n";
    if (strstr(line, "+CREG?"))
        return "\r\n+CREG: 0,1\r\n\r\nOK\r\n";
    if (strstr(line, "+CPMS?"))
        return "\r\n+CPMS: \"SM\",0,20\r\n\r\nOK\r\n";
    if (strstr(line, "+CMGS="))
        return "\r\n> ";
    if (strchr(line, '\x1a'))
        return "\r\n+CMGS: 1\r\n\r\nOK\r\n";
    return "\r\nOK\r\n";
}

int main(void)
{
    struct cup_modem modem;
    char line[700];
    size_t used = 0;
    cup_modem_open(&modem, 0, NULL);
    for (uint32_t now_ms = 0; now_ms < 5000; now_ms += 100) {
        char byte;
        while (cup_modem_give(&modem, now_ms, &byte)) {
            line[used++] = byte;
            if (byte != '\r' && byte != '\x1a')
                continue;
            line[used] = '\0';
            printf("> %.*s\n", (int)strcspn(line, "\r\x1a"), line);
            for (const char *at = answer(line); *at; at++)
                cup_modem_take(&modem, now_ms, *at);
            used = 0;
        }
        if (cup_modem_sending(&modem) == CUP_SENDING_NOTHING)
            (void)cup_modem_send(&modem, "+990100200300", "tank 4 %");
    }
    puts(cup_modem_sending(&modem) == CUP_SENDING_DONE ? "sent" : "not sent");
    return 0;
}
