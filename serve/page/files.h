/* The page's own files, read once when it starts: what is asked for is looked
 * up among their names, never in a folder. */
#ifndef CUPLATCH_SERVE_PAGE_FILES_H
#define CUPLATCH_SERVE_PAGE_FILES_H

#include <event2/http.h>
#include <stdbool.h>
#include <stddef.h>

struct files;

/* Null, and `wrong` says why: there is no built page. */
struct files *files_open(const char *folder, char *wrong, size_t size);
void files_close(struct files *files);

/* Answers for a path, "/" among them. False: there is no such file. */
bool files_reply(const struct files *files, struct evhttp_request *request,
                 const char *path);

#endif
