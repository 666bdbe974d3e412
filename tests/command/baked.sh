#!/bin/sh
# A baked site decides as the site file that it was baked of does, whole or
# built with only what it uses; and baking leaves no half of a file behind.
# baked.sh CUPLATCH RECORD FROM_FILE SOURCES
set -eu
cuplatch=$1
record=$2
from_file=$3
top=$4
scratch=$(mktemp -d)
trap 'rm -rf "$scratch"' EXIT

"$top/cmake/twofile.sh" "$scratch"
sed 's|"cuplatch/port.h"|"cuplatch.h"|' "$top/firmware/vectors/vectors.c" \
    >"$scratch/vectors.c"

# core USES: the core as built with these, as $object; all of it only once.
core() {
    object=$scratch/own.o
    if [ -z "$1" ]; then
        object=$scratch/whole.o
        [ ! -e "$object" ] || return 0
    fi
    # shellcheck disable=SC2086
    cc -std=c11 -Wall -Wextra -Werror -I"$scratch" $1 -ffunction-sections \
        -c -o "$object" "$scratch/cuplatch.c"
}

# A baked plan is whole, and what it is counts as many as its parts are; so many
# bytes of a journal are written as it says.
cat >"$scratch/sound.c" <<'END'
#include <stdio.h>
#include <string.h>

#include "cuplatch.h"

extern const struct cup_site baked;
static uint8_t kept[2 * 4096];

static enum cup_error fetch(void *self, uint32_t at, uint8_t *bytes, size_t count)
{
    (void)self;
    memcpy(bytes, kept + at, count);
    return CUP_OK;
}

static enum cup_error erase(void *self, uint32_t at, size_t count)
{
    (void)self;
    memset(kept + at, 0xFF, count);
    return CUP_OK;
}

static enum cup_error keep(void *self, uint32_t at, const uint8_t *bytes, size_t count)
{
    (void)self;
    memcpy(kept + at, bytes, count);
    return CUP_OK;
}

static void hear(void *self, const struct cup_event *event)
{
    (void)self;
    if (event->cause.reason != CUP_REASON_JOURNAL)
        printf("the journal says %d\n", event->cause.reason);
}

static int reads_back(struct cup_journal *journal)
{
    const struct cup_store store = {
        .fetch = fetch, .erase = erase, .write = keep, .slot_size = 4096, .slots = 2};
    const struct cup_sink sink = {.take = hear};
    return cup_journal_open(journal, &baked, 0, &store, &sink) ||
           cup_journal_close(journal, &baked) ||
           cup_journal_open(journal, &baked, 1000, &store, &sink) ||
           journal->sequence != 1;
}

int main(void)
{
    struct cup_journal journal = {0};
    const char *wrong = cup_plan_check(baked.plan, NULL);
    if (wrong)
        puts(wrong);
    memset(kept, 0xFF, sizeof(kept));
    int unread = baked.plan->keys ? reads_back(&journal) : 0;
    if (unread)
        puts("its journal is not read back");
    return wrong || unread;
}
END
sound() {
    cc -std=c11 -Wall -Wextra -Werror -I"$scratch" '-DCUP_USES="plan.h"' \
        -ffunction-sections -Wl,--gc-sections -o "$scratch/sound" \
        "$scratch/plan.c" "$scratch/sound.c" "$scratch/cuplatch.c"
    "$scratch/sound" || {
        echo "$1: what was baked is not sound"
        exit 1
    }
}

# same SITE GARDEN: one sum from the file, baked, and built for it alone.
same() {
    "$record" "$1" "$2" 6000 >"$scratch/recording"
    want=$(SITE_FILE=$1 "$from_file" <"$scratch/recording")
    "$cuplatch" bake "$1" -o "$scratch/plan.c"
    sound "$1"
    for uses in "" '-DCUP_USES="plan.h"' '-DCUP_USES="plan.h" -DCUP_SMALL'; do
        core "$uses"
        # shellcheck disable=SC2086
        cc -std=c11 -Wall -Wextra -Werror -I"$scratch" $uses \
            -Wl,--gc-sections -o "$scratch/baked" \
            "$scratch/plan.c" "$scratch/vectors.c" "$object" \
            "$top/firmware/vectors/host.c" -I"$top/firmware/vectors"
        got=$("$scratch/baked" <"$scratch/recording")
        [ "$got" = "$want" ] || {
            echo "$1 $uses: the file gives $want, baked $got"
            exit 1
        }
    done
}

