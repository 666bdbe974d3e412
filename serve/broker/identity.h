/* Which program this is, among all that might tell of the same site: drawn
 * once, and kept beside the history. */
#ifndef CUPLATCH_SERVE_BROKER_IDENTITY_H
#define CUPLATCH_SERVE_BROKER_IDENTITY_H

/* As hexadecimal digits, and a zero. */
#define IDENTITY_SIZE 33

/* Digits that nobody else has drawn. */
void identity_draw(char identity[IDENTITY_SIZE]);

/* Reads it, or makes it, beside the history's file. */
void identity_know(const char *history, char identity[IDENTITY_SIZE]);

#endif
