/* What a part under test must give: bytes of a recording, and a way to say
 * what came of it. */
#ifndef CUPLATCH_FIRMWARE_TARGET_H
#define CUPLATCH_FIRMWARE_TARGET_H

/* The next byte of the recording; -1 at its end. */
int target_next(void);

/* Says a line; `text` is without its end. */
void target_say(const char *text);

/* A pass begins (1), is over (0): for counting its cycles. */
void target_mark(int begins);

/* The end: `code` is 0 when all went well. */
void target_exit(int code);

#endif
