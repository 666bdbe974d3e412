/* Who hears of controllers: each part that the file has. */
#ifndef CUPLATCH_SERVE_PARTS_H
#define CUPLATCH_SERVE_PARTS_H

#include "link/link.h"

struct here;
struct past;
struct page;
struct post;
struct texts;
struct broker;
struct words_desk;

/* Null: that part is not there; `here` always is. */
struct parts {
    struct here *here;
    struct past *past;
    struct page *page;
    struct post *post;
    struct texts *texts;
    struct broker *broker;
    struct words_desk *words;
};

/* One more controller: all of them. `afar`: it is another machine's, and a
 * broker brings what it says. `name` must live as long. */
struct ears;
struct ears *ears_open(const struct parts *parts, const char *name, bool afar);
void ears_close(struct ears *ears);

/* Once a second or so: what is gone of this machine, and what has stood for
 * long enough by now, is told by whatever calls somebody. */
void parts_look(const struct parts *parts, int64_t now);

/* As one; and the line through which to tell the controller. */
struct link_ear ears_ear(struct ears *ears);
void ears_link(struct ears *ears, struct link *link);

#endif
