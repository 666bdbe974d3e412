/* --tell and --ask: words for a site of the broker, said once. */
#ifndef CUPLATCH_SERVE_AFAR_SAY_ONCE_H
#define CUPLATCH_SERVE_AFAR_SAY_ONCE_H

#include "../broker/mqtt.h"

/* For the broker and its site together. */
#define ONCE_ANSWER_S 15

enum once_end { ONCE_DONE, ONCE_REFUSED, ONCE_SILENT };

/* `kind` "tell" or "ask"; `words` end with null. Answers go to stdout, a line
 * each; what is wrong to stderr. */
enum once_end say_once(const struct mqtt_config *at, const char *site,
                       const char *kind, const char *const *words);

#endif