same "$top/examples/keeper/keeper.ini" "$top/examples/keeper/keeper.garden.ini"
same "$top/examples/compare/yard.ini" "$top/examples/compare/yard.garden.ini"

# Checks of which all are nothing are checks: a meter's pulses are counted.
{
    cat "$top/examples/board/board.ini"
    printf '\n[%s]\n%s\n' tap_meter 'is = sensor
form = pulses
per_litre = 380
port = pin:7
every = 1s' tap_watch 'is = alert
of = tap_meter
above = 1L/min
clear = 0.5L/min'
} >"$scratch/meter.ini"
{
    cat "$top/examples/board/board.garden.ini"
    printf '\n[%s]\n%s\n' tap_meter 'is = sensor
as = light
raw = 0..60000
full = 0.35
noise = 40'
} >"$scratch/meter.garden.ini"
same "$scratch/meter.ini" "$scratch/meter.garden.ini"

# A board whose marks are counts, built with only what it uses, decides as the
# whole core does. counting SITE GARDEN [KIND]
counting() {
    "$record" "$1" "$2" 6000 >"$scratch/recording"
    "$cuplatch" bake "$1" ${3:+"$3"} -o "$scratch/plan.c"
    sound "$1 ${3:-}"
    want=
    for uses in "" '-DCUP_USES="plan.h" -DCUP_SMALL' \
        '-DCUP_USES="plan.h" -DCUP_SMALL -DCUP_NARROW'; do
        core "$uses"
        # shellcheck disable=SC2086
        cc -std=c11 -Wall -Wextra -Werror -I"$scratch" $uses -DNO_CLOCK=1 \
            -Wl,--gc-sections -o "$scratch/baked" \
            "$scratch/plan.c" "$scratch/vectors.c" "$object" \
            "$top/firmware/vectors/host.c" -I"$top/firmware/vectors"
        got=$("$scratch/baked" <"$scratch/recording")
        want=${want:-$got}
        [ "$got" = "$want" ] || {
            echo "$1 ${3:-} $uses: the whole core gives $want, this $got"
            exit 1
        }
    done
}
for kind in --counts --bare --steered; do
    counting "$top/examples/board/board.ini" \
        "$top/examples/board/board.garden.ini" $kind
    grep -q "believes each level that it reads" "$scratch/plan.c"
done

# With names and tanks it has levels that may leap, as a controller has.
counting "$top/examples/board/board.ini" "$top/examples/board/board.garden.ini"
! grep -q 'believes each level\|USES_VALUES 0\|USES_SPANS 0' \
    "$scratch/plan.c" "$scratch/plan.h" || exit 1
counting "$scratch/meter.ini" "$scratch/meter.garden.ini" --bare

# Marks on counts that rise, fall, bend and stand still.
sed 's/^shape = upright/shape = table/; /^depth =/d; s/^until = tray_float/until = header above 60%/
    s/^diameter = 700mm/table = 0mm:0L 200mm:90L 700mm:260L/
    s/^diameter = 1400mm/table = 0mm:0L 400mm:300L 1600mm:2400L/
    s/^points = .*/points = 10:100% 500:40% 600:40% 980:0%/' \
    "$top/examples/board/board.ini" >"$scratch/bent.ini"
counting "$scratch/bent.ini" "$top/examples/board/board.garden.ini" --bare
grep -q 'USES_VALUES 0' "$scratch/plan.h"

# A named board whose marks are counts tells them as values, word for word as
# the whole core does; and where marks are a type of their own it compiles.
sed 's|"cuplatch/[a-z]*\.h"|"cuplatch.h"|' \
    "$top/firmware/vectors/board_talk.c" >"$scratch/board_talk.c"
{
    cat "$top/examples/board/board.ini"
    printf '\n[%s]\n%s\n' low_header 'is = alert
of = header
below = 45%
clear = 55%'
} >"$scratch/talk.ini"
"$cuplatch" bake "$scratch/talk.ini" --counts -o "$scratch/plan.c"
grep -q 'USES_VALUES 0' "$scratch/plan.h"
for uses in "" '-DCUP_USES="plan.h"' '-DCUP_USES="plan.h" -DCUP_CHECKED'; do
    core "$uses"
    # shellcheck disable=SC2086
    cc -std=c11 -Wall -Wextra -Werror -I"$scratch" $uses -Wl,--gc-sections \
        -o "$scratch/baked" "$scratch/plan.c" "$scratch/board_talk.c" "$object"
    "$scratch/baked" | diff "$top/firmware/vectors/board_talk.out" - || {
        echo "board_talk $uses: says something else"
        exit 1
    }
