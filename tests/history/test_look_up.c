/* What the page asks of a history, as its thread looks it up. */
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../history/gather.h"
#include "../../serve/page/look_up.h"
#include "../harness/harness.h"

/* Noon of a day in April, 2031. */
#define NOON INT64_C(1933761600)

static char path[100];

/* A history in which a thing has another level each minute. */
static void write_minutes(const char *unit, int minutes)
{
    char said[4400];
    const struct history_thing thing = {.name = "kale_soil",
                                        .kind = "sensor",
                                        .unit = unit,
                                        .steps = 100,
                                        .start = NAN,
                                        .stop = NAN};
    snprintf(path, sizeof(path), "/tmp/cup_look_up.%d", (int)getpid());
    unlink(path);
    struct history *history =
        history_open(path, HISTORY_WRITE, said, sizeof(said));
    if (!CHECK(history != NULL && history_begin(history)))
        exit(1);
    struct gather *gather = gather_open(
        history, history_site(history, "keeper", "Keeper", NULL, false));
    CHECK(gather_thing(gather, &thing));
    bool kept = true;
    for (int i = 0; i < minutes; i++) {
        const struct gather_level level = {
            .value = 20 + i % 2 * 40, .quality = "good", .samples = 1};
        kept = gather_level(gather, 0, NOON + INT64_C(60) * i, &level) && kept;
    }
    CHECK(kept && gather_until(gather, NOON + INT64_C(60) * minutes));
    CHECK(gather_gap(gather));
    CHECK(history_commit(history));
    gather_close(gather);
    history_close(history);
}

static struct looked_up sheet_to(int64_t to)
{
    const struct records_ask ask = {.kind = RECORDS_SHEET,
                                    .site = "keeper",
                                    .names = {"kale_soil"},
                                    .name_count = 1,
                                    .to = to,
                                    .most = 100};
    struct looked_up answer = {.json = NULL};
    look_up(path, &ask, &answer);
    return answer;
}

static void end(void)
{
    char command[400];
    snprintf(command, sizeof(command), "rm -f %s %s-*", path, path);
    CHECK_INT(system(command), 0);
}

/* A unit comes from whoever the site belongs to: it stays one field. */
CASE(a_sheet_has_a_field_for_each_text)
{
    write_minutes("%, of \"all\"", 2);
    struct looked_up answer = sheet_to(NOON * 2);
    CHECK_TEXT(answer.text ? answer.text : answer.wrong,
               "at,seconds,name,least,mean,most,unit\n"
               "2031-04-12T12:00:00Z,60,kale_soil,20,20,20,"
               "\"%, of \"\"all\"\"\"\n"
               "2031-04-12T12:01:00Z,60,kale_soil,60,60,60,"
               "\"%, of \"\"all\"\"\"\n");
    free(answer.text);
    end();
}

/* So many lines and no more; whoever wants them all is told how. */
CASE(a_sheet_without_end_is_refused_with_what_to_do)
{
    write_minutes("%", RECORDS_LINES_MOST + 1);
    struct looked_up answer = sheet_to(NOON * 2);
    CHECK(answer.text == NULL);
    CHECK_TEXT(answer.wrong, "more than 200000 lines: ask for fewer names, or "
                             "for a shorter time");
    free(answer.text);
    answer = sheet_to(NOON + INT64_C(60) * RECORDS_LINES_MOST);
    int lines = 0;
    for (const char *at = answer.text; at && *at; at++)
        lines += *at == '\n';
    CHECK_INT(lines, RECORDS_LINES_MOST + 1); /* and its head */
    free(answer.text);
    end();
}
