/* The modem block against a modem that is none, with whatever can be wrong. */
#include <stdio.h>
#include <string.h>

#include "../harness/harness.h"
#include "../modem/simulated.h"
#include "cuplatch/modem.h"

static struct cup_modem modem;
static struct sim sim;
static uint32_t now_ms;
static char heard[20][200]; /* "from: text", as they came */
static unsigned heard_count;
static bool keeps; /* nobody forgets what was heard */

static void hear(void)
{
    const struct cup_message *message = cup_modem_heard(&modem);
    if (!message)
        return;
    if (heard_count < 20)
        snprintf(heard[heard_count], sizeof(heard[0]), "%s: %s", message->from,
                 message->text);
    heard_count++;
    if (!keeps)
        cup_modem_forget(&modem);
}

/* Lets so much time pass, bytes going both ways. */
static void live(uint32_t ms)
{
    for (uint32_t i = 0; i < ms / 50; i++) {
        char byte;
        now_ms += 50;
        while (cup_modem_give(&modem, now_ms, &byte))
            sim_take(&sim, now_ms, byte);
        while (sim_give(&sim, now_ms, &byte))
            cup_modem_take(&modem, now_ms, byte);
        if (!keeps || heard_count == 0)
            hear();
    }
}

/* A moment so that time wraps soon. */
static void begin(const struct sim_faults *faults, const char *pin)
{
    now_ms = UINT32_MAX - 3000u;
    heard_count = 0;
    keeps = false;
    sim_open(&sim, faults);
    cup_modem_open(&modem, now_ms, pin);
}

static const struct sim_faults none = {.late_ms = 0};
static const char number[] = "+990100200300";
static const char when[] = "31/05/10,06:15:30+08";

/* Sends, and waits; what became of it. */
static enum cup_sending send(const char *text, uint32_t most_ms)
{
    if (!CHECK(cup_modem_send(&modem, number, text)))
        return CUP_SENDING_NOTHING;
    for (uint32_t ms = 0;
         ms < most_ms && cup_modem_sending(&modem) == CUP_SENDING_NOW; ms += 50)
        live(50);
    return cup_modem_sending(&modem);
}

CASE(it_is_set_up_and_sends)
{
    begin(&none, NULL);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_STARTING);
    CHECK(!cup_modem_send(&modem, number, "too early"));
    live(5000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
    CHECK_INT(send("lift tripped: it is dry_below 10 %", 5000),
              CUP_SENDING_DONE);
    CHECK_TEXT(sim.last_to, number);
    CHECK_TEXT(sim.last_text, "lift tripped: it is dry_below 10 %");
    CHECK_INT(sim.sent, 1);
    CHECK_INT(send("Fl\xc3\xbcssiges f\xc3\xbcr das Hochbeet", 5000),
              CUP_SENDING_DONE);
    CHECK_TEXT(sim.last_text, "Fl\xc3\xbcssiges f\xc3\xbcr das Hochbeet");
    CHECK_INT(send("\xe6\xb0\xb4 \xf0\x9f\x92\xa7\tlow\x01", 5000),
              CUP_SENDING_DONE);
    CHECK_TEXT(sim.last_text, "\xe6\xb0\xb4 \xf0\x9f\x92\xa7 low ");
}

CASE(wrong_numbers_and_empty_texts_are_refused)
{
    static const char *const wrong[] = {"",
                                        "+",
                                        "990100200300",
                                        "+0990100200300",
                                        "+99010",
                                        "+9901002003004005",
                                        "+99010020030x",
                                        "+990100 200300",
                                        "+990100200300\"\rAT"};
    begin(&none, NULL);
    live(5000);
    for (size_t i = 0; i < sizeof(wrong) / sizeof(wrong[0]); i++) {
        harness_at("%s", wrong[i]);
        CHECK(!cup_is_number(wrong[i]));
        CHECK(!cup_modem_send(&modem, wrong[i], "hello"));
    }
    harness_at(NULL);
    CHECK(cup_is_number(number));
    CHECK(!cup_modem_send(&modem, number, ""));
    CHECK(!cup_modem_send(&modem, number, "   "));
    CHECK_INT(cup_modem_sending(&modem), CUP_SENDING_NOTHING);
}

