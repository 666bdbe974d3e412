/* What people text: what it means, whether it may be, what is answered; and
 * when texts go out. No modem, no clock. */
#include <string.h>

#include "../../serve/texts/incoming.h"
#include "../../serve/texts/when.h"
#include "../harness/harness.h"

static struct incoming texted(const char *text)
{
    struct incoming said;
    struct cup_message message = {.sent_s = 1000};
    snprintf(message.from, sizeof(message.from), "+351900000001");
    snprintf(message.text, sizeof(message.text), "%s", text);
    incoming_read(&said, &message, "mara");
    return said;
}

CASE(texts_are_words_however_they_are_typed)
{
    static const struct {
        const char *text, *code, *means;
    } rows[] = {{"Stop", "", "site hold"},
                {"  HOLD \n", "", "site hold"},
                {"off lift", "", "lift off"},
                {"Off  Lift", "", "lift off"},
                {"lift off", "", "lift off"},
                {"off", "", "off"},
                {"off the lift", "", "off the lift"},
                {"123456 lift hand 5m", "123456", "lift hand 5m"},
                {"123456  Site GO", "123456", "site go"},
                {"12345 site go", "", "12345 site go"},
                {"1234567 site go", "", "1234567 site go"},
                {"123456", "", "123456"},
                {"", "", ""}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct incoming said = texted(rows[i].text);
        char code[7] = "";
        harness_at("%s", rows[i].text);
        (void)incoming_code(&said, code);
        incoming_plain(&said);
        CHECK_TEXT(code, rows[i].code);
        CHECK_TEXT(said.text, rows[i].means);
    }
    harness_at(NULL);
}

CASE(who_may_say_what)
{
    static const struct {
        const char *text;
        bool looker, person, coded;
    } rows[] = {{"levels", true, true, true},
                {"why lift", true, true, true},
                {"status", true, true, true},
                {"ask pumps", true, true, true},
                {"whys", false, false, true},
                {"stop", false, true, true},
                {"off lift", false, true, true},
                {"lift off", false, true, true},
                {"lift auto", false, false, true},
                {"lift hand 5m", false, false, true},
                {"site go", false, false, true},
                {"site clock 2031-05-10t06:00:00", false, false, true},
                {"kale.start 30%", false, false, true}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        struct incoming said = texted(rows[i].text);
        harness_at("%s", rows[i].text);
        incoming_plain(&said);
        CHECK(incoming_may(&said, true, false) == rows[i].looker);
        CHECK(incoming_may(&said, false, false) == rows[i].person);
        CHECK(incoming_may(&said, false, true) == rows[i].coded);
    }
    harness_at(NULL);
    struct incoming help = texted("Help");
    CHECK(incoming_wants_help(&help));
    help = texted(" ? ");
    CHECK(incoming_wants_help(&help));
    help = texted("helpers");
    CHECK(!incoming_wants_help(&help));
}

static void becomes(const char *text, const char *kind, const char *word)
{
    struct incoming said = texted(text);
    harness_at("%s", text);
    incoming_plain(&said);
    json_t *body = incoming_body(&said);
    const json_t *list = json_object_get(body, kind);
    const char *first = json_string_value(json_array_get(list, 0));
    CHECK_TEXT(first ? first : "", word);
    CHECK_INT(json_integer_value(json_object_get(body, "t")), 1000);
    CHECK(json_string_length(json_object_get(body, "id")) > 20);
    json_decref(body);
    harness_at(NULL);
}

CASE(words_reach_the_desk_as_others_do)
{
    becomes("off lift", "tell", "lift off");
    becomes("tell lift auto", "tell", "lift auto");
    becomes("stop", "tell", "site hold");
    becomes("ask levels", "ask", "levels");
    becomes("why lift", "ask", "why lift");
    becomes("status", "ask", "alerts");
    /* the same text again is the same; another moment is another */
    struct incoming one = texted("stop");
    struct incoming two = texted("stop");
    struct incoming other = texted("stop ");
    CHECK_TEXT(one.id, two.id);
    CHECK(strcmp(one.id, other.id) != 0);
}

