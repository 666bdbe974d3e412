/* What is to be sent is read in order until it has arrived, and again for
 * whoever missed it. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <unistd.h>

#include "../../history/outbox.h"
#include "../harness/harness.h"

static char path[100];
static struct history *history;
static char seen[2000]; /* texts, as they were read */
static int64_t last;    /* message */
static long count;

static void begin(void)
{
    char said[4400];
    snprintf(path, sizeof(path), "/tmp/cup_outbox.%d", (int)getpid());
    unlink(path);
    history = history_open(path, HISTORY_WRITE, said, sizeof(said));
    CHECK_TEXT(said, "");
    CHECK(history_begin(history));
}

static void end(void)
{
    char command[300];
    history_close(history);
    snprintf(command, sizeof(command), "rm -f %s %s-*", path, path);
    CHECK_INT(system(command), 0);
}

static void put(const char *site, int64_t number, const char *text)
{
    CHECK(outbox_put(history, site, number, text));
}

static void take(void *self, int64_t message, const char *text)
{
    (void)self;
    CHECK(message > last);
    last = message;
    count++;
    if (strlen(seen) + strlen(text) + 2 < sizeof(seen))
        snprintf(seen + strlen(seen), sizeof(seen) - strlen(seen), "%s ", text);
}

static const char *waiting(const char *site, int64_t after, int most)
{
    *seen = '\0';
    last = after;
    CHECK(outbox_read(history, site, after, most, take, NULL));
    return seen;
}

/* What somebody gets who knows the event of a number. */
static const char *missed(const char *site, int64_t number)
{
    *seen = '\0';
    last = outbox_find(history, site, number);
    count = 0;
    CHECK(outbox_again(history, site, last, 100000, take, NULL));
    return seen;
}

CASE(what_waits_is_read_in_order_until_it_has_arrived)
{
    begin();
    put("home", 70, "a");
    put("away", 5, "b");
    put("home", 71, "c");
    put("home", 72, "d");
    CHECK_TEXT(waiting("home", 0, 9), "a c d ");
    CHECK_TEXT(waiting("home", 0, 2), "a c ");
    CHECK_TEXT(waiting("home", 1, 9), "c d ");
    CHECK_TEXT(waiting("away", 0, 9), "b ");
    CHECK(outbox_sent(history, 3));
    CHECK_TEXT(waiting("home", 0, 9), "a d ");
    end();
}

CASE(whoever_missed_some_gets_all_after_the_one_it_knows)
{
    begin();
    for (int i = 0; i < 4; i++) {
        char text[2] = {(char)('a' + i), '\0'};
        put("home", 70 + i, text);
        CHECK(outbox_sent(history, i + 1));
    }
    put("away", 71, "x");
    CHECK_TEXT(missed("home", 71), "c d ");
    CHECK_TEXT(missed("home", 73), "");
    /* one that is not kept any more, and one from before all of them */
    CHECK_TEXT(missed("home", 40), "a b c d ");
    CHECK_TEXT(missed("home", -1), "a b c d ");
    /* a controller that counts anew: of two that have a number the last */
    put("home", 0, "e");
    put("home", 1, "f");
    CHECK_TEXT(missed("home", 73), "e f ");
    CHECK_TEXT(missed("home", 0), "f ");
    put("home", 71, "g");
    CHECK_TEXT(missed("home", 71), "");
    /* of a number that nobody had all are new */
    CHECK_TEXT(missed("home", 99), "a b c d e f g ");
    end();
}

CASE(what_was_sent_is_kept_for_a_while_and_no_longer)
{
    bool more = false;
    begin();
    for (int i = 0; i < OUTBOX_KEPT + 300; i++)
        put("home", i, "x");
    for (int i = 0; i < 100; i++)
        CHECK(outbox_sent(history, i + 1));
    CHECK(history_commit(history));
    CHECK(history_fold(history, 0, 0, &more));
    /* of the 300 too many 100 were sent; the others wait */
    (void)missed("home", -1);
    CHECK_INT(count, OUTBOX_KEPT + 200);
    end();
}
