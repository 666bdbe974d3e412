/* A site on a bare board: ask, hear, decide, drive; tell; sleep. */
#include "board.h"
#include "cuplatch/console.h"
#include "numbers.h"
#include "phone.h"

/* The longest sleep, so that the watchdog is fed in time. */
#define SLEEP_MOST_MS 500
#define LOOK_MS 60000

static void say(CUP_FLASH char *text)
{
    while (*text)
        board_say(*text++);
}

static void end_line(void)
{
    say(CUP_TEXT("\r\n"));
}

static void say_line(void *self, const char *text)
{
    (void)self;
    while (*text)
        board_say(*text++);
    end_line();
}

static void say_positive(uint32_t number)
{
    char digits[10];
    uint8_t count = 0;
    do
        digits[count++] = (char)('0' + number % 10);
    while ((number /= 10) > 0);
    while (count > 0)
        board_say(digits[--count]);
    board_say(' ');
}

static void say_number(void *self, int32_t number, bool last)
{
    (void)self;
    if (number < 0)
        board_say('-');
    say_positive(number < 0 ? -(uint32_t)number : (uint32_t)number);
    if (last)
        end_line();
}

/* Without texts an event is its numbers: ms, of, kind, about, reason, value,
 * limit, as in docs/reference/reasons.md. */
static void say_event(const struct cup_event *event)
{
    const struct cup_cause *cause = &event->cause;
    say_positive(event->t_ms);
    say_number(NULL, event->of, false);
    say_number(NULL, event->kind, false);
    say_number(NULL, cause->about, false);
    say_number(NULL, cause->reason, false);
    say_number(NULL, cause->value, false);
    say_number(NULL, cause->limit, true);
}

static void say_sentence(const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    cup_say_event(why, sizeof(why), baked.plan, event);
    say(cup_thing_name(baked.plan, event->of));
    board_say(' ');
    say(cup_kind_code(event->kind));
    say(CUP_TEXT(": "));
    say_line(NULL, why);
}

void cup_port_tell(struct cup_port *port, const struct cup_event *event)
{
    (void)port;
    phone_event(event);
    if (CUP_USES_NAMES)
        say_sentence(event);
    else
        say_event(event);
}

/* Who looks wants every sample as it comes, for a minute from the last time
 * that it was asked. */
static bool looks;
static uint32_t looks_since_ms;

static void begin_look(uint32_t now_ms)
{
    looks = true;
    looks_since_ms = now_ms;
}

#if CUP_USES_NAMES
static void take_byte(uint32_t now_ms, char byte)
{
    static struct cup_console console;
    static const struct cup_printer printer = {say_line, NULL};
    cup_console_take(&console, &baked, now_ms, byte, &printer);
    if (console.looks)
        begin_look(now_ms);
    console.looks = false;
}

static void say_thing(cup_index thing)
{
    say(cup_thing_name(baked.plan, thing));
    board_say(' ');
}
#else
static void take_byte(uint32_t now_ms, char byte)
{
    static struct numbers numbers;
    static const struct numbers_out out = {say_number, NULL};
    numbers_take(&numbers, &baked, now_ms, byte, &out);
    if (numbers.looks)
        begin_look(now_ms);
    numbers.looks = false;
}

static void say_thing(cup_index thing)
{
    say_number(NULL, thing, false);
}
#endif

/* "look kale_soil 612": a dash where there was no answer. */
static void say_sample(cup_index sensor, struct cup_sample sample)
{
    say(CUP_TEXT("look "));
    say_thing(sensor);
    if (sample.reject == CUP_REASON_NONE)
        say_number(NULL, sample.raw, true);
    else
        say(CUP_TEXT("-\r\n"));
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    struct cup_sample sample = board_sample(baked_pins[sensor]);
    if (looks && cup_left(cup_port_now_ms(port), looks_since_ms, LOOK_MS) == 0)
        looks = false;
    if (looks)
        say_sample(sensor, sample);
    return sample;
}

static void listen(uint32_t now_ms)
{
    int byte;
    while ((byte = board_heard()) >= 0)
        take_byte(now_ms, (char)byte);
}

static void tell(void *self, const struct cup_event *event)
{
    cup_port_tell(self, event);
}

/* A journal that cannot be used is told once and done without. */
static bool open_journal(struct cup_journal *journal, struct cup_port *port)
{
    const struct cup_store *store = board_store();
    struct cup_sink sink = {tell, port};
    return store && !cup_journal_open(journal, &baked, cup_port_now_ms(port),
                                      store, &sink);
}

int main(void)
{
    static struct cup_journal journal;
    struct cup_port *port = board_begin();
    bool keeps = CUP_USES_JOURNAL && open_journal(&journal, port);
    for (;;) {
        /* what fails is told as an event; an entry that fails is tried again */
        (void)!cup_port_decide(port, &baked);
        if (keeps)
            (void)!cup_journal_step(&journal, &baked);
        (void)!cup_port_act(port, &baked);
        if (CUP_USES_STEERING)
            listen(cup_port_now_ms(port));
        uint32_t wait =
            cup_least(cup_site_wait(&baked), phone_turn(cup_port_now_ms(port)));
        board_sleep(cup_least(wait, SLEEP_MOST_MS));
    }
}
