/* What the kernel shows as files: industrial I/O, one-wire, and any file with a
 * number in it. */
#include <ctype.h>
#include <dirent.h>
#include <errno.h>
#include <limits.h>
#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#include "machine.h"
#include "ways.h"

static void shut_nothing(struct duct *duct)
{
    (void)duct;
}

static bool number_of(const char *path, double *number)
{
    char text[80];
    char *end;
    if (!duct_text(path, text, sizeof(text)))
        return false;
    *number = strtod(text, &end);
    return end != text && (*end == '\0' || isspace((unsigned char)*end));
}

static void hear_number(double number, struct reply *heard)
{
    if (fabs(number) < INT32_MAX)
        *heard = (struct reply){.raw = (int32_t)lround(number)};
}

/* Industrial I/O */

/* The folder of a device, by its number or name; `known` gathers the others. */
static bool iio_folder(const char *device, char *folder, size_t size,
                       char *known, size_t known_size)
{
    char path[PATH_MAX];
    char name[80];
    *known = '\0';
    for (int i = 0; i < 64; i++) {
        snprintf(folder, size, "%s/sys/bus/iio/devices/iio:device%d",
                 machine_root(), i);
        snprintf(path, sizeof(path), "%s/name", folder);
        if (!duct_text(path, name, sizeof(name)))
            continue;
        name[strcspn(name, "\n")] = '\0';
        char number[12];
        snprintf(number, sizeof(number), "%d", i);
        if (strcmp(device, number) == 0 || strcmp(device, name) == 0)
            return true;
        size_t used = strlen(known);
        snprintf(known + used, known_size - used, "%s%d (%s)", used ? ", " : "",
                 i, name);
    }
    return false;
}

/* What a channel comes in, in the smallest steps of our unit for it. */
static double steps_of(const char *channel)
{
    static const struct {
        const char *begins;
        double steps;
    } units[] = {{"voltage", 1},            /* mV */
                 {"temp", 0.1},             /* thousandths of a degree */
                 {"humidityrelative", 0.1}, /* thousandths of a per cent */
                 {"pressure", 1000},        /* kPa */
                 {"distance", 10000},       /* m */
                 {"current", 1000}};        /* mA */
    for (size_t i = 0; i < sizeof(units) / sizeof(units[0]); i++)
        if (strncmp(channel, units[i].begins, strlen(units[i].begins)) == 0)
            return units[i].steps;
    return 1;
}

/* Of a channel, as it is shared by its kind if it has none of its own:
 * in_voltage3_scale, or in_voltage_scale. */
static double iio_attribute(const char *folder, const char *channel,
                            const char *attribute, double otherwise)
{
    char path[PATH_MAX];
    double number = otherwise;
    size_t kind = strcspn(channel, "0123456789");
    snprintf(path, sizeof(path), "%s/in_%s_%s", folder, channel, attribute);
    if (number_of(path, &number))
        return number;
    snprintf(path, sizeof(path), "%s/in_%.*s_%s", folder, (int)kind, channel,
             attribute);
    return number_of(path, &number) ? number : otherwise;
}

static bool iio_value(const struct pin *pin, double *value)
{
    char folder[PATH_MAX - 64];
    char known[8];
    char path[PATH_MAX];
    if (!iio_folder(pin->device, folder, sizeof(folder), known, sizeof(known)))
        return false;
    snprintf(path, sizeof(path), "%s/in_%s_input", folder, pin->channel);
    if (pin->scaled == 1 && number_of(path, value)) {
        *value *= steps_of(pin->channel);
        return true;
    }
    snprintf(path, sizeof(path), "%s/in_%s_raw", folder, pin->channel);
    if (!number_of(path, value))
        return false;
    if (pin->scaled == 1)
        *value = (*value + iio_attribute(folder, pin->channel, "offset", 0)) *
                 iio_attribute(folder, pin->channel, "scale", 1) *
                 steps_of(pin->channel);
    return true;
}

static bool open_iio(struct duct *duct, char *wrong, size_t size)
{
    char folder[PATH_MAX - 64];
    char known[200];
    double value;
    if (duct->own) /* it was there before */
        return true;
    if (!iio_folder(duct->pin->device, folder, sizeof(folder), known,
                    sizeof(known))) {
        snprintf(wrong, size,
                 *known ? "there is no device \"%s\"; here are %s"
                        : "there is no device \"%s\"; here is none%s",
                 duct->pin->device, known);
        return false;
    }
    if (!iio_value(duct->pin, &value)) {
        snprintf(wrong, size,
                 "device %s has no channel \"%s\"; see the in_..._raw in %s",
                 duct->pin->device, duct->pin->channel, folder);
        return false;
    }
    duct->own = duct;
    return true;
}

static void read_iio(struct duct *duct, struct reply *heard)
{
    double value;
    if (iio_value(duct->pin, &value))
        hear_number(value, heard);
}

const struct way way_iio = {.open = open_iio,
                            .read = read_iio,
                            .shut = shut_nothing,
                            .answer_ms = 1000};

/* One-wire */

static void w1_path(const struct pin *pin, char *path, size_t size)
{
    snprintf(path, size, "%s/sys/bus/w1/devices/%s/w1_slave", machine_root(),
             pin->device);
}

static bool open_w1(struct duct *duct, char *wrong, size_t size)
{
    char path[PATH_MAX];
    char folder[PATH_MAX];
    char known[160] = "";
    FILE *in;
    w1_path(duct->pin, path, sizeof(path));
    in = fopen(path, "r");
    if (in) {
        fclose(in);
        return true;
    }
    snprintf(folder, sizeof(folder), "%s/sys/bus/w1/devices", machine_root());
    DIR *all = opendir(folder);
    for (struct dirent *one; all && (one = readdir(all));) {
        size_t used = strlen(known);
        if (*one->d_name != '.' && strncmp(one->d_name, "w1_", 3) != 0)
            snprintf(known + used, sizeof(known) - used, "%s%.20s",
                     used ? ", " : "", one->d_name);
    }
    if (all)
        closedir(all);
    snprintf(wrong, size, "there is no one-wire device \"%s\"; here are %s",
             duct->pin->device, *known ? known : "none");
    return false;
}

/* The nine bytes that the kernel shows, as they came. */
static void read_w1(struct duct *duct, struct reply *heard)
{
    char path[PATH_MAX];
    char text[200];
    w1_path(duct->pin, path, sizeof(path));
    if (!duct_text(path, text, sizeof(text)))
        return;
    char *at = text;
    struct reply nine = {.count = 0};
    while (nine.count < 9) {
        char *end;
        unsigned long byte = strtoul(at, &end, 16);
        if (end == at || byte > 0xFF)
            return;
        nine.bytes[nine.count++] = (uint8_t)byte;
        at = end;
    }
    *heard = nine;
}

const struct way way_w1 = {
    .open = open_w1, .read = read_w1, .shut = shut_nothing, .answer_ms = 2000};

/* A file with a number */

static bool open_file(struct duct *duct, char *wrong, size_t size)
{
    char text[8];
    if (duct_text(duct->pin->path, text, sizeof(text)))
        return true;
    snprintf(wrong, size, "%s: %s", duct->pin->path, strerror(errno));
    return false;
}

static void read_file(struct duct *duct, struct reply *heard)
{
    double number;
    if (number_of(duct->pin->path, &number))
        hear_number(number, heard);
}

const struct way way_file = {.open = open_file,
                             .read = read_file,
                             .shut = shut_nothing,
                             .answer_ms = 1000};
