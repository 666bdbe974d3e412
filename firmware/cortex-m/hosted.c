/* The vectors of a program whose library starts it. */
extern char __stack[];
void _start(void);

__attribute__((section(".vectors"), used)) static const void *const table[2] = {
    __stack, (const void *)_start};
