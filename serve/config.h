/* What cuplatch-serve is to do: sections of a file; a part that is left out is
 * not there. */
#ifndef CUPLATCH_SERVE_CONFIG_H
#define CUPLATCH_SERVE_CONFIG_H

#include <stdint.h>

#include "../grammar/inifile.h"
#include "afar/afar.h"
#include "alerts/post.h"
#include "broker/broker.h"
#include "page/page.h"
#include "past/past.h"
#include "texts/texts.h"

/* A controller to follow; texts are the file's. */
struct config_site {
    const char *name;
    const char *socket;
};

struct config {
    struct ini_file ini;
    struct problems problems;
    struct config_site sites[LINKS_MOST];
    size_t site_count;
    struct past_config history;
    struct page_config page;
    struct post_config post;
    struct broker_config broker;
    struct afar_config afar;
    struct texts_config texts;
    char texts_queue[4200];
    char queue[4200]; /* the post's: beside the history */
};

/* Reads a file. False with errno when it cannot be read; what is wrong with its
 * text is among the problems. Free it in any case. */
bool config_read(struct config *config, const char *path);
void config_free(struct config *config);

#endif
