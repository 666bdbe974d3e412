/* Text messages by a modem at a serial line: bytes in, bytes out, in the words
 * of 3GPP TS 27.007 (set-up) and TS 27.005 (messages, in text mode). No I/O, no
 * heap, one thing outstanding at a time; whatever comes in, and whatever does
 * not come, it goes on.
 *
 * In use, as often as a byte comes or may go, and every 100 ms:
 *
 *     struct cup_modem modem;
 *     cup_modem_open(&modem, now_ms, "2718");
 *     while (read_byte(&byte))
 *         cup_modem_take(&modem, now_ms, byte);
 *     while (can_write() && cup_modem_give(&modem, now_ms, &byte))
 *         write_byte(byte);
 *     if (cup_modem_heard(&modem))
 *         ... and cup_modem_forget(&modem);
 *     cup_modem_send(&modem, "+990100200300", "the tank is low"); */
#ifndef CUPLATCH_MODEM_H
#define CUPLATCH_MODEM_H

#include "base.h"

CUP_C_BEGINS

/* A number as ITU-T E.164 has it, international and whole: '+', 7 to 15 digits,
 * and a zero. */
#define CUP_NUMBER_SIZE 17

/* What one message holds (TS 23.040): 160 letters of the usual alphabet (TS
 * 23.038) or, if any is none of these, 70 of UCS2. */
#define CUP_MESSAGE_LETTERS 160
#define CUP_MESSAGE_WIDE 70

/* One that came, in UTF-8, with its zero; what is longer is cut. */
#define CUP_MESSAGE_SIZE (CUP_MESSAGE_LETTERS + 1)

/* The longest text that is sent, in bytes of UTF-8: three messages of plain
 * letters. */
#define CUP_TEXT_MOST 480

/* A PIN, and a zero. */
#define CUP_PIN_SIZE 9

/* The longest line of a modem that is looked at. */
#define CUP_MODEM_LINE 200
/* The longest command: a number of which each sign takes four digits. */
#define CUP_MODEM_OUT 80

/* How it is. LOCKED: there is no card, or it wants a PIN that was not given or
 * that it refused; that is not tried again. SEARCHING: there is no network. */
enum cup_modem_is {
    CUP_MODEM_STARTING,
    CUP_MODEM_ABSENT,
    CUP_MODEM_LOCKED,
    CUP_MODEM_SEARCHING,
    CUP_MODEM_READY
};

/* What became of what is to be sent. FAILED: refused, or nobody knows; it may
 * be tried again, and then come twice. */
enum cup_sending {
    CUP_SENDING_NOTHING,
    CUP_SENDING_NOW,
    CUP_SENDING_DONE,
    CUP_SENDING_FAILED
};

/* A message that came. `from` as the network says, which can be forged;
 * `sent_s` when the service centre had it, in s UTC since 1970, 0 if that
 * cannot be read. Control characters are blanks. */
struct cup_message {
    char from[CUP_NUMBER_SIZE];
    char text[CUP_MESSAGE_SIZE];
    uint32_t sent_s;
};

/* All of it is the block's own. About 540 bytes on 8 bits. */
struct cup_modem {
    char line[CUP_MODEM_LINE];
    char out[CUP_MODEM_OUT];
    struct cup_message heard;
    char pin[CUP_PIN_SIZE]; /* empty: none */
    char to[CUP_NUMBER_SIZE];
    const char *text; /* what is sent: of so many bytes, */
    uint16_t length;
    uint16_t at;            /* how far it is, */
    uint16_t end;           /* and up to where it goes now */
    uint32_t since_ms;      /* of the step */
    uint32_t network_ms;    /* when it was looked for last */
    uint32_t looked_ms;     /* and for messages */
    uint16_t high;          /* the first half of a letter beyond UCS2 */
    uint16_t letter;        /* of which digits are coming */
    uint16_t place, places; /* of messages in the modem: looked at, in all */
    uint16_t sent;
    uint16_t left; /* and those that are yet to be found */
    uint8_t used;  /* of the line */
    uint8_t out_used, out_at;
    uint8_t text_used; /* of what is being heard */
    uint8_t digits;
    uint8_t step;
    uint8_t is;
    uint8_t sending;
    uint8_t silences; /* commands in a row that nobody answered */
    bool pin_tried;
    bool wide;
    bool has;     /* a message is heard, */
    bool forgets; /* and may go */
    bool reads;   /* its text comes next */
    bool looks;   /* there are messages, or may be */
    bool got;     /* what the step waits for, besides OK */
};

/* Begins. `pin` is that of the card, 4 to 8 digits, null for none; it is tried
 * once. */
void cup_modem_open(struct cup_modem *modem, uint32_t now_ms, const char *pin);

/* A PIN, or another one, to be tried once, and at once where it is LOCKED. */
void cup_modem_pin(struct cup_modem *modem, uint32_t now_ms, const char *pin);

/* Takes a byte that came. */
void cup_modem_take(struct cup_modem *modem, uint32_t now_ms, char byte);

/* The next byte to go out; false when there is none now. Also what lets time
 * pass, so it is called though nothing comes. */
bool cup_modem_give(struct cup_modem *modem, uint32_t now_ms, char *byte);

/* Begins to send a text in UTF-8, in as many messages as it takes, cut between
 * words; past CUP_TEXT_MOST it is cut. The text must live until it is no longer
 * NOW. False when it is not READY, or at it already, or that is no number, or
 * there is no text. */
bool cup_modem_send(struct cup_modem *modem, const char *to, const char *text);

/* What became of it; DONE and FAILED are told until the next is sent. */
enum cup_sending cup_modem_sending(const struct cup_modem *modem);

enum cup_modem_is cup_modem_is(const struct cup_modem *modem);

/* Messages that went out since it was opened; a text may take several. It
 * wraps. */
uint16_t cup_modem_sent(const struct cup_modem *modem);

/* What came; null: nothing. It is kept in the modem until it is forgotten, and
 * is heard again if the modem did not answer then. */
const struct cup_message *cup_modem_heard(const struct cup_modem *modem);
void cup_modem_forget(struct cup_modem *modem);

/* Whether a text is a number as above. */
bool cup_is_number(const char *text);

CUP_C_ENDS

#endif
