#!/bin/sh
# Builds the firmware for every part, runs what can run, and prints what each
# takes; fails when a figure is over its budget or has grown by more than three
# in a hundred. firmware.sh BUILD [CUTS]: a build of the host that has the
# command, and how often the plug of a board is pulled.
set -eu
cd "$(dirname "$0")/.."
host=$1
cuts=${2:-40}
to=build/firmware
passes=10000
mkdir -p $to/full $to/bare $to/steered $to/quick $to/keeper $to/beds
over=0

warnings="-std=gnu11 -Wall -Wextra -Werror"
lean="-Os -ffunction-sections -fdata-sections -Wl,--gc-sections -Iinclude"
avr="avr-gcc $warnings $lean -flto -mcall-prologues -mstrict-X -mrelax
    -fno-ivopts -fno-tree-loop-optimize -fno-ipa-sra -fno-move-loop-invariants
    -fno-tree-dominator-opts -fno-tree-tail-merge -fno-gcse
    -fno-forward-propagate
    --param sra-max-scalarization-size-Osize=8"
arm="arm-none-eabi-gcc -mthumb $warnings $lean -flto -DCUP_SMALL
    --specs=nano.specs -nostartfiles -T firmware/cortex-m/part.ld
    firmware/cortex-m/startup.c"
