/* What is proposed of one thing, in words. */
#include "advice.h"

void advice_tell(struct advising *advising, cup_index i)
{
    const struct advised *advised = &advising->things[i];
    if (advised->count == 0)
        puts("  nothing to change.");
    for (size_t p = 0; p < advised->count; p++) {
        const struct proposal *proposal = &advised->proposals[p];
        const char *was = cup_file_value(
            advising->site.file, advised_name(advising, i), proposal->key);
        printf("  %s = %s (%s%s%s)\n", proposal->key, proposal->value,
               was ? "was " : "new", was ? was : "",
               proposal->looser ? "; LOOSER than the file" : "");
        print_wrapped(stdout, "      ", proposal->why);
        advising->looser += proposal->looser;
    }
    advising->proposed += advised->count;
}