CASE(an_answer_is_one_line)
{
    struct incoming said = texted("levels");
    char text[60];
    json_t *answer =
        json_pack("{s:b, s:[s, s]}", "done", 1, "answers", "a 1 %\nb 2 %", "c");
    incoming_answer(&said, answer, text, sizeof(text));
    CHECK_TEXT(text, "a 1 %; b 2 %; c");
    incoming_answer(&said, answer, text, 8);
    CHECK(strlen(text) < 8);
    json_decref(answer);
    answer = json_pack("{s:s}", "error", "no such pump");
    incoming_answer(&said, answer, text, sizeof(text));
    CHECK_TEXT(text, "refused: no such pump");
    json_decref(answer);
    answer = json_pack("{s:b, s:[]}", "done", 1, "answers");
    incoming_answer(&said, answer, text, sizeof(text));
    CHECK_TEXT(text, "nothing");
    said = texted("hold");
    incoming_plain(&said);
    incoming_answer(&said, answer, text, sizeof(text));
    CHECK(strstr(text, "site go") != NULL);
    json_decref(answer);
}

CASE(quiet_hours_go_over_midnight)
{
    static const struct {
        int from, to, minute;
        bool quiet;
    } rows[] = {{1320, 390, 1319, false}, {1320, 390, 1320, true},
                {1320, 390, 1439, true},  {1320, 390, 0, true},
                {1320, 390, 389, true},   {1320, 390, 390, false},
                {60, 120, 59, false},     {60, 120, 60, true},
                {60, 120, 119, true},     {60, 120, 120, false},
                {0, 0, 0, false},         {600, 600, 600, false}};
    for (size_t i = 0; i < sizeof(rows) / sizeof(rows[0]); i++) {
        harness_at("%d..%d at %d", rows[i].from, rows[i].to, rows[i].minute);
        CHECK(when_is_quiet(rows[i].from, rows[i].to, rows[i].minute) ==
              rows[i].quiet);
    }
    harness_at(NULL);
}

CASE(questions_leave_half_of_a_day_to_alerts)
{
    struct today today = {.day = 5};
    int answers = 0;
    while (when_may_answer(&today, 7)) {
        answers++;
        today.answers++;
        today.count++;
    }
    CHECK_INT(answers, 4);
    int alerts = 0;
    while (when_may_alert(&today, 7, false)) {
        alerts++;
        today.count++;
    }
    CHECK_INT(alerts, 3);
    CHECK(!when_may_answer(&today, 7));
    CHECK(when_may_alert(&today, 7, true)); /* what does harm always goes */
    CHECK(!when_begins(&today, 5));
    CHECK(when_begins(&today, 6));
    CHECK(when_may_answer(&today, 7) && when_may_alert(&today, 7, false));
    CHECK_INT(when_sent(65530, 65535), 5);
    CHECK_INT(when_sent(9, 2), 2); /* plugged in again */
}

CASE(codes_are_not_found_by_trying)
{
    struct wrong_codes wrong = {.count = 0};
    int64_t now = 1000000;
    CHECK(when_codes_count(&wrong, now));
    for (int i = 0; i < WHEN_WRONG_MOST; i++) {
        CHECK(when_codes_count(&wrong, now));
        when_wrong_code(&wrong, now);
        now += 3600;
    }
    CHECK(!when_codes_count(&wrong, now));
    CHECK(!when_codes_count(&wrong, now - 3600 + WHEN_WRONG_S - 1));
    CHECK(when_codes_count(&wrong, now - 3600 + WHEN_WRONG_S));
    /* a day later it begins anew */
    now += WHEN_WRONG_S;
    when_wrong_code(&wrong, now);
    CHECK(when_codes_count(&wrong, now));
    CHECK(when_codes_count(&wrong, now - 5)); /* a clock that was set back */
    /* each person's own */
    struct wrong_codes list[2] = {{.count = 0}};
    when_wrong_code(when_wrong_by(list, 2, "mara"), 10);
    when_wrong_code(when_wrong_by(list, 2, "otto"), 20);
    CHECK_INT(when_wrong_by(list, 2, "mara")->count, 1);
    CHECK_INT(when_wrong_by(list, 2, "otto")->count, 1);
    CHECK_INT(when_wrong_by(list, 2, "nell")->count, 0);
    CHECK_INT(when_wrong_by(list, 2, "otto")->count, 1);
}
