/* What reasons, kinds of event and units are called, and how a number in a unit
 * is written: for whoever knows no site. Bytes in, bytes out.
 *
 * In use:
 *
 *     char text[24];
 *     cup_say_number(text, sizeof(text), false, 3492, CUP_UNIT_PERCENT);
 *     print_line(0, text); */
#ifndef CUPLATCH_CODES_H
#define CUPLATCH_CODES_H

#include "reason.h"

CUP_C_BEGINS

/* Texts of the program are where its tables are: CUP_FLASH is const, and on an
 * 8-bit AVR in flash, to be read letter by letter. */

/* Codes of the lists; "" for a number that is none of them. */
CUP_FLASH char *cup_reason_code(uint8_t reason);
CUP_FLASH char *cup_kind_code(uint8_t kind);
CUP_FLASH char *cup_unit_symbol(uint8_t unit);

/* Decimals shown for a unit: the number is the integer / 10^decimals. */
uint8_t cup_unit_decimals(uint8_t unit);

/* The unit of how much a value in a unit changes. */
uint8_t cup_unit_of_change(uint8_t unit);

/* Longest name of a thing. */
#define CUP_NAME_MAX 24

/* Writes "34.92 %", "7m 30s" or, of 140000 Pa, "1.400 bar" into `text` of
 * `size` bytes, cut to fit and ended by zero; in US units if `us`. Volumes and
 * flows have fewer digits the larger they are: "25 ml", "7.9 L", "310 L".
 * Returns the length. */
size_t cup_say_number(char *text, size_t size, bool us, int32_t value,
                      uint8_t unit);

CUP_C_ENDS

#endif
