/* cuplatch plot DIR|HISTORY -o FILE: what a rehearsal left, or days of a
 * history, as one picture. */
#include <stdlib.h>
#include <sys/stat.h>

#include "common/cli.h"
#include "picture/picture.h"
#include "picture/record.h"
#include "report/forms.h"

/* A history in the place of a folder. */
static int draw_history(void *self, struct history *history,
                        const struct report *report)
{
    return report_plot(history, report, self);
}

static bool is_folder(const char *path)
{
    struct stat about;
    return stat(path, &about) != 0 || S_ISDIR(about.st_mode);
}

int plot_main(int argc, const char **argv)
{
    char *to = NULL;
    struct report_days days = {.week = 0};
    struct poptOption options[] = {{"output", 'o', POPT_ARG_STRING, &to, 0,
                                    "the picture: .png or .svg", "FILE"},
                                   REPORT_OPTIONS(days),
                                   POPT_AUTOHELP POPT_TABLEEND};
    struct words words;
    int code = EXIT_USAGE;
    if (!words_read(&words, argc, argv, options, "DIR or HISTORY -o FILE", 1,
                    32))
        code = EXIT_USAGE;
    else if (!to)
        code = wrong_use(&words, "%s needs -o FILE", words.list[0]);
    else if (!picture_form(to))
        code = wrong_use(
            &words, "-o %s: expected a file that ends with .png or .svg", to);
    else if (!is_folder(words.list[0]))
        code = report_of(&words, &days, draw_history, to);
    else if (words.count > 1 || days.week || days.from || days.to || days.site)
        wrong_use(&words,
                  "days and things are chosen of a history; %s is a folder",
                  words.list[0]);
    else
        code = plot_record(words.list[0], to);
    report_forget(&days);
    free(to);
    words_free(&words);
    return code;
}