CASE(long_texts_are_cut_between_words)
{
    char text[400];
    size_t used = 0;
    begin(&none, NULL);
    live(5000);
    while (used + 9 < 330)
        used += (size_t)snprintf(text + used, sizeof(text) - used, "bed%05d ",
                                 (int)used);
    CHECK_INT(send(text, 20000), CUP_SENDING_DONE);
    CHECK_INT(cup_modem_sent(&modem), 3);
    /* 17 words of 9 letters are 153, and one more would be 162 */
    CHECK_INT(sim.sent, 3);
    CHECK(strncmp(sim.last_text, "bed", 3) == 0);
    CHECK(strlen(sim.last_text) <= CUP_MESSAGE_LETTERS);
    /* of letters that are in no alphabet but UCS2 70 go */
    for (size_t i = 0; i < 100; i++)
        memcpy(text + 3 * i, "\xe6\xb0\xb4", 4);
    CHECK_INT(send(text, 20000), CUP_SENDING_DONE);
    CHECK_INT(sim.sent, 5);
    CHECK_INT(strlen(sim.last_text), 90);
    /* two of the 160 each */
    memset(text, '[', 100);
    text[100] = '\0';
    CHECK_INT(send(text, 20000), CUP_SENDING_DONE);
    CHECK_INT(sim.sent, 7);
    CHECK_INT(strlen(sim.last_text), 20);
}

CASE(what_comes_is_heard_once_and_forgotten)
{
    begin(&none, NULL);
    sim_comes(&sim, now_ms, "+990555", "from before the start", when);
    live(6000);
    CHECK_INT(heard_count, 1);
    CHECK_TEXT(heard[0], "+990555: from before the start");
    CHECK_INT(sim_count(&sim), 0);
    sim_comes(&sim, now_ms, number, "lift off", when);
    sim_comes(&sim, now_ms, number, "ask levels", when);
    live(3000);
    CHECK_INT(heard_count, 3);
    CHECK_TEXT(heard[2], "+990100200300: ask levels");
    CHECK_INT(sim_count(&sim), 0);
    /* one that was not told is found by looking */
    sim.faults.dumb = true;
    sim_comes(&sim, now_ms, number, "quietly", when);
    sim.faults.dumb = false;
    live(70000);
    CHECK_INT(heard_count, 4);
    CHECK_TEXT(heard[3], "+990100200300: quietly");
}

CASE(the_time_of_the_service_centre_is_utc)
{
    static const struct {
        const char *text;
        uint32_t utc;
    } times[] = {{"31/05/10,06:15:30+08", 1936152930u},
                 {"31/05/10,06:15:30-08", 1936167330u},
                 {"00/01/01,00:00:00+00", 946684800u},
                 {"28/02/29,23:59:59+00", 1835481599u},
                 {"28/03/01,00:00:00+00", 1835481600u},
                 {"31/13/10,06:15:30+08", 0},
                 {"31/05/1", 0},
                 {"", 0}};
    for (size_t i = 0; i < sizeof(times) / sizeof(times[0]); i++) {
        begin(&none, NULL);
        keeps = true;
        sim_comes(&sim, now_ms, number, "a", times[i].text);
        live(6000);
        harness_at("%s", times[i].text);
        if (CHECK(cup_modem_heard(&modem) != NULL))
            CHECK_INT(cup_modem_heard(&modem)->sent_s, times[i].utc);
        /* nothing more is read until it is forgotten, but it can be sent */
        CHECK_INT(sim_count(&sim), 1);
        CHECK_INT(send("meanwhile", 5000), CUP_SENDING_DONE);
    }
    harness_at(NULL);
}

