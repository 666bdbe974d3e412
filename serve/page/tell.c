#include "tell.h"

#include <stdio.h>

#include "reply.h"

static void answer(void *self, enum words_end end, json_t *answer)
{
    static const int codes[] = {[WORDS_DONE] = HTTP_OK,
                                [WORDS_REFUSED] = 409,
                                [WORDS_WRONG] = HTTP_BADREQUEST,
                                [WORDS_LATE] = 409,
                                [WORDS_AWAY] = 503,
                                [WORDS_BUSY] = 503,
                                [WORDS_SILENT] = 504};
    struct evhttp_request *request = later_end(self);
    if (request)
        reply_json(request, codes[end], answer);
    else
        json_decref(answer);
}

/* A browser takes its time from this machine, so that it need not be right. */
void tell(struct words_desk *desk, struct evhttp_request *request,
          const char *site, struct link *link, const char *who)
{
    char by[64];
    json_t *body = request_json(request);
    snprintf(by, sizeof(by), "page %s", who);
    const struct words_from from = {site, by,     0,
                                    true, answer, later_begin(request)};
    words_say(desk, link, &from, body);
    json_decref(body);
}