core=$(ls src/*/*.c)
# The same as one file, where no size is measured: one run of a compiler, not sixty.
whole=$to/core.c
printf '#include "../../%s"\n' src/*/*.c >$whole
# What a part without a standard library is built of.
alone="$lean -ffreestanding -nostdlib -Ifirmware/plain -DCUP_SMALL
    -Wl,--no-warn-rwx-segments firmware/plain/string.c"
riscv="-march=rv32imac -misa-spec=2.2 -mabi=ilp32 -T firmware/riscv/part.ld"
arm_board="qemu-system-arm mps2-an385"
riscv_board="qemu-system-riscv32 sifive_e"

say() {
    printf '%s\n' "$*"
}

# report NAME FIGURE: a line of the table, held to firmware/budgets.txt; kept for those
# who look whether docs say the same.
: >$to/figures
report() {
    echo "$1: $2" >>$to/figures
    line=$(awk -v name="$1" '$1 == name' firmware/budgets.txt)
    # shellcheck disable=SC2086
    set -- "$1" "$2" $line
    if [ $# -lt 6 ]; then
        say "$1 $2: not in firmware/budgets.txt"
        over=1
        return
    fi
    printf '  %-28s %7d   budget %7d   before %7d   wanted %7s\n' \
        "$1" "$2" "$4" "$5" "$6"
    [ "$2" -le "$4" ] && [ $(($2 * 100)) -le $(($5 * 103)) ] || {
        say "  $1 has grown"
        over=1
    }
}

bake() {
    "$host/cuplatch" bake "$@"
}

# text IMAGE: bytes of flash.
text() {
    "${2:-avr-size}" "$1" | awk 'NR == 2 {print $1 + $2}'
}

# ram IMAGE: bytes of an AVR's RAM, without the stack.
ram() {
    avr-size "$1" | awk 'NR == 2 {print $2 + $3}'
}

# stubs IMAGE: bytes of what stands in it for calls of the core.
stubs() {
    sum=0
    for size in $("${2:-avr-nm}" -S "$1" | awk '$4 ~ /^cup_(site|port_ask)/ {print $2}'); do
        sum=$((sum + 0x$size))
    done
    echo "$sum"
}

# sum NAME COMMAND...: plays the recording `rec` and keeps the first line.
sum() {
    name=$1
    shift
    got=$("$@" 2>&1 | grep -E '^[0-9a-f]{8} ' || true)
    say "  $name $got"
    [ "$got" = "$want" ] || {
        say "  $name: expected $want"
        over=1
    }
}

# emulate IMAGE QEMU MACHINE: one that speaks to its host.
emulate() {
    (cd $to && timeout 120 "$2" -M "$3" -nographic -monitor none -serial none \
        -semihosting-config enable=on,target=native -kernel "$1")
}

vectors="firmware/vectors/vectors.c"
# shellcheck disable=SC2086
same_everywhere() {
    say "The same $passes passes of Keeper's Garden: sum, passes, events"
    "$host/tests/record" examples/keeper/keeper.ini \
        examples/keeper/keeper.garden.ini $passes >$to/recording
    bake examples/keeper/keeper.ini -o $to/keeper/plan.c
    plan="-I$to/keeper -DCUP_USES=\"plan.h\" $to/keeper/plan.c"
    gcc $warnings $lean -o $to/host $vectors firmware/vectors/host.c \
        $plan $whole
    want=$($to/host <$to/recording)
    say "  this machine       $want"
    s390x-linux-gnu-gcc -static $warnings $lean -o $to/big $vectors \
        firmware/vectors/host.c $plan $whole
    sum "s390x, big-endian " qemu-s390x $to/big <$to/recording
    for cpu in cortex-m0plus cortex-m3; do
        $arm -mcpu=$cpu -o $to/vectors-$cpu.elf $vectors \
            firmware/vectors/semihosting.c $plan $whole
        sum "$(printf '%-18s' $cpu)" emulate vectors-$cpu.elf $arm_board
    done
    riscv64-unknown-elf-gcc $warnings $alone $riscv -o $to/vectors-riscv.elf \
        $vectors firmware/vectors/semihosting.c \
        firmware/riscv/start.c $plan $whole -lgcc
    sum "rv32imac          " emulate vectors-riscv.elf $riscv_board
    $avr -mmcu=atmega1284p -o $to/vectors-avr.elf $vectors \
        firmware/avr/simulated.c $plan $whole
    sum "8-bit AVR         " $to/simulate atmega1284p $to/vectors-avr.elf \
        $to/recording
}

# talks NAME QEMU MACHINE IMAGE COMMAND: a talk with a board, twice at the most: a host
# that stands still for two seconds while the board sleeps is seen by the
# board's watchdog.
talks() {
    firmware/common/talk.sh "$@" || firmware/common/talk.sh "$@" || over=1
}

# The reference board, without texts: what core and plan take by themselves.
# shellcheck disable=SC2086
sizes() {
    say "The board of examples/board, without texts"
    bake examples/board/board.ini --bare -o $to/bare/plan.c
    plan="-I$to/bare -DCUP_USES=\"plan.h\""
    $avr -mmcu=atmega328p -o $to/r1.elf $vectors firmware/avr/simulated.c \
        $plan $to/bare/plan.c $core
    $avr -mmcu=atmega328p -o $to/r0.elf $vectors firmware/avr/simulated.c \
        -DCUP_USES='"plan.h"' -I$to/bare firmware/vectors/empty.c
    report avr-flash $(($(text $to/r1.elf) - $(text $to/r0.elf) + \
        $(stubs $to/r0.elf)))
    "$host/tests/record" examples/board/board.ini \
        examples/board/board.garden.ini $passes >$to/board.rec
    $to/simulate atmega328p $to/r1.elf $to/board.rec >$to/cycles 2>/dev/null
    stack=$(awk '/stack/ {print $5}' $to/cycles)
    report avr-ram $(($(ram $to/r1.elf) - $(ram $to/r0.elf) + stack))
    report avr-stack "$stack"
    report avr-cycles-mean "$(awk '/cycles/ {print $2}' $to/cycles)"
    report avr-cycles-worst "$(awk '/cycles/ {print $3}' $to/cycles)"
    $arm -mcpu=cortex-m0plus -o $to/m1.elf $vectors \
        firmware/vectors/semihosting.c $plan $to/bare/plan.c $core
    $arm -mcpu=cortex-m0plus -o $to/m0.elf $vectors \
        firmware/vectors/semihosting.c $plan firmware/vectors/empty.c
    report m0plus-flash $(($(text $to/m1.elf arm-none-eabi-size) - \
        $(text $to/m0.elf arm-none-eabi-size) + \
        $(stubs $to/m0.elf arm-none-eabi-nm)))
    firmware/more_beds.sh examples/board/board.ini >$to/beds/board.ini
    bake $to/beds/board.ini --bare -o $to/beds/plan.c
    $avr -mmcu=atmega328p -o $to/beds.elf $vectors firmware/avr/simulated.c \
        -I$to/beds -DCUP_USES='"plan.h"' $to/beds/plan.c $core
    report avr-ten-more-beds $(($(text $to/beds.elf) - $(text $to/r1.elf)))
}

# Whole programs, ports and all.
# shellcheck disable=SC2086
programs() {
    say "Programs for boards: flash"
    bake examples/board/board.ini -o $to/full/plan.c
    bake examples/board/board.ini --steered -o $to/steered/plan.c
    $avr -mmcu=atmega328p -o $to/board-avr.elf firmware/common/*.c \
        firmware/avr/port.c -I$to/steered -DCUP_USES='"plan.h"' \
        $to/steered/plan.c $core
    report board-avr "$(text $to/board-avr.elf)"
    $avr -mmcu=atmega1281 -o $to/board-avr-texts.elf firmware/common/*.c \
        firmware/avr/port.c -I$to/full -DCUP_USES='"plan.h"' \
        $to/full/plan.c $core
    report board-avr-texts "$(text $to/board-avr-texts.elf)"
    $avr -mmcu=atmega1281 "-DBOARD_PHONE=\"+990100200300\"" \
        -o $to/board-avr-phone.elf firmware/common/*.c firmware/avr/port.c \
        -I$to/full -DCUP_USES='"plan.h"' $to/full/plan.c $core
    report board-avr-phone "$(text $to/board-avr-phone.elf)"
    report board-avr-phone-ram "$(ram $to/board-avr-phone.elf)"
    for cpu in cortex-m0plus cortex-m3; do
        # copies of a function for one of its values cost more than they save
        $arm -mcpu=$cpu -fno-ipa-cp -o $to/board-$cpu.elf firmware/common/*.c \
            firmware/cortex-m/port.c -I$to/full -DCUP_USES='"plan.h"' \
            $to/full/plan.c $core
        report board-$cpu "$(text $to/board-$cpu.elf arm-none-eabi-size)"
    done
    xtensa $to/board-xtensa.elf
    report board-xtensa "$(text $to/board-xtensa.elf xtensa-lx106-elf-size)"
    riscv $to/board-riscv32.elf
    report board-riscv32 "$(text $to/board-riscv32.elf riscv64-unknown-elf-size)"
    riscv $to/emulated-riscv32.elf -DTIMER_HZ=10000000 # as its emulator has it
    no_heap $to/board-avr.elf
    no_copies $to/board-avr.elf 32
    no_copies $to/board-avr-texts.elf 110
    no_copies $to/board-avr-phone.elf 140
}

# shellcheck disable=SC2086
riscv() {
    image=$1
    shift
    riscv64-unknown-elf-gcc $warnings $alone $riscv "$@" -I$to/full \
        -DCUP_USES='"plan.h"' -o "$image" firmware/common/*.c \
        firmware/riscv/*.c $to/full/plan.c $core -lgcc
}

# Its toolchain has no library at all, not even for division: for size alone.
# shellcheck disable=SC2086
xtensa() {
    xtensa-lx106-elf-gcc $warnings $alone -mlongcalls -I$to/full -DCUP_USES='"plan.h"' \
        -T firmware/plain/part.ld -Wl,--unresolved-symbols=ignore-all -o "$1" \
        firmware/common/*.c firmware/plain/port.c $to/full/plan.c $core
}

# No heap, no floating point, no 64-bit division in the image of an AVR.
no_heap() {
    bad=$(avr-nm "$1" | awk '{print $3}' |
        grep -E '^(malloc|free|calloc|__u?divdi3|__u?moddi3|__addsf3|__mulsf3)' ||
        true)
    [ -z "$bad" ] || {
        say "  $1 holds $bad"
        over=1
    }
}

# no_copies IMAGE MOST: tables and texts of an AVR are in its flash; what is
# copied to RAM at the start is a few pointers, of MOST bytes.
no_copies() {
    copied=$(avr-size "$1" | awk 'NR == 2 {print $2}')
    [ "$copied" -le "$2" ] || {
        say "  $1 copies $copied bytes from flash to RAM"
        over=1
    }
}

# held NAME OUTPUT: of a test program, which must pass some and fail none.
held() {
    say "  $1: $(grep 'passed, ' "$2")"
    grep -qE '^[1-9][0-9]* passed, 0 failed' "$2" || over=1
}

# Timing scenarios and decoder vectors, as they are, on an AVR and a Cortex-M3;
# sentences on the latter.
# shellcheck disable=SC2086
tests_on_board() {
    say "Tests on boards"
    for test in decode time; do
        $avr -mmcu=atmega1284p -o $to/test-$test-avr.elf firmware/avr/hosted.c \
            tests/harness/harness.c tests/core/test_$test.c $whole -lm
        timeout 120 $to/simulate atmega1284p $to/test-$test-avr.elf /dev/null \
            >$to/test-$test-avr.out 2>/dev/null || true
        held "8-bit AVR, $test" $to/test-$test-avr.out
    done
    for test in decode time say; do
        arm-none-eabi-gcc -mthumb -mcpu=cortex-m3 $warnings $lean \
            --specs=rdimon.specs -T firmware/cortex-m/hosted.ld \
            -o $to/test-$test.elf firmware/cortex-m/hosted.c \
            tests/harness/harness.c tests/core/test_$test.c $whole -lm
        emulate test-$test.elf $arm_board >$to/test-$test.out 2>&1 || true
        held "Cortex-M3, $test" $to/test-$test.out
    done
}

# shellcheck disable=SC2086
pull_the_plug() {
    say "A board under simulation"
    sed 's/^steady = 8m/steady = 20s/; s/^flood = 9m/flood = 30s/' \
        examples/board/board.ini >$to/quick/board.ini
    bake $to/quick/board.ini --steered -o $to/quick/plan.c
    $avr -mmcu=atmega328p -o $to/quick.elf firmware/common/*.c \
        firmware/avr/port.c -I$to/quick -DCUP_USES='"plan.h"' \
        $to/quick/plan.c $core
    $to/plug $to/quick.elf "$cuts" 2>/dev/null | sed -n '/^[pW]/s/^/  /p' \
        >$to/plug.out
    cat $to/plug.out
    grep -q ' 0 wrong' $to/plug.out || over=1
    $to/talk $to/board-avr-texts.elf 2>/dev/null | sed -n '/^Loaded/!s/^/  /p' \
        >$to/talk.out
    cat $to/talk.out
    grep -q ' 0 wrong' $to/talk.out || over=1
    $to/phone $to/board-avr-phone.elf 2>/dev/null |
        sed -n '/^Loaded/!s/^/  /p' >$to/phone.out
    cat $to/phone.out
    grep -q ' 0 wrong' $to/phone.out || over=1
    talks "Cortex-M3 board" $arm_board $to/board-cortex-m3.elf "$host/cuplatch"
    talks "RISC-V board" $riscv_board $to/emulated-riscv32.elf "$host/cuplatch"
}

# shellcheck disable=SC2086
gcc $warnings -O2 -D_DEFAULT_SOURCE -o $to/simulate firmware/avr/simulate.c \
    -lsimavr -lelf
for program in plug talk phone; do
    gcc $warnings -O2 -D_DEFAULT_SOURCE -Iinclude -o $to/$program \
        firmware/avr/$program.c firmware/avr/bench.c tests/modem/simulated.c \
        -lsimavr -lelf
done
same_everywhere
sizes
programs
tests/lint/figures.sh $to/figures || over=1
tests_on_board
pull_the_plug
exit "$over"