done

# A plan and a core of other blocks do not link.
"$cuplatch" bake "$top/examples/keeper/keeper.ini" -o "$scratch/plan.c"
own='-DCUP_USES="plan.h"'
# shellcheck disable=SC2086
cc -std=c11 -I"$scratch" $own -ffunction-sections -c -o "$scratch/other.o" "$scratch/cuplatch.c"
"$cuplatch" bake "$top/examples/board/board.ini" --bare -o "$scratch/plan.c"
link="cc -std=c11 -I$scratch -ffunction-sections -Wl,--gc-sections -o $scratch/baked $scratch/plan.c
    $scratch/vectors.c $top/firmware/vectors/host.c -I$top/firmware/vectors
    -DNO_CLOCK=1"
# shellcheck disable=SC2086
$link $own "$scratch/cuplatch.c"
# shellcheck disable=SC2086
if $link $own "$scratch/other.o" 2>"$scratch/why"; then
    echo "a plan linked with a core of other blocks"
    exit 1
fi
grep -q 'undefined reference.*baked_' "$scratch/why"

# A tank that has no curve: a float tells of it.
{
    cat "$top/examples/board/board.ini"
    printf '\n[%s]\n%s\n' tray 'is = tank
floats = tray_float 20%' tray_dry 'is = alert
of = tray
below = 10%
clear = 15%'
} >"$scratch/floats.ini"
counting "$scratch/floats.ini" "$top/examples/board/board.garden.ini" --bare
! grep -q 'USES_VALUES 0' "$scratch/plan.h" || exit 1

# ... and so it does where passes come unevenly, sensors fail, and
# the time wraps or goes back. uneven SITE: baked as a bare board.
sed 's|"cuplatch/port.h"|"cuplatch.h"|' "$top/firmware/vectors/uneven.c" \
    >"$scratch/uneven.c"
uneven() {
    "$cuplatch" bake "$1" --bare -o "$scratch/plan.c" 2>/dev/null
    want=
    for uses in "" '-DCUP_USES="plan.h" -DCUP_SMALL -DCUP_NARROW'; do
        core "$uses"
        # shellcheck disable=SC2086
        cc -std=c11 -Wall -Wextra -Werror -I"$scratch" $uses \
            -DOUTPUTS_FAIL=0 -DOWED_IS_TOLD=0 -Wl,--gc-sections \
            -o "$scratch/uneven" \
            "$scratch/plan.c" "$scratch/uneven.c" "$object"
        got=$("$scratch/uneven")
        want=${want:-$got}
        [ "$got" = "$want" ] || {
            echo "$1 $uses: the whole core gives $want, this $got"
            exit 1
        }
    done
}
uneven "$top/examples/board/board.ini"
uneven "$scratch/meter.ini"
uneven "$scratch/bent.ini"

# All sensors at another pace, or one.
sed 's/^every = 1s/every = 3s/' "$top/examples/board/board.ini" \
    >"$scratch/slow.ini"
uneven "$scratch/slow.ini"
grep -q 'USES_PACES 0' "$scratch/plan.h"
sed '0,/^every = 1s/s//every = 3s/' "$top/examples/board/board.ini" \
    >"$scratch/paces.ini"
uneven "$scratch/paces.ini"
! grep -q 'USES_PACES 0' "$scratch/plan.h" || exit 1

# A name that would end a comment does not.
sed 's|^name = .*|name = a */ b /* c|' "$top/examples/board/board.ini" \
    >"$scratch/named.ini"
"$cuplatch" bake "$scratch/named.ini" -o "$scratch/named.c"
cc -std=c11 -Wall -Wextra -Werror -pedantic -I"$top/include" \
    -DCUP_USES='"named.h"' -I"$scratch" -c -o "$scratch/named.o" \
    "$scratch/named.c"

# What cannot be written leaves nothing, and what was there stays.
cp "$scratch/plan.c" "$scratch/before"
"$cuplatch" bake "$top/tests/command/mistakes.ini" -o "$scratch/plan.c" \
    2>/dev/null && exit 1
cmp "$scratch/plan.c" "$scratch/before"
"$cuplatch" bake "$top/examples/board/board.ini" -o "$scratch/no/plan.c" \
    2>/dev/null && exit 1
[ ! -e "$scratch/no" ]
