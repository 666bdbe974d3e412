/* Bytes of the fuzzer as a file with a path, for what opens one. */
#ifndef CUPLATCH_FUZZ_BYTES_H
#define CUPLATCH_FUZZ_BYTES_H

#include <stddef.h>
#include <stdint.h>

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

/* The path of a file in memory that holds them; the same one each time. */
const char *bytes_as_file(const uint8_t *bytes, size_t count);

/* A folder that goes when the fuzzer ends. */
const char *folder_of_ours(void);

/* From now on whoever starts gnuplot gets the one that looks at its script, and
 * what is printed goes nowhere. */
void stand_in_for_gnuplot(void);

#endif
