/* What a part under test must give: bytes of a recording, and a way to say
 * what came of it. */
#ifndef CUPLATCH_FIRMWARE_TARGET_H
#define CUPLATCH_FIRMWARE_TARGET_H

/* The next byte of the recording; -1 at its end. */
int target_next(void);

/* Says a line; `text` is without its end. */
void target_say(const char *text);

/* For counting cycles: a pass is over, begins; what follows is this program's
 * own and does not count; the pass goes on. */
enum target_mark { TARGET_OVER, TARGET_BEGINS, TARGET_PAUSES, TARGET_GOES_ON };
void target_mark(enum target_mark mark);

/* The end: `code` is 0 when all went well. */
void target_exit(int code);

#endif
