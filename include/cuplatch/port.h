/* A port connects a site to the world: these functions, and no more. Firmware
 * defines them itself; on the host a table dispatches them (ports/common). The
 * loop of the library is for every plan and does not link without all of them;
 * one that is built with a plan's own CUP_USES wants what its blocks need.
 *
 * None may block for longer than the time stated beside it. A port makes its
 * outputs safe (off) before anything else, long before the first pass. */
#ifndef CUPLATCH_PORT_H
#define CUPLATCH_PORT_H

#include "site.h"

CUP_C_BEGINS

/* The longest frame a sensor or a source answers with: it is on the stack
 * while a sensor is heard. */
#ifndef CUP_FRAME_MOST
#ifdef __AVR__
#define CUP_FRAME_MOST 32
#else
#define CUP_FRAME_MOST (CUP_MODBUS_REGISTERS * 2 + 5)
#endif
#endif

/* Where a sensor or an output is connected, as the site file says: the first
 * letter of the word ('a' of "adc:3") and the number. A baked plan comes with a
 * table of these, by the numbers of things; a host's port may leave it alone.
 */
struct cup_pin {
    char kind;
    uint8_t number;
};

/* Whatever the port needs; defined by the port. */
struct cup_port;

/* The time in ms since any moment; wraps after 49.7 days. Cannot fail. On the
 * bench a port may give it several times faster, so that hours become seconds
 * and the site need not be touched. */
uint32_t cup_port_now_ms(struct cup_port *port);

/* One raw sample of a sensor. Within 50 ms; a sensor that takes longer, or
 * does not answer, gives CUP_REASON_NO_ANSWER as `reject`. */
struct cup_sample cup_port_sample(struct cup_port *port, cup_index sensor);

/* Switches a supply line. Within 1 ms. Only for plans with supplies. */
CUP_MUST_USE enum cup_error cup_port_supply(struct cup_port *port,
                                            cup_index supply, bool on);

/* Bytes of a sensor whose form is bytes, or a source's answer to its request:
 * up to `size` of them; returns how many, 0 when there is no answer (then such
 * a sensor is sampled as a number). Within 50 ms. `thing` is the sensor's or
 * source's number as a thing. */
size_t cup_port_bytes(struct cup_port *port, cup_index thing, uint8_t *bytes,
                      size_t size);

/* Puts a pump's pin high or low; polarity is already seen to. Within 1 ms.
 * Called for every pump in every pass, so that a lost output comes back.
 * CUP_ERROR_PORT: it could not be done. */
CUP_MUST_USE enum cup_error cup_port_drive(struct cup_port *port,
                                           cup_index pump, bool high);

/* Puts a positional output at a place, 0 to 10000 hundredths of a per cent; one
 * with two lines drives the one that opens while `way` is 1, that shuts while
 * it is -1, none at 0. Within 1 ms. Only for plans with such outputs. */
CUP_MUST_USE enum cup_error cup_port_move(struct cup_port *port, cup_index pump,
                                          uint16_t place_pct100, int way);

/* Of a bar, `lit` is how many of its marks are passed: a lamp of it is lit
 * where cup_bar_lights() says so. Of a signal, numbered on after the bars,
 * `lit` is its enum cup_pattern: keep it, and switch it by cup_pattern_lit() as
 * often as you can, between passes, too, so that it blinks at its own pace
 * whatever the scan is. Within 1 ms; cannot fail. Only for plans with such. */
void cup_port_light(struct cup_port *port, cup_index lamp, uint8_t lit);

/* Whether a button is closed, by its number in the plan. Within 1 ms. A pass
 * asks, and a port that can calls cup_site_press() between passes, too: what is
 * closed for less than two passes would not be heard otherwise. Only for plans
 * with buttons. */
bool cup_port_closed(struct cup_port *port, cup_index button);

/* Takes an event away: to a serial line, a log. Within 10 ms; may drop it. */
void cup_port_tell(struct cup_port *port, const struct cup_event *event);

/* Feeds the watchdog: one pass is over. Within 1 ms. */
void cup_port_feed(struct cup_port *port);

/* One pass of a site over a port: ask and hear, decide, drive.
 * CUP_ERROR_LAYOUT: the plan was made for another core; nothing was done, and
 * nothing will be. CUP_ERROR_PORT, or another that a port's function returned,
 * the first: the pass was made to its end all the same, what does not obey is
 * told as an event, and is tried again in the next. So a loop goes on:
 *
 *     while (cup_port_pass(port, site) != CUP_ERROR_LAYOUT)
 *         sleep_for(cup_site_wait(site)); */
CUP_MUST_USE enum cup_error cup_port_pass(struct cup_port *port,
                                          const struct cup_site *site);

/* Its two halves, for what must be done before anything is driven: ask, hear
 * and decide; then drive, light and feed. */
CUP_MUST_USE enum cup_error cup_port_decide(struct cup_port *port,
                                            const struct cup_site *site);
CUP_MUST_USE enum cup_error cup_port_act(struct cup_port *port,
                                         const struct cup_site *site);

/* The asking of a pass alone: for between passes, so that a supply need not
 * wait for the next. */
CUP_MUST_USE enum cup_error cup_port_ask(struct cup_port *port,
                                         const struct cup_site *site,
                                         uint32_t now_ms);

/* Puts every output at what the site wants now, and notes what does not
 * obey. */
CUP_MUST_USE enum cup_error cup_port_drive_all(struct cup_port *port,
                                               const struct cup_site *site);

CUP_C_ENDS

#endif
