/* cuplatch-serve and a real broker: what a controller says is there, retained
 * or in order, whatever becomes of the broker, the network and the program. */
#include <signal.h>
#include <sqlite3.h>
#include <stdio.h>
#include <stdlib.h>
#include <unistd.h>

#include "../harness/harness.h"
#include "listener.h"
#include "programs.h"

NEEDS_PROGRAM("mosquitto")

/* Events that the history has. */
static long count_events(void)
{
    sqlite3 *file;
    sqlite3_stmt *row;
    long count = 0;
    if (sqlite3_open(in_dir("history.db"), &file) == SQLITE_OK &&
        sqlite3_prepare_v2(file, "SELECT count(*) FROM events", -1, &row,
                           NULL) == SQLITE_OK) {
        if (sqlite3_step(row) == SQLITE_ROW)
            count = (long)sqlite3_column_int64(row, 0);
        sqlite3_finalize(row);
    }
    sqlite3_close(file);
    return count;
}

CASE(what_a_controller_says_is_there_for_whoever_listens)
{
    begin("here", "", "allow_anonymous true");
    start_all();
    CHECK(wait_for("yard/keeper/here", "yes "));
    CHECK(wait_for("yard/keeper/site", "\"Keeper's Garden\""));
    CHECK(wait_for("yard/keeper/levels/header", "\"litres\""));
    CHECK(wait_for("yard/keeper/outputs/lift", "\"switch\":\"auto\""));
    CHECK(wait_for("yard/keeper/outputs/lift", "\"out\":"));
    CHECK(wait_for("yard/keeper/standing", "["));
    /* killed, its last will says so; and it is itself again */
    CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
    CHECK(wait_for("yard/keeper/here", "no"));
    serve = start_serve(0);
    CHECK(wait_for("yard/keeper/here", "yes "));
    /* a controller that goes is not here, either */
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_for("yard/keeper/here", "no"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(every_event_arrives_in_order_whatever_breaks)
{
    begin("events", "", "allow_anonymous true");
    broker = start_broker();
    listen_in(NULL, NULL);
    nap(500);
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    for (int i = 0; i < 3; i++) {
        nap(1500);
        finish(broker, SIGTERM); /* it keeps its sessions */
        nap(1500);
        broker = start_broker();
        nap(2500);
        CHECK_INT(finish(serve, SIGKILL), -SIGKILL);
        serve = start_serve(0);
    }
    CHECK(wait_log("broker garden: is there"));
    nap(1500);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away; trying again"));
    long recorded = count_lines("record/events.jsonl");
    for (int i = 0; i < WAIT_MS / 50 && ear.last + 1 < recorded; i++)
        nap(50);
    nap(500);
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(ear.odd, 0);
    /* of its last moment nobody could hear */
    CHECK(ear.events > 50 && ear.events >= recorded - 20);
    CHECK_INT(ear.events, ear.last + 1);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(somebody_else_of_the_same_name_is_not_spoken_over)
{
    begin("clash", "", "allow_anonymous true");
    broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/here", 9, "yes other", 1,
                      true);
    CHECK(wait_for("yard/keeper/here", "yes other"));
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("somebody else is keeper there already"));
    nap(1500);
    CHECK(has("yard/keeper/here", "yes other"));
    CHECK(!has("yard/keeper/site", ""));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK(has("yard/keeper/here", "yes other"));
    CHECK_INT(finish(garden, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

/* A connection that is just being made is ended from outside. */
CASE(it_ends_whenever_it_is_told_to)
{
    begin("ends", "", "allow_anonymous true");
    broker = start_broker();
    garden = start_garden();
    for (int i = 0; i < 30; i++) {
        serve = start_serve(0);
        CHECK(wait_log("follows 1 site"));
        nap(5 * i);
        CHECK_INT(finish(serve, SIGTERM), 0);
    }
    CHECK_INT(finish(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    folder_end();
}

CASE(names_that_are_gone_are_cleared)
{
    begin("gone", "", "allow_anonymous true");
    broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    mosquitto_publish(ear.mqtt, NULL, "yard/keeper/levels/old_tank", 2, "{}", 1,
                      true);
    CHECK(wait_for("yard/keeper/levels/old_tank", "{}"));
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_for("yard/keeper/levels/header", "value"));
    for (int i = 0; i < 100 && has("yard/keeper/levels/old_tank", "{}"); i++)
        nap(50);
    CHECK(!has("yard/keeper/levels/old_tank", "{}"));
    end_all();
}

CASE(a_password_that_was_changed_is_read_again)
{
    char more[400];
    char conf[300];
    char command[300];
    folder_begin("pass");
    snprintf(more, sizeof(more), "user = serve\npassword_file = %s/secret\n",
             dir);
    snprintf(conf, sizeof(conf),
             "allow_anonymous false\npassword_file %s/passwords", dir);
    begin("pass", more, conf);
    write_text("passwords", "serve:right\nlistener:ear\n");
    snprintf(command, sizeof(command), "mosquitto_passwd -U %s/passwords", dir);
    CHECK_INT(system(command), 0);
    write_text("secret", "wrong\n");
    broker = start_broker();
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("broker garden: refused"));
    write_text("secret", "right\n");
    CHECK(wait_log("broker garden: is there"));
    listen_in("listener", "ear");
    CHECK(wait_for("yard/keeper/site", "Keeper"));
    end_all();
}

/* The file again, with another way to the broker. */
static void write_serve(const char *url, const char *more)
{
    FILE *out = fopen(in_dir("serve.ini"), "w");
    fprintf(out,
            "[garden]\nis = site\nsocket = %s\n\n[history]\nfile = %s\n\n"
            "[broker]\nurl = %s:%d\nbase = yard\n%s",
            in_dir("socket"), in_dir("history.db"), url, port, more);
    fclose(out);
}

CASE(by_tls_nobody_is_trusted_but_who_is_named)
{
    char command[900];
    char conf[400];
    char trust[300];
    folder_begin("tls");
    snprintf(command, sizeof(command),
             "openssl req -x509 -newkey rsa:2048 -nodes -days 2 -subj "
             "/CN=localhost -addext subjectAltName=DNS:localhost -keyout "
             "%s/key.pem -out %s/cert.pem 2>/dev/null",
             dir, dir);
    CHECK_INT(system(command), 0);
    snprintf(conf, sizeof(conf),
             "allow_anonymous true\ncertfile %s/cert.pem\nkeyfile %s/key.pem",
             dir, dir);
    begin("tls", "", conf);
    snprintf(trust, sizeof(trust), "authority = %s/cert.pem\n", dir);
    write_serve("mqtts://localhost", "");
    broker = start_broker();
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("certificate verify failed; trying again"));
    CHECK(!log_has("broker garden: is there"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    write_serve("mqtts://localhost", trust);
    serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    folder_end();
}

/* One that stands still: nobody waits for it, and nothing is lost. */
CASE(a_broker_that_stands_still_holds_up_nobody)
{
    begin("still", "", "allow_anonymous true");
    broker = start_broker();
    listen_in(NULL, NULL);
    nap(300);
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("broker garden: is there"));
    nap(1000);
    kill(broker, SIGSTOP);
    nap(1000);
    long before = count_events();
    nap(6000);
    CHECK(count_events() > before);
    kill(broker, SIGCONT);
    CHECK_INT(finish(garden, SIGTERM), 0);
    CHECK(wait_log("went away; trying again"));
    for (int i = 0; i < WAIT_MS / 50 && ear.last + 1 < count_events(); i++)
        nap(50);
    CHECK_INT(ear.last + 1, count_events());
    CHECK_INT(ear.odd, 0);
    CHECK_INT(finish(serve, SIGTERM), 0);
    stop_listening();
    finish(broker, SIGTERM);
    folder_end();
}

CASE(a_broker_that_is_not_there_is_told_of_and_waited_for)
{
    begin("absent", "", "allow_anonymous true");
    garden = start_garden();
    serve = start_serve(0);
    CHECK(wait_log("Connection refused; trying again"));
    broker = start_broker();
    CHECK(wait_log("broker garden: is there"));
    CHECK_INT(finish(serve, SIGTERM), 0);
    CHECK_INT(finish(garden, SIGTERM), 0);
    finish(broker, SIGTERM);
    folder_end();
}
