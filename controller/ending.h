/* How a program of a site ends: with which code, told to by whom, and what it
 * says when something failed. */
#ifndef CUPLATCH_CONTROLLER_ENDING_H
#define CUPLATCH_CONTROLLER_ENDING_H

enum exit_code {
    EXIT_DONE = 0,
    EXIT_NO = 1,     /* the answer is no: a check failed, a fault stands */
    EXIT_USAGE = 2,  /* wrong use */
    EXIT_OUTSIDE = 3 /* something outside failed */
};

/* Set once the program was told to end, by any signal that would end it; and a
 * descriptor that can be read from then on. Call stop_flag() first. */
const volatile int *stop_flag(void);
int stop_fd(void);

/* Tells on stderr what failed, and its errno if it has one. */
void tell_failure(const char *what, int why);

/* Tells on stderr why a file cannot be opened, from errno, which stays. Returns
 * EXIT_USAGE when there is no such file or it is a folder, else EXIT_OUTSIDE.
 */
int tell_unopened(const char *path);

#endif
