/* Texts as people may read them: whole letters of UTF-8, and nothing that
 * steers a terminal. */
#ifndef CUPLATCH_GRAMMAR_TEXT_H
#define CUPLATCH_GRAMMAR_TEXT_H

#include <stddef.h>

/* What is wrong first with `length` bytes of text, and at which byte; null when
 * they are right: UTF-8 (RFC 3629) without control characters, but for tabs. */
const char *text_wrong(const char *text, size_t length, size_t *at);

/* How many bytes the mark takes that some editors put before a text; 0 when
 * there is none. */
size_t text_mark(const char *text);

/* Makes a text right, in place: each byte of what is wrong becomes a question
 * mark, and a letter that was cut at the end goes. Returns the text. */
char *text_mend(char *text);

/* Copies as many whole letters as go into `size` bytes, mended. Returns `to`.
 */
char *text_cut(char *to, size_t size, const char *text);

#endif
