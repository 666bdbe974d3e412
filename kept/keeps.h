/* What a controller keeps on disk. */
#ifndef CUPLATCH_KEPT_KEEPS_H
#define CUPLATCH_KEPT_KEEPS_H

/* What is to be kept, each null if it is not: a journal at a path, the raw log
 * in a directory, of so many days. */
struct writer_keeps {
    const char *journal;
    const char *raw;
    int raw_days;
};

#endif
