/* The modem block with any bytes at any time, and any texts to be sent, for
 * Eva: nothing undefined, nothing out of bounds. */
#include "__fc_builtin.h"

#include "cuplatch/modem.h"

static uint32_t any(void)
{
    return Frama_C_unsigned_int_interval(0, UINT32_MAX);
}

/* Any text, with its end. */
static void any_text(char *text, size_t size)
{
    Frama_C_make_unknown(text, size);
    text[size - 1] = '\0';
}

int main(void)
{
    struct cup_modem modem;
    char pin[CUP_PIN_SIZE + 1], number[20], text[CUP_TEXT_MOST + 1];
    char byte;
    any_text(pin, sizeof(pin));
    any_text(number, sizeof(number));
    any_text(text, sizeof(text));
    cup_modem_open(&modem, any(), Frama_C_nondet(0, 1) ? pin : NULL);
    while (Frama_C_nondet(0, 1)) {
        cup_modem_take(&modem, any(), (char)Frama_C_interval(-128, 127));
        cup_modem_give(&modem, any(), &byte);
        if (Frama_C_nondet(0, 1))
            cup_modem_send(&modem, number, text);
        if (Frama_C_nondet(0, 1))
            cup_modem_pin(&modem, any(), pin);
        if (cup_modem_heard(&modem))
            cup_modem_forget(&modem);
        cup_modem_sending(&modem);
        cup_modem_is(&modem);
        cup_modem_sent(&modem);
    }
    return 0;
}
