/* Words of a browser: as an HTTP request comes, and as its answer goes. */
#ifndef CUPLATCH_SERVE_PAGE_TELL_H
#define CUPLATCH_SERVE_PAGE_TELL_H

#include <event2/http.h>

#include "../words/words.h"

/* Takes the body of a POST for a site by its section's name, whose controller
 * is at the other end of `link`, in somebody's name; answers now or later. */
void tell(struct words_desk *desk, struct evhttp_request *request,
          const char *site, struct link *link, const char *who);

#endif
