/* The log, on stderr: "TIME PART SITE: what happened", a line each; who starts
 * it keeps it. */
#ifndef CUPLATCH_SERVE_COMMON_NOTE_H
#define CUPLATCH_SERVE_COMMON_NOTE_H

/* `site` may be null, or empty. May be called from any thread. */
void note(const char *part, const char *site, const char *form, ...)
    __attribute__((format(printf, 3, 4)));

#endif
