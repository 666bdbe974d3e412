/* What goes out: a command for each step. */
#include "modem_inside.h"

static void modem_put(struct cup_modem *modem, CUP_FLASH char *text)
{
    while (*text != '\0' && modem->out_used < CUP_MODEM_OUT)
        modem->out[modem->out_used++] = *text++;
}

/* A text of at most so many signs. */
static void modem_put_text(struct cup_modem *modem, const char *text,
                           uint8_t most)
{
    for (uint8_t i = 0; i < most && text[i] != '\0'; i++)
        if (modem->out_used < CUP_MODEM_OUT)
            modem->out[modem->out_used++] = text[i];
}

static void modem_put_number(struct cup_modem *modem, uint16_t number)
{
    char digits[5];
    uint8_t at = sizeof(digits);
    do {
        digits[--at] = (char)('0' + number % 10u);
        number = (uint16_t)(number / 10u);
    } while (number > 0 && at > 0);
    modem_put_text(modem, &digits[at], (uint8_t)(sizeof(digits) - at));
}

/* Of the number each sign as digits, four each. */
static void put_to(struct cup_modem *modem)
{
    for (uint8_t i = 0; i < CUP_NUMBER_SIZE && modem->to[i] != '\0'; i++) {
        if (modem->out_used + 4u > CUP_MODEM_OUT)
            break;
        cup_put_digits(&modem->out[modem->out_used], (uint8_t)modem->to[i]);
        modem->out_used = (uint8_t)(modem->out_used + 4u);
    }
}

/* Steps whose command is always the same. */
static CUP_FLASH char *command_of(enum cup_step step)
{
    switch (step) {
    case HELLO:
        return CUP_TEXT("AT");
    case ECHO_OFF:
        return CUP_TEXT("ATE0");
    case PIN_ASKED:
        return CUP_TEXT("AT+CPIN?");
    case FORM:
        return CUP_TEXT("AT+CMGF=1");
    case LETTERS:
        return CUP_TEXT("AT+CSCS=\"UCS2\"");
    case TOLD:
        return CUP_TEXT("AT+CNMI=2,1,0,0,0");
    case NETWORK:
        return CUP_TEXT("AT+CREG?");
    case NETWORK_LATER:
        return CUP_TEXT("AT+CEREG?");
    case COUNT:
        return CUP_TEXT("AT+CPMS?");
    default:
        return NULL;
    }
}

void cup_put_command(struct cup_modem *modem, enum cup_step step)
{
    CUP_FLASH char *command = command_of(step);
    if (command) {
        modem_put(modem, command);
    } else if (step == PIN_GIVEN) {
        modem_put(modem, CUP_TEXT("AT+CPIN=\""));
        modem_put_text(modem, modem->pin, CUP_PIN_SIZE);
        modem_put(modem, CUP_TEXT("\""));
    } else if (step == READ || step == FORGET) {
        modem_put(modem,
                  step == READ ? CUP_TEXT("AT+CMGR=") : CUP_TEXT("AT+CMGD="));
        modem_put_number(modem, modem->place);
    } else if (step == KIND) {
        modem_put(modem, modem->wide ? CUP_TEXT("AT+CSMP=17,167,0,8")
                                     : CUP_TEXT("AT+CSMP=17,167,0,0"));
    } else if (step == TO) {
        modem_put(modem, CUP_TEXT("AT+CMGS=\""));
        put_to(modem);
        modem_put(modem, CUP_TEXT("\""));
    } else {
        return; /* it has none */
    }
    modem_put(modem, CUP_TEXT("\r"));
}
