/* Bytes at the very end of readable memory: who reads one too many is stopped,
 * with sanitizers or without. */
#ifndef CUPLATCH_TESTS_EDGE_H
#define CUPLATCH_TESTS_EDGE_H

#include <stddef.h>
#include <stdint.h>

/* A copy of at most 4096 bytes that ends there; good until the next call. */
const uint8_t *edge_copy(const void *bytes, size_t count);

#endif
