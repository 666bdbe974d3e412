/* Words that come by a broker: what moves something, and what does not. */
#include <signal.h>
#include <stdio.h>
#include <string.h>
#include <time.h>

#include "../../ports/common/wall.h"
#include "../harness/harness.h"
#include "listener.h"
#include "programs.h"

NEEDS_PROGRAM("mosquitto")

/* Says something to the site, so many seconds ago. */
static void tell(const char *id, int ago_s, const char *kind, const char *word,
                 bool retained)
{
    char text[300];
    snprintf(text, sizeof(text), "{\"id\":\"%s\",\"t\":%lld,\"%s\":[\"%s\"]}",
             id, (long long)time(NULL) - ago_s, kind, word);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", (int)strlen(text),
                      text, 1, retained);
}

static const char answers[] = "yard/keeper/answers";
static const char lift[] = "yard/keeper/outputs/lift";

/* The answer to an id. */
static bool answered(const char *id, const char *text)
{
    char named[80];
    snprintf(named, sizeof(named), "\"id\":\"%s\"", id);
    return CHECK(wait_for(answers, named)) && CHECK(has(answers, text));
}

CASE(words_from_a_broker_go_through_the_checks_of_the_console)
{
    begin("words", "words = yes\n", "allow_anonymous true");
    start_all();
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("a1", 0, "tell", "lift off", false);
    answered("a1", "\"done\":true");
    CHECK(wait_for(lift, "\"switch\":\"off\""));
    tell("a2", 0, "tell", "lift sideways", false);
    answered("a2", "\"error\":\"expected ");
    tell("a3", 0, "ask", "why lift", false);
    answered("a3", "lift is switched off, until auto or hand");
    /* too late, from the time to come, again */
    tell("a4", 300, "tell", "lift auto", false);
    answered("a4", "too long ago");
    tell("a5", -300, "tell", "lift auto", false);
    answered("a5", "too long ago, or by another clock");
    tell("a1", 0, "tell", "lift auto", false);
    answered("a1", "said already");
    CHECK(wait_refused("late", 3)); /* an event of the site, each */
    CHECK(has(lift, "\"switch\":\"off\""));
    tell("a6", 0, "tell", "lift auto", false);
    answered("a6", "\"done\":true");
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    /* who says it is not believed to be a text that is well made */
    static const char odd[] =
        "{\"id\":\"a7\",\"ask\":[\"levels\"],\"by\":"
        "\"somebody whose name is cut here\xc3\xa4\xc3\xa4\"}";
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", (int)strlen(odd),
                      odd, 1, false);
    answered("a7", "\"done\":true");
    /* and refused it is an event all the same */
    static const char late[] =
        "{\"id\":\"a8\",\"t\":1,\"tell\":[\"lift auto\"],\"by\":"
        "\"somebody whose name is cut here\xc3\xa4\xc3\xa4\"}";
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", (int)strlen(late),
                      late, 1, false);
    answered("a8", "too long ago");
    CHECK(wait_refused("late", 4));
    /* what only stops always does */
    tell("a6", 9999, "tell", "lift off", false);
    CHECK(wait_for(lift, "\"switch\":\"off\""));
    end_all();
}

CASE(a_word_that_was_taken_is_known_after_a_start_and_a_retained_one_is_nobodys)
{
    begin("known", "words = yes\n", "allow_anonymous true");
    start_all();
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("b0", 0, "tell", "lift off", false);
    answered("b0", "\"done\":true");
    tell("b1", 0, "tell", "lift auto", false);
    answered("b1", "\"done\":true");
    tell("b2", 0, "tell", "lift off", false);
    answered("b2", "\"done\":true");
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    CHECK(wait_for("yard/keeper/here", "no"));
    /* it waits there for whoever comes */
    tell("b3", 0, "tell", "lift auto", true);
    serve = start_serve(0);
    CHECK(wait_for("yard/keeper/here", "yes"));
    tell("b1", 0, "tell", "lift auto", false);
    answered("b1", "said already");
    tell("b4", 0, "tell", "lift auto", true);
    CHECK(wait_log("retained words are nobody's"));
    CHECK(wait_refused("retained", 1));
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/words", 7, "{\"id\": ", 1,
                      false);
    CHECK(wait_for(answers, "expected one JSON object"));
    CHECK(has(lift, "\"switch\":\"off\""));
    end_all();
}

CASE(where_the_file_takes_no_words_a_stranger_moves_nothing)
{
    begin("no_words", "", "allow_anonymous true");
    start_all();
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("c1", 0, "tell", "lift off", false);
    tell("c2", 0, "ask", "levels", false);
    nap(2000);
    CHECK(has(lift, "\"switch\":\"auto\""));
    CHECK(!has(answers, ""));
    end_all();
}

CASE(while_the_clock_is_nobodys_only_words_that_stop_are_taken)
{
    bool right = wall_is_right();
    begin("clock", "words = yes\n", "allow_anonymous true");
    broker = start_broker();
    garden = start_garden();
    const char *const words[] = {SERVE, in_dir("serve.ini"), NULL};
    serve = start(words, "serve.log", 0);
    listen_in(NULL, NULL);
    CHECK(wait_for(lift, "\"switch\":\"auto\""));
    tell("d1", 0, "tell", "lift hand 1m", false);
    answered("d1", right ? "\"done\":" : "clock is not set by the world's");
    tell("d2", 0, "tell", "lift off", false);
    answered("d2", "\"done\":true");
    end_all();
}
