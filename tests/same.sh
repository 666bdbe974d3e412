#!/bin/sh
# Runs a command and compares what it prints with FILE.
set -eu
expected=$1
shift
"$@" | diff -u "$expected" -
echo "1 passed, 0 failed"
