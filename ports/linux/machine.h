/* Where this machine keeps what it is made of. */
#ifndef CUPLATCH_PORTS_MACHINE_H
#define CUPLATCH_PORTS_MACHINE_H

/* Before "/sys": nothing; tests put a folder there that looks like it. */
const char *machine_root(void);

/* Before a worker that died is started again, at first. */
int machine_pause_ms(void);

#endif
