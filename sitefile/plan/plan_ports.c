/* Who is at which port: two outputs at one would each undo what the other does,
 * and two sensors would read each other. */
#include <stdlib.h>
#include <string.h>

#include "ports.h"

static int by_port(const void *a, const void *b)
{
    const struct taken *one = a;
    const struct taken *two = b;
    size_t most = one->length < two->length ? two->length : one->length;
    int order = strncmp(one->text, two->text, most);
    return order ? order : one->place.line - two->place.line;
}

static bool is_same(const struct taken *one, const struct taken *two)
{
    return one->length == two->length &&
           strncmp(one->text, two->text, one->length) == 0;
}

/* A channel that is powered in turn, or two values of one frame. */
static bool may_share(const struct taken *one, const struct taken *two)
{
    const struct value *supplies[] = {good_value(one->who, "supply"),
                                      good_value(two->who, "supply")};
    const struct value *measured[] = {good_value(one->who, "measures"),
                                      good_value(two->who, "measures")};
    if (supplies[0] && supplies[1])
        return strcmp(supplies[0]->text, supplies[1]->text) != 0;
    return number_of(one->who, "form", 0) == CUP_FORM_PULSE40 &&
           number_of(two->who, "form", 0) == CUP_FORM_PULSE40 && measured[0] &&
           measured[1] && measured[0]->number != measured[1]->number;
}

static bool is_output(const struct taken *taken)
{
    return taken->use == CUP_AT_OUTPUT || taken->use == CUP_AT_LAMP;
}

static void compare(struct cup_file *file, const struct taken *first,
                    const struct taken *at)
{
    const char *name = first->who->section->name;
    if (is_output(at) && is_output(first))
        problem_error(&file->problems, at->place,
                      "is the port of [%s], too: each output needs its own",
                      name);
    else if (at->use == CUP_AT_BUTTON && first->use == CUP_AT_BUTTON)
        problem_error(&file->problems, at->place,
                      "is the port of [%s], too: each button needs its own",
                      name);
    else if (at->use == CUP_AT_SENSOR && first->use == CUP_AT_SENSOR) {
        if (!may_share(first, at))
            problem_error(&file->problems, at->place,
                          "is the port of [%s], too: give it its own, or give "
                          "both a supply of their own, to be powered in turn",
                          name);
    } else if (at->use != first->use)
        problem_error(&file->problems, at->place,
                      "[%s] has this already, for something else: give it its "
                      "own",
                      name);
}

/* Kinds of a port that only ever bring something in. */
static void check_kind(struct cup_file *file, const struct taken *taken)
{
    static const char *const kinds[] = {"adc:", "echo:", "loop:", "wire:"};
    if (!is_output(taken) && taken->use != CUP_AT_SUPPLY)
        return;
    for (size_t i = 0; i < sizeof(kinds) / sizeof(kinds[0]); i++)
        if (strncmp(taken->text, kinds[i], strlen(kinds[i])) == 0)
            problem_error(&file->problems, taken->place,
                          "%.*s brings a reading in and cannot be switched; "
                          "expected an output, such as relay:0, out:12 or "
                          "pin:4",
                          (int)strlen(kinds[i]) - 1, kinds[i]);
}

void plan_check_ports(struct cup_file *file)
{
    struct ports ports = ports_of(file);
    if (ports.count > 0)
        qsort(ports.list, ports.count, sizeof(*ports.list), by_port);
    const struct taken *first = ports.list;
    for (size_t i = 0; i < ports.count; i++) {
        const struct taken *at = &ports.list[i];
        check_kind(file, at);
        if (i > 0 && is_same(at, first))
            compare(file, first, at);
        else
            first = at;
    }
    ports_free(&ports);
}
