/* [page] of the file. */
#include <string.h>

#include "../common/entries.h"
#include "door.h"
#include "page.h"

void page_read(struct page_config *page, const struct ini_section *section,
               struct problems *problems)
{
    struct place place = entries_place(section);
    const char *says_plain = "no";
    const char path[] = "a whole path, such as /var/lib/cuplatch-serve/keys";
    const struct entry_key keys[] = {
        {"listen", &page->listen, NULL, NULL},
        {"names", &page->names, NULL, NULL},
        {"keys", &page->keys, entry_is_path, path},
        {"certificate", &page->certificate, entry_is_path, path},
        {"plain", &says_plain, entry_is_yes_or_no, "yes or no"},
        {"files", &page->files, entry_is_path, path},
        {NULL, NULL, NULL, NULL}};
    entries_read(problems, section, keys, page);
    bool plain = strcmp(says_plain, "yes") == 0;
    if (!page->listen || !strchr(page->listen, ':'))
        problem_error(problems, place,
                      "needs listen = ADDRESS:PORT, such as 127.0.0.1:8460");
    else if (!page->certificate && !plain && !door_is_loopback(page->listen))
        problem_error(
            problems, place,
            "%s is open to others: needs certificate = a PEM file, or "
            "plain = yes where something before it does that",
            page->listen);
    if (!page->keys)
        problem_error(problems, place,
                      "needs keys = the file of keys; cuplatch-serve CONFIG "
                      "--new-key NAME makes one");
}
