/* Runs an AVR image in simavr, the recording behind its GPIOR0.
 *
 * Use: simulate PART MHZ IMAGE RECORDING */
#include <stdbool.h>
#include <stdio.h>
#include <stdlib.h>

#include <simavr/sim_avr.h>
#include <simavr/sim_elf.h>

#define GPIOR0_AT 0x3E
#define GPIOR1_AT 0x4A

struct link {
    FILE *recording;
    bool over;
    int code;
};

static uint8_t read_byte(struct avr_t *avr, avr_io_addr_t address, void *self)
{
    struct link *link = self;
    int byte = getc(link->recording);
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
    struct link *link = self;
    (void)avr, (void)address;
    link->over = true;
    link->code = byte;
}

int main(int argc, char **argv)
{
    elf_firmware_t image = {0};
    struct link link = {0};
    if (argc != 5 || elf_read_firmware(argv[3], &image))
        return 2;
    avr_t *avr = avr_make_mcu_by_name(argv[1]);
    link.recording = fopen(argv[4], "rb");
    if (!avr || !link.recording)
        return 2;
    avr_init(avr);
    avr->frequency = (uint32_t)(atof(argv[2]) * 1e6);
    avr_load_firmware(avr, &image);
    avr_register_io_read(avr, GPIOR0_AT, read_byte, &link);
    avr_register_io_write(avr, GPIOR0_AT, say_byte, &link);
    avr_register_io_write(avr, GPIOR1_AT, end, &link);
    while (!link.over) {
        int state = avr_run(avr);
        if (state == cpu_Done || state == cpu_Crashed)
            return 3;
    }
    return link.code;
}
