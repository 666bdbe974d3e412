/* Lists of texts, each as one piece of memory without pointers. */
#ifndef CUPLATCH_TELL_TEXTS_H
#define CUPLATCH_TELL_TEXTS_H

#include "cuplatch/base.h"

#define CUP_FIRST(...) CUP_FIRST_(__VA_ARGS__, 0)
#define CUP_FIRST_(first, ...) first

/* A text of a list as a field, as what fills it, and where it begins. */
#define CUP_TEXT_FIELD(name, ...)                                              \
    char of_##name[sizeof(CUP_FIRST(__VA_ARGS__))];
#define CUP_TEXT_ITSELF(name, ...) CUP_FIRST(__VA_ARGS__),
#define CUP_TEXT_START(name, ...) offsetof(struct texts, of_##name),

/* Defines a function, extern or static, that gives a text by its number; ""
 * when there is none. */
#define CUP_TEXTS_OF(scope, function, fields, themselves, starts)              \
    scope CUP_FLASH char *function(uint8_t number)                             \
    {                                                                          \
        struct texts {                                                         \
            fields                                                             \
        };                                                                     \
        static CUP_FLASH struct texts texts = {themselves};                    \
        static CUP_FLASH uint16_t begins[] = {starts};                         \
        if (number >= sizeof(begins) / sizeof(begins[0]))                      \
            return CUP_TEXT("");                                               \
        return (CUP_FLASH char *)&texts + begins[number];                      \
    }

/* Texts of a list whose second column is the text. */
#define CUP_TEXTS(function, LIST)                                              \
    CUP_TEXTS_OF(extern, function, LIST(CUP_TEXT_FIELD),                       \
                 LIST(CUP_TEXT_ITSELF), LIST(CUP_TEXT_START))

/* A list of texts that only one file uses. */
#define CUP_OWN_TEXTS(function, LIST)                                          \
    CUP_TEXTS_OF(static, function, LIST(CUP_TEXT_FIELD),                       \
                 LIST(CUP_TEXT_ITSELF), LIST(CUP_TEXT_START))

static inline bool cup_is_blank(char letter)
{
    return letter == ' ' || letter == '\t';
}

static inline const char *cup_skip_blanks(const char *text)
{
    while (cup_is_blank(*text))
        text++;
    return text;
}

#endif
