/* What the file says of the modem. */
#ifndef CUPLATCH_SERVE_TEXTS_CONFIG_H
#define CUPLATCH_SERVE_TEXTS_CONFIG_H

/*   device    of the modem; null: there is none
 *   baud      as a number
 *   pin_file  whose first line is the card's; may be null
 *   people    the file of who is texted; as of people.h
 *   quiet     from when to when, in minutes of the local day, alerts wait;
 *             both 0: never
 *   a_day     so many messages at the most
 *   queue     the file of what is not yet sent */
struct texts_config {
    const char *device;
    int baud;
    const char *pin_file;
    const char *people;
    int quiet_from, quiet_to;
    int a_day;
    const char *queue;
};

#endif
