#!/bin/sh
# Includes that may not be, each planted in a copy of the tree: rooms.sh names all.
set -eu
cd "$(dirname "$0")/../.."
scratch=$(mktemp -d)
tree=$scratch/tree
mkdir "$tree"
trap 'rm -rf "$scratch"' EXIT
git ls-files -co --exclude-standard -- '*.[ch]' | tar -c -T - | tar -x -C "$tree"
failed=0
count=0
# planted FILE INCLUDE: one more line at its end
planted() {
    count=$((count + 1))
    mkdir -p "$tree/$(dirname "$1")"
    cp "$tree/$1" "$scratch/before" 2>/dev/null || : >"$scratch/before"
    echo "#include $2" >>"$tree/$1"
    if tests/lint/rooms.sh "$tree" 2>"$scratch/said" || ! grep -q "^$(dirname "$1")[:/]" "$scratch/said"; then
        echo "planted, and not noticed: $1: #include $2" >&2
        failed=1
    fi
    if [ -s "$scratch/before" ]; then cp "$scratch/before" "$tree/$1"; else rm "$tree/$1"; fi
}
# against the flow
planted src/measure/sensor.c '"cuplatch/pump.h"'
planted src/measure/sensor.c '"../act/../../include/cuplatch/pump.h"'
planted src/decide/latch.c '"cuplatch/site.h"'
planted src/act/guard.c '"../site/inside.h"'
planted src/tell/say.c '"../site/entry.h"'
planted src/site/hear.c '"../measure/checks.h"'
planted src/site/hear.c '<stdio.h>'
planted src/site/hear.c '<cuplatch/say.h>'
planted src/measure/tank.c '  "../../ports/common/json.h"'
planted include/cuplatch/latch.h '"../../src/site/inside.h"'
# who must not know whom
planted garden/water.c '"cuplatch/site.h"'
planted garden/water.c '"../ports/sim/sim.h"'
planted grammar/text.c '"../sitefile/sitefile.h"'
planted history/read.c '"../socket/view.h"'
planted report/make.c '"../history/inside.h"'
planted advice/bed.c '"../sitefile/sitefile.h"'
planted pins/join.c '"../ports/linux/linux.h"'
planted ports/log/log.c '"../lines/inside.h"'
planted ports/sim/sim.c '"../../garden/inside.h"'
planted controller/worker.c '"../cli/common/cli.h"'
planted controller/worker.c '"../serve/link/link.h"'
planted kept/ring.c '"../controller/ready.h"'
planted socket/desk.c '"../controller/ready.h"'
# the outside has no pin and no decision
planted serve/words/words.c '"../../controller/controller.h"'
planted serve/broker/hear.c '"../page/page.h"'
planted serve/texts/texts.c '"../page/keys.h"'
planted serve/link/link.c '"../past/past.h"'
planted serve/afar/afar.c '"../broker/requests.h"'
planted serve/alerts/post.c '"../../ports/linux/gpio.h"'
planted serve/page/page.c '"../../socket/desk.h"'
planted serve/common/note.c '"../config.h"'
planted cli/picture/draw.c '"../rehearse/record.h"'
planted cli/report.c '"picture/draw.h"'
planted cli/look/live.c '"../calibrate/samples.h"'
planted examples/one_latch.c '"../src/site/inside.h"'
planted tests/core/test_say.c '"../../src/tell/show.h"'
# however it is written
planted src/measure/sensor.c '"cuplatch/../../src/site/inside.h"'
planted serve/link/link.c '"../link/../past/past.h"'
planted serve/link/link.c '"./../past/past.h"'
# what nobody gave a place
planted attic/attic.c '<stdio.h>'
planted src/attic/attic.c '"cuplatch/base.h"'
planted src/act/guard.c '"nowhere.h"'
tests/lint/rooms.sh "$tree" || failed=1
[ "$failed" -eq 0 ] && echo "rooms: $count planted includes are all refused"
exit "$failed"
