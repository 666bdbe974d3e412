#include "alerts.h"

#include <stdio.h>
#include <stdlib.h>
#include <string.h>
#include <time.h>

#include "queue.h"

/* A controller: how far its events were looked at. */
struct alert_sender {
    struct alerts *alerts;
    struct alert_sender *next;
    const char *name;
    char id[64];
    char called[120];
    char run[64];
    int64_t number;
};

static void take_site(struct alert_sender *sender, const json_t *site)
{
    const char *id = json_string_value(json_object_get(site, "id"));
    const char *name = json_string_value(json_object_get(site, "name"));
    const char *run = json_string_value(json_object_get(site, "run"));
    snprintf(sender->id, sizeof(sender->id), "%s", id ? id : sender->name);
    snprintf(sender->called, sizeof(sender->called), "%s",
             name ? name : sender->name);
    if (run && strcmp(run, sender->run) != 0) {
        snprintf(sender->run, sizeof(sender->run), "%s", run);
        sender->number = -1;
    }
}

/* What is told once more of days ago calls nobody. */
static bool is_old(const json_t *event)
{
    const json_t *utc = json_object_get(event, "utc");
    return json_is_integer(utc) &&
           (int64_t)time(NULL) - json_integer_value(utc) > ALERTS_OLD_S;
}

static void take_event(struct alert_sender *sender, json_t *event)
{
    const struct alerts *alerts = sender->alerts;
    int64_t number = json_integer_value(json_object_get(event, "number"));
    if (number <= sender->number)
        return;
    sender->number = number;
    if (!queue_is_alert(json_string_value(json_object_get(event, "kind"))) ||
        is_old(event))
        return;
    json_t *alert = json_copy(event);
    json_object_set_new(alert, "site", json_string(sender->id));
    json_object_set_new(alert, "site_name", json_string(sender->called));
    json_object_set_new(alert, "run", json_string(sender->run));
    json_object_set_new(alert, "heard", json_integer((json_int_t)time(NULL)));
    alerts->take(alerts->self, alert);
}

static void heard(void *self, const json_t *line)
{
    struct alert_sender *sender = self;
    json_t *event = json_object_get(line, "event");
    const json_t *site = json_object_get(line, "site");
    if (json_is_object(site))
        take_site(sender, site);
    if (json_is_object(event))
        take_event(sender, event);
}

static void up(void *self, bool there)
{
    (void)self, (void)there;
}

static int64_t since(void *self, const char *id, char *run)
{
    const struct alert_sender *sender = self;
    (void)id;
    snprintf(run, sizeof(sender->run), "%s", sender->run);
    return sender->number;
}

void alerts_close(struct alerts *alerts)
{
    for (struct alert_sender *sender = alerts->first; sender;) {
        struct alert_sender *next = sender->next;
        free(sender);
        sender = next;
    }
}

struct link_ear alerts_ear(struct alerts *alerts, const char *name)
{
    struct alert_sender *sender = malloc(sizeof(*sender));
    if (!sender)
        abort();
    *sender = (struct alert_sender){
        .alerts = alerts, .next = alerts->first, .name = name, .number = -1};
    alerts->first = sender;
    return (struct link_ear){since, heard, NULL, up, sender};
}
