/* What a controller tells goes by the topics of a broker and comes out as it
 * was: no member of `now` is forgotten, none is made up. */
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "../../serve/afar/distant.h"
#include "../../serve/broker/retained.h"
#include "../../serve/broker/topics.h"
#include "../../sitefile/sitefile.h"
#include "../../socket/desk.h"
#include "../../socket/view.h"
#include "../harness/harness.h"

/* A controller as it starts: nothing is known yet of most. */
struct told {
    struct cup_file *file;
    struct cup_site site;
    void *state;
    json_t *about, *now;
};

static struct told tell(const char *path)
{
    struct told told = {.file = cup_file_read(path)};
    const struct cup_plan *plan = cup_file_plan(told.file);
    if (!plan)
        abort();
    size_t size = cup_site_size(plan);
    told.state = calloc(1, size);
    CHECK_INT(cup_site_bind(&told.site, plan, told.state, size), CUP_OK);
    uint32_t *samples = calloc(plan->sensor_count + 1u, sizeof(*samples));
    const struct view_about about = {.name = "Keeper", .id = "keeper"};
    told.about = view_site(&told.site, &about, "run");
    told.now = view_now(&told.site, samples);
    free(samples);
    return told;
}

static void forget(struct told *told)
{
    json_decref(told->about);
    json_decref(told->now);
    free(told->state);
    cup_file_free(told->file);
}

/* Who hears of the site at the other end puts together what it hears. */
struct heard {
    json_t *site, *now;
    int ups;
};

static int64_t since(void *self, const char *id, char *run)
{
    (void)self, (void)id;
    *run = '\0';
    return -1;
}

static void hear(void *self, const json_t *line)
{
    struct heard *heard = self;
    const char *name;
    json_t *value;
    json_t *site = json_object_get(line, "site");
    if (site) {
        json_decref(heard->site);
        heard->site = json_incref(site);
    }
    json_object_foreach(json_object_get(line, "now"), name, value)
    {
        json_t *old = json_object_get(heard->now, name);
        if (json_is_object(old))
            json_object_update(old, value);
        else
            json_object_set_new(heard->now, name, json_deep_copy(value));
    }
}

static void up(void *self, bool there)
{
    ((struct heard *)self)->ups += there;
}

static void say(void *self, const char *id, const char *below, json_t *value)
{
    (void)self, (void)id;
    harness_at("%s", below);
    CHECK_INT(topic_of(below, NULL), TOPIC_AGAIN);
    harness_at(NULL);
    json_decref(value);
}

static void again(void *self)
{
    (void)self;
}

/* Everything that is retained, from the broker. */
static void pass_on(const struct retained *retained, struct distant *distant)
{
    const char *below;
    json_t *text;
    json_object_foreach(retained->texts, below, text)
    {
        const char *says = json_string_value(text);
        harness_at("%s", below);
        enum topic which = topic_of(below, NULL);
        CHECK(which < TOPIC_COUNT);
        CHECK_INT(topic_rows[which].way, TOPIC_STANDS);
        distant_take(distant, below, says, strlen(says));
    }
    harness_at(NULL);
}

static struct heard follow(const struct told *told, bool site_last)
{
    struct heard heard = {.now = json_object()};
    const struct link_ear ear = {since, hear, NULL, up, &heard};
    const struct distant_mouth mouth = {"afar", say, again, NULL};
    struct retained retained = retained_open();
    struct distant *distant = distant_open("keeper", &mouth);
    distant_hear(distant, &ear);
    distant_take(distant, "here", "yes of-theirs", 13);
    if (!site_last) {
        retained_site(&retained, told->about);
        pass_on(&retained, distant);
    }
    retained_now(&retained, told->now);
    pass_on(&retained, distant);
    if (site_last) {
        retained_site(&retained, told->about);
        pass_on(&retained, distant);
    }
    distant_close(distant);
    retained_close(&retained);
    return heard;
}

