/* The page part: what a browser sees of controllers, and what it says to them.
 * docs/reference/page.md has the rules, page.openapi.json each answer. */
#ifndef CUPLATCH_SERVE_PAGE_PAGE_H
#define CUPLATCH_SERVE_PAGE_PAGE_H

#include <event2/event.h>

#include "../../grammar/inifile.h"
#include "../words/words.h"

/* What the file says.
 *   listen       "ADDRESS:PORT"; null: there is no page
 *   names        that it is called by, apart by blanks; may be null
 *   keys         the file of keys
 *   certificate  a PEM file; null: plain
 *   files        the folder of the built page
 *   people       the file of who is texted; null: nobody is */
struct page_config {
    const char *listen;
    const char *names;
    const char *keys;
    const char *certificate;
    const char *files;
    const char *people;
};

struct page;

/* Reads [page]; what is wrong is among the problems. */
void page_read(struct page_config *config, const struct ini_section *section,
               struct problems *problems);

/* Opens it; what cannot be opened is tried again and again. `history` is the
 * history's file, or null; `words` live as long. */
struct page *page_open(struct event_base *base,
                       const struct page_config *config, const char *history,
                       struct words_desk *words);
void page_close(struct page *page);

/* One more controller, by its section's name: who hears of it, and through
 * which link to tell it. So many of its last events are known again to a
 * browser that was away. */
struct link_ear page_ear(struct page *page, const char *name, size_t events);
void page_link(struct page *page, const struct link_ear *ear,
               struct link *link);

/* --new-key and --drop-key: change the file and say so. Return an exit code. */
int page_new_key(const char *keys_path, const char *name, bool steers);
int page_drop_key(const char *keys_path, const char *name);

#endif
