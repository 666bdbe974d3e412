/* Whoever fails tries again, after a pause that doubles up to a most. */
#ifndef CUPLATCH_SERVE_COMMON_PAUSE_H
#define CUPLATCH_SERVE_COMMON_PAUSE_H

static inline int pause_longer(int pause_s, int most_s)
{
    return 2 * pause_s < most_s ? 2 * pause_s : most_s;
}

#endif
