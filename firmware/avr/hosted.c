/* A test program on a simulated AVR: what it prints is written to a general
 * purpose register, and its end ends the simulation. */
#include <avr/io.h>
#include <stdio.h>

static int say(char letter, FILE *to)
{
    (void)to;
    GPIOR0 = (uint8_t)letter;
    return 0;
}

static FILE out = FDEV_SETUP_STREAM(say, NULL, _FDEV_SETUP_WRITE);

__attribute__((constructor)) static void open_out(void)
{
    stdout = &out;
}

/* main() is given no words: its two registers hold nothing of worth. */
__attribute__((naked, used, section(".init8"))) static void no_words(void)
{
    __asm__ volatile("clr r24\n\tclr r25");
}

/* Whatever is written to GPIOR1 ends the simulation. */
__attribute__((destructor)) static void end(void)
{
    GPIOR1 = 0;
}