CASE(a_pin_is_given_once)
{
    struct sim_faults faults = {.pin = "2718"};
    begin(&faults, "2718");
    live(8000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
    CHECK_INT(sim.pins, 1);
    /* a wrong one is not tried again, however long it takes */
    begin(&faults, "3141");
    live(600000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_LOCKED);
    CHECK_INT(sim.pins, 1);
    CHECK(!cup_modem_send(&modem, number, "locked"));
    /* until there is another */
    cup_modem_pin(&modem, now_ms, "2718");
    live(5000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
    CHECK_INT(sim.pins, 2);
    /* none, and what is none */
    begin(&faults, NULL);
    live(100000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_LOCKED);
    CHECK_INT(sim.pins, 0);
    begin(&faults, "27\"\r8");
    live(100000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_LOCKED);
    CHECK_INT(sim.pins, 0);
}

CASE(a_network_that_goes_is_waited_for)
{
    struct sim_faults faults = {.no_net = true};
    begin(&faults, NULL);
    live(8000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_SEARCHING);
    sim.faults.no_net = false;
    live(40000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
    sim.faults.no_net = true;
    CHECK_INT(send("lost", 30000), CUP_SENDING_FAILED);
    live(40000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_SEARCHING);
}

CASE(a_modem_that_is_gone_is_found_again)
{
    begin(&none, NULL);
    live(5000);
    CHECK_INT(send("first", 5000), CUP_SENDING_DONE);
    sim.faults.dumb = true;
    CHECK_INT(send("into nothing", 200000), CUP_SENDING_FAILED);
    live(60000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_ABSENT);
    sim_open(&sim, &none); /* another, at the same line */
    live(20000);
    CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
    CHECK_INT(send("second", 5000), CUP_SENDING_DONE);
    CHECK_TEXT(sim.last_text, "second");
}

/* Each fault from the beginning: it goes on, and once the fault is over it is
 * as if it had never been. */
CASE(whatever_is_wrong_with_answers_passes)
{
    static const struct {
        const char *what;
        struct sim_faults faults;
        bool sends; /* in spite of it */
    } all[] = {{"echoes", {.echoes = true}, true},
               {"repeats", {.repeats = true}, true},
               {"rings", {.rings = true}, true},
               {"late", {.late_ms = 3000}, true},
               {"too late", {.late_ms = 9000}, false},
               {"torn", {.tears = 5}, false},
               {"torn later", {.tears = 11}, false},
               {"garbled", {.garbles = true}, false},
               {"refuses", {.refuses = true}, false},
               {"no prompt", {.no_prompt = true}, false}};
    for (size_t i = 0; i < sizeof(all) / sizeof(all[0]); i++) {
        harness_at("%s", all[i].what);
        begin(&none, NULL);
        live(6000);
        sim.faults = all[i].faults;
        enum cup_sending end = send("the tank is low", 300000);
        CHECK_INT(end, all[i].sends ? CUP_SENDING_DONE : CUP_SENDING_FAILED);
        live(90000);
        sim.faults = none;
        live(150000);
        CHECK_INT(cup_modem_is(&modem), CUP_MODEM_READY);
        unsigned before = heard_count;
        sim_comes(&sim, now_ms, number, "ask alerts", when);
        live(5000);
        CHECK_INT(heard_count, before + 1);
        CHECK_INT(send("it is well again", 10000), CUP_SENDING_DONE);
        CHECK_TEXT(sim.last_text, "it is well again");
    }
    harness_at(NULL);
}

/* Whatever is said to it, in whatever portions: what comes at one time byte by
 * byte is the same as all at once. */
CASE(every_split_of_a_dialogue_is_the_same_dialogue)
{
    static const char answer[] =
        "\r\n+CMGR: \"REC UNREAD\",\"+990100200300\",,\"31/05/10,06:15:30+08\""
        "\r\n006C0069006600740020006F00660066\r\n\r\nOK\r\n";
    for (size_t split = 0; split <= sizeof(answer) - 1; split++) {
        char byte;
        begin(&none, NULL);
        live(6000);
        sim_comes(&sim, now_ms, number, "x", when);
        sim.faults.dumb = true;
        live(1000); /* its CMTI; what follows we say */
        now_ms += 50;
        while (cup_modem_give(&modem, now_ms, &byte))
            ;
        static const char count[] = "\r\n+CPMS: \"SM\",1,10\r\n\r\nOK\r\n";
        for (size_t i = 0; count[i]; i++)
            cup_modem_take(&modem, now_ms, count[i]);
        while (cup_modem_give(&modem, now_ms, &byte))
            ;
        for (size_t i = 0; i < sizeof(answer) - 1; i++) {
            if (i == split) {
                now_ms += 4000;
                CHECK(!cup_modem_give(&modem, now_ms, &byte));
            }
            cup_modem_take(&modem, now_ms, answer[i]);
        }
        harness_at("at %zu", split);
        const struct cup_message *message = cup_modem_heard(&modem);
        if (!CHECK(message != NULL))
            break;
        CHECK_TEXT(message->from, "+990100200300");
        CHECK_TEXT(message->text, "lift off");
        CHECK_INT(message->sent_s, 1936152930);
    }
    harness_at(NULL);
}
