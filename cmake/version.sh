#!/bin/sh
# Prints the version, which stands in one place alone.
exec sed -n 's/^#define CUP_VERSION "\(.*\)"/\1/p' \
    "$(dirname "$0")/../include/cuplatch/base.h"