/* Whether a topic carries it, though it may be empty now. */
static bool is_carried(const char *member)
{
    for (enum topic which = 0; which < TOPIC_COUNT; which++) {
        const struct topic_row *row = &topic_rows[which];
        if ((row->member && strcmp(row->member, member) == 0) ||
            (row->beside && strcmp(row->beside, member) == 0))
            return true;
    }
    return false;
}

static void comes_out_as_it_was(const struct told *told, bool site_last)
{
    struct heard heard = follow(told, site_last);
    const char *name;
    json_t *value;
    CHECK(json_equal(heard.site, told->about));
    CHECK(heard.ups > 0);
    json_object_foreach(told->now, name, value)
    {
        harness_at("%s", name);
        bool none = json_is_object(value) && json_object_size(value) == 0;
        bool is_time = strcmp(name, "t") == 0; /* who receives it has its own */
        CHECK(is_time || is_carried(name));
        if (!is_time && !none)
            CHECK(json_equal(json_object_get(heard.now, name), value));
    }
    json_object_foreach(heard.now, name, value)
    {
        harness_at("%s", name);
        CHECK(json_object_get(told->now, name) != NULL);
    }
    harness_at(NULL);
    json_decref(heard.site);
    json_decref(heard.now);
}

CASE(what_a_controller_tells_is_what_is_heard_afar)
{
    struct told told = tell(GARDEN "/keeper.ini");
    CHECK(json_object_size(json_object_get(told.now, "pumps")) > 1);
    CHECK(json_object_size(json_object_get(told.now, "duties")) > 1);
    comes_out_as_it_was(&told, false);
    comes_out_as_it_was(&told, true);
    forget(&told);
}

CASE(what_is_of_no_topic_is_nobodys)
{
    const char *name;
    char text[TOPIC_ANSWERS_SIZE];
    CHECK_INT(topic_of("levels/header", &name), TOPIC_LEVELS);
    CHECK_TEXT(name, "header");
    CHECK_INT(topic_of("answers", &name), TOPIC_ANSWERS);
    CHECK_TEXT(name, "");
    CHECK_INT(topic_of("answers/theirs", &name), TOPIC_ANSWERS);
    CHECK_TEXT(name, "theirs");
    static const char *const strange[] = {
        "",       "levels", "levels/", "level/header", "levelss/header",
        "site/x", "here/x", "t",       "outputs",      "LEVELS/header"};
    for (size_t i = 0; i < sizeof(strange) / sizeof(strange[0]); i++) {
        harness_at("%s", strange[i]);
        CHECK_INT(topic_of(strange[i], NULL), TOPIC_COUNT);
    }
    harness_at(NULL);
    topic_answers("theirs", text);
    CHECK_TEXT(text, "answers/theirs");
    topic_answers(NULL, text);
    CHECK_TEXT(text, "answers");
}

CASE(the_documents_have_the_same_topics)
{
    static char page[20000];
    char filter[TOPIC_FILTER_SIZE];
    char row[100];
    FILE *in = fopen(DOCS "/reference/broker.md", "r");
    CHECK(in && fread(page, 1, sizeof(page) - 1, in) > 0);
    fclose(in);
    for (enum topic which = 0; which < TOPIC_COUNT; which++) {
        static const char *const ways[] = {"yes", "no", "in"};
        const struct topic_row *is = &topic_rows[which];
        topic_filter(which, filter);
        snprintf(row, sizeof(row), "| `BASE/SITE/%s%s` | %s |", is->below,
                 is->named ? "/NAME" : "", ways[is->way]);
        harness_at("%s", row);
        CHECK(strstr(page, row) != NULL);
    }
    harness_at(NULL);
    int rows = 0;
    for (const char *at = page; (at = strstr(at, "| `BASE/SITE/")); at++)
        rows++;
    CHECK_INT(rows, TOPIC_COUNT);
}
