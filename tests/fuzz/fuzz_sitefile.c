/* Site files of any bytes: read, told what is wrong or what they do, edited. */
#include <stdlib.h>
#include <string.h>

#include "../../grammar/edit.h"
#include "../../sitefile/sitefile.h"

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count);

int LLVMFuzzerTestOneInput(const uint8_t *bytes, size_t count)
{
    static FILE *nowhere;
    if (!nowhere)
        nowhere = fopen("/dev/null", "w");
    char *text = strndup((const char *)bytes, count);
    FILE *in = fmemopen(text, strlen(text) + 1, "r");
    struct cup_file *file = in ? cup_file_read_from(in, "fuzz") : NULL;
    if (file) {
        cup_file_problems(file, nowhere);
        if (cup_file_errors(file) == 0)
            cup_file_explain(file, nowhere);
    }
    struct cup_edit edit = {"a", "k", "1"};
    free(cup_edit_text(text, &edit, 1));
    if (in)
        fclose(in);
    cup_file_free(file);
    free(text);
    return 0;
}
