/* A garden on a board: the plan is garden.ini, baked; the core is cuplatch.c;
 * what the board has is in board.h. */
#include "board.h"
#include "cuplatch.h"
#include "plan.h"

/* Where each thing is connected, by the letter and the number of its port. */
extern CUP_FLASH struct cup_pin baked_pins[];

uint32_t cup_port_now_ms(struct cup_port *port)
{
    (void)port;
    return board_now_ms();
}

struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor)
{
    struct cup_pin pin = baked_pins[sensor];
    struct cup_sample sample = {.raw = 0};
    (void)port;
    if (pin.kind == 'p')
        sample.raw = board_closed(pin.number);
    else if (!board_count(pin.number, &sample.raw))
        sample.reject = CUP_REASON_NO_ANSWER;
    return sample;
}

enum cup_error cup_port_drive(struct cup_port *port, cup_index pump, bool high)
{
    uint8_t line = baked_pins[cup_pump_thing(baked.plan, pump)].number;
    (void)port;
    return board_put(line, high) ? CUP_OK : CUP_ERROR_PORT;
}

void cup_port_tell(struct cup_port *port, const struct cup_event *event)
{
    char why[CUP_SENTENCE_SIZE];
    (void)port;
    cup_say_event(why, sizeof(why), baked.plan, event);
    board_say(why);
}

void cup_port_feed(struct cup_port *port)
{
    (void)port;
    board_feed();
}

int main(void)
{
    board_begin();
    while (board_goes_on()) {
        /* an output that does not obey is told, and tried again: we go on */
        if (cup_port_pass(NULL, &baked) == CUP_ERROR_LAYOUT)
            return 1; /* the plan and the core were not made for each other */
        board_sleep(cup_site_wait(&baked));
    }
    return 0;
}
