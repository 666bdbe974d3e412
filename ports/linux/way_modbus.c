/* Modbus, over a serial line or TCP: blocks of registers, and coils that
 * switch. */
#include <errno.h>
#include <modbus.h>
#include <stdio.h>
#include <string.h>

#include "cuplatch/decode.h"
#include "serial.h"
#include "ways.h"

#define READ_HOLDING 3
#define READ_INPUT 4
#define EXCEPTION 0x80

/* A line is opened once, whoever is asked on it. */
static void shut_modbus(struct duct *duct)
{
    struct duct *line = duct->first;
    if (!line->own)
        return;
    modbus_close(line->own);
    modbus_free(line->own);
    line->own = NULL;
}

/* "HOST" or "HOST:PORT". */
static modbus_t *over_tcp(const char *host)
{
    char name[128];
    const char *colon = strrchr(host, ':');
    int length = colon ? (int)(colon - host) : (int)strlen(host);
    snprintf(name, sizeof(name), "%.*s", length, host);
    return modbus_new_tcp_pi(name, colon ? colon + 1 : "502");
}

static modbus_t *over_line(const struct pin *pin)
{
    const char *frame = serial_frame(pin);
    return modbus_new_rtu(pin->device, serial_baud(pin), frame[1],
                          frame[0] - '0', frame[2] - '0');
}

static bool open_modbus(struct duct *duct, char *wrong, size_t size)
{
    const struct pin *pin = duct->pin;
    uint32_t ms = (uint32_t)duct->answer_ms;
    if (duct->first->own)
        return true;
    duct->first->own = pin->host ? over_tcp(pin->host) : over_line(pin);
    if (!duct->first->own) {
        snprintf(wrong, size, "%s", modbus_strerror(errno));
        return false;
    }
    modbus_set_response_timeout(duct->first->own, ms / 1000, ms % 1000 * 1000);
    if (modbus_connect(duct->first->own) == 0)
        return true;
    snprintf(wrong, size, "%s: %s", pin->host ? pin->host : pin->device,
             modbus_strerror(errno));
    shut_modbus(duct);
    return false;
}

/* The frame that the core reads, whichever way it came. */
static void make_frame(const struct cup_source *source,
                       const uint16_t *registers, struct reply *heard)
{
    *heard = (struct reply){.count = (uint16_t)(source->count * 2 + 3)};
    heard->bytes[0] = source->unit;
    heard->bytes[1] = source->function;
    heard->bytes[2] = (uint8_t)(source->count * 2);
    for (int i = 0; i < source->count; i++) {
        heard->bytes[3 + 2 * i] = (uint8_t)(registers[i] >> 8);
        heard->bytes[4 + 2 * i] = (uint8_t)(registers[i] & 0xFF);
    }
}

static void make_refusal(const struct cup_source *source, int code,
                         struct reply *heard)
{
    *heard = (struct reply){.count = 3,
                            .bytes = {source->unit,
                                      (uint8_t)(source->function | EXCEPTION),
                                      (uint8_t)code}};
}

static void add_crc(struct reply *heard)
{
    uint16_t crc = cup_crc16(heard->bytes, heard->count);
    heard->bytes[heard->count++] = (uint8_t)(crc & 0xFF);
    heard->bytes[heard->count++] = (uint8_t)(crc >> 8);
}

static void read_modbus(struct duct *duct, struct reply *heard)
{
    const struct cup_source *source = duct->source;
    uint16_t registers[CUP_MODBUS_REGISTERS];
    if (!source || source->count > CUP_MODBUS_REGISTERS)
        return;
    modbus_set_slave(duct->first->own, source->unit);
    int got = source->function == READ_INPUT
                  ? modbus_read_input_registers(duct->first->own, source->first,
                                                source->count, registers)
                  : modbus_read_registers(duct->first->own, source->first,
                                          source->count, registers);
    if (got == source->count)
        make_frame(source, registers, heard);
    else if (errno > MODBUS_ENOBASE && errno < EMBBADCRC)
        make_refusal(source, errno - MODBUS_ENOBASE, heard);
    else {
        shut_modbus(duct); /* begin anew: what is under way is not ours */
        return;
    }
    add_crc(heard);
}

static bool write_modbus(struct duct *duct, bool high)
{
    modbus_set_slave(duct->first->own, duct->pin->unit);
    return modbus_write_bit(duct->first->own, duct->pin->coil, high) == 1;
}

const struct way way_modbus = {.open = open_modbus,
                               .read = read_modbus,
                               .write = write_modbus,
                               .shut = shut_modbus,
                               .answer_ms = 1000};
