/* Runs an AVR image of vectors.c in simavr: the recording is behind its
 * GPIOR0, marks in GPIOR2 bound a pass. Says what the image says, then the
 * cycles of a pass, mean and most, the bytes of stack, and those of the image's
 * own variables.
 *
 * Use: simulate PART IMAGE RECORDING */
#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../vectors/target.h"

#define GPIOR0_AT 0x3E
#define GPIOR1_AT 0x4A
#define GPIOR2_AT 0x4B

/* What RAM holds before the image writes to it. */
#define UNTOUCHED 0xC5

struct bench {
    FILE *recording;
    uint64_t began; /* the pass under way, in cycles */
    uint64_t paused;
    uint64_t sum;
    uint64_t most;
    uint32_t passes;
    unsigned floor; /* where the image's own variables end */
    unsigned top;   /* where the stack was when the pass began */
    unsigned stack; /* the most that a pass took of it */
    bool over;
    int code;
};

static uint8_t read_byte(struct avr_t *avr, avr_io_addr_t address, void *self)
{
    const struct bench *bench = self;
    int byte = getc(bench->recording);
    avr->data[GPIOR1_AT] = byte == EOF;
    (void)address;
    return (uint8_t)byte;
}

static void say_byte(struct avr_t *avr, avr_io_addr_t address, uint8_t byte,
                     void *self)
{
    (void)avr, (void)address, (void)self;
    putchar(byte);
}

static void end(struct avr_t *avr, avr_io_addr_t address, uint8_t byte,
                void *self)
{
    struct bench *bench = self;
    (void)avr, (void)address;
    bench->over = true;
    bench->code = byte;
}

static unsigned stack_at(const avr_t *avr)
{
    return avr->data[R_SPL] | (unsigned)avr->data[R_SPH] << 8;
}

/* From `floor` up to what the stack reached nothing was written. */
static unsigned stack_of(const avr_t *avr, const struct bench *bench)
{
    unsigned at = bench->floor;
    while (at <= bench->top && avr->data[at] == UNTOUCHED)
        at++;
    return bench->top + 1 - at;
}

static void mark(struct avr_t *avr, avr_io_addr_t address, uint8_t byte,
                 void *self)
{
    struct bench *bench = self;
    (void)address;
    if (byte == TARGET_PAUSES) {
        bench->paused = avr->cycle;
        return;
    }
    if (byte == TARGET_GOES_ON) {
        bench->began += avr->cycle - bench->paused;
        return;
    }
    if (byte == TARGET_BEGINS) {
        bench->began = avr->cycle;
        bench->top = stack_at(avr);
        memset(avr->data + bench->floor, UNTOUCHED,
               bench->top + 1 - bench->floor);
        return;
    }
    unsigned stack = stack_of(avr, bench);
    if (stack > bench->stack)
        bench->stack = stack;
    uint64_t cycles = avr->cycle - bench->began;
    bench->passes++;
    bench->sum += cycles;
    if (cycles > bench->most)
        bench->most = cycles;
}

int main(int argc, char **argv)
{
    elf_firmware_t image = {0};
    struct bench bench = {0};
    if (argc != 4 || elf_read_firmware(argv[2], &image))
        return 2;
    avr_t *avr = avr_make_mcu_by_name(argv[1]);
    bench.recording = fopen(argv[3], "rb");
    if (!avr || !bench.recording)
        return 2;
    avr_init(avr);
    avr->log = LOG_ERROR;
    avr->frequency = 16000000;
    avr_load_firmware(avr, &image);
    bench.floor = 0x100 + image.datasize + image.bsssize;
    avr_register_io_read(avr, GPIOR0_AT, read_byte, &bench);
    avr_register_io_write(avr, GPIOR0_AT, say_byte, &bench);
    avr_register_io_write(avr, GPIOR1_AT, end, &bench);
    avr_register_io_write(avr, GPIOR2_AT, mark, &bench);
    while (!bench.over) {
        int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed)
            return 3;
    }
    printf("cycles %llu %llu stack %u ram %u\n",
           (unsigned long long)(bench.passes ? bench.sum / bench.passes : 0),
           (unsigned long long)bench.most, bench.stack, bench.floor - 0x100);
    return bench.code;
}
