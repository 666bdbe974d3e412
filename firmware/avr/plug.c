/* Pulls the plug of a board again and again, at random cycles, and looks after
 * every instruction at what must hold.
 *
 *   - no relay is on before the boot wait is over
 *   - no two pumps run together
 *   - the journal is never lost
 *   - a flood that was given before the cuts does not come again after them
 *   - what is said to its serial line is answered, and done
 *
 * The image's site has its times shortened: day after 20 s of light, floods of
 * 30 s.
 *
 * Use: plug IMAGE CUTS */
#include <stdio.h>
#include <stdlib.h>

#include "bench.h"
#include "cuplatch/base.h"
#include "cuplatch/reason.h"

#define BOOT_WAIT_S 15

/* Numbers of things in examples/board/board.ini. */
enum { TRAY_PUMP = 11, READINGS = 9, PUMPS = 3 };
#define TRAY_RELAY 0x40

struct talk {
    unsigned floods;
    unsigned restored;
    int answer; /* to what was said last; -1: none */
    unsigned readings;
    unsigned pumps;
};

/* What the board says: ms, of, kind, about, reason, value, limit. Shorter lines
 * are answers. */
static void look_at_line(struct bench *bench)
{
    struct talk *talk = bench->self;
    unsigned t_ms, of, kind, about, reason;
    int value, limit;
    int numbers = sscanf(bench->line, "%u %u %u %u %u %d %d", &t_ms, &of, &kind,
                         &about, &reason, &value, &limit);
    if (numbers == 1)
        talk->answer = (int)t_ms;
    talk->readings += numbers == 3;
    talk->pumps += numbers == 6;
    if (numbers != 7 && numbers != 6 && numbers != 3 && numbers != 1)
        bench_wrong(bench, bench->line);
    if (numbers != 7)
        return;
    talk->floods += of == TRAY_PUMP && kind == CUP_KIND_START;
    talk->restored += reason == CUP_REASON_JOURNAL;
    if (reason == CUP_REASON_JOURNAL_LOST || reason == CUP_REASON_JOURNAL_OTHER)
        bench_wrong(bench, "the journal is lost");
}

static void check(struct bench *bench)
{
    unsigned on = bench_relays(bench);
    if (on == 0)
        return;
    if (bench->avr->cycle - bench->booted < (uint64_t)BOOT_WAIT_S * BENCH_HZ)
        bench_wrong(bench, "a relay is on before the boot wait is over");
    if (on & (on - 1))
        bench_wrong(bench, "two pumps run together");
}

/* Says a line to the board and waits for two passes. */
static void say(struct bench *bench, const char *text, int answer)
{
    struct talk *talk = bench->self;
    talk->answer = -1;
    bench_type(bench, text);
    bench_run(bench, 2 * BENCH_HZ);
    if (talk->answer != answer)
        bench_wrong(bench, text);
}

static void expect_relays(struct bench *bench, unsigned relays)
{
    if (bench_relays(bench) != relays)
        bench_wrong(bench, "a relay is not as it was steered");
}

/* By hand, off, on hold, and what is asked. */
static void steer(struct bench *bench)
{
    struct talk *talk = bench->self;
    say(bench, "hand 11 60\n", CUP_OK);
    expect_relays(bench, TRAY_RELAY);
    say(bench, "hold\n", CUP_OK);
    expect_relays(bench, 0);
    say(bench, "go\n", CUP_OK);
    say(bench, "off 11\n", CUP_OK);
    expect_relays(bench, 0);
    say(bench, "auto 11\n", CUP_OK);
    say(bench, "clear 9\n", CUP_OK);
    say(bench, "hand 11 999999\n", CUP_ERROR_RANGE);
    say(bench, "off 3\n", CUP_ERROR_NAME);
    say(bench, "ask\n", -1);
    if (talk->readings != READINGS || talk->pumps != PUMPS)
        bench_wrong(bench, "ask was not answered");
}

static uint32_t chance(uint32_t most)
{
    static uint64_t state = 88172645463325252u;
    state ^= state << 13;
    state ^= state >> 7;
    state ^= state << 17;
    return (uint32_t)(state >> 33) % most;
}

int main(int argc, char **argv)
{
    static struct talk talk;
    static struct bench bench = {
        .heard = look_at_line, .check = check, .self = &talk};
    if (argc != 3 || !bench_begin(&bench, "atmega328p", argv[1]))
        return 2;
    unsigned cuts = (unsigned)strtoul(argv[2], NULL, 10);
    /* dawn, and a flood to its end */
    bench_run(&bench, UINT64_C(2) * 60 * BENCH_HZ);
    if (talk.floods != 1)
        bench_wrong(&bench, "no flood came at dawn");
    for (unsigned i = 0; i < cuts; i++) {
        bench_run(&bench, chance(4 * BENCH_HZ));
        bench_cut(&bench);
    }
    bench_run(&bench, UINT64_C(2) * 60 * BENCH_HZ);
    if (talk.floods != 1)
        bench_wrong(&bench, "the flood came again");
    if (talk.restored < cuts / 2)
        bench_wrong(&bench, "the journal was seldom read back");
    steer(&bench);
    printf("plug pulled %u times, journal read back %u times, %u wrong\n", cuts,
           talk.restored, bench.wrong);
    return bench.wrong > 0;
}
