/* Decoders: bytes and counts as sensors send them, into raw values. Pure; each
 * is usable alone. A value never comes of a frame whose sum is wrong.
 *
 * Byte streams may begin anywhere, be torn, and hold noise: a stream decoder
 * takes byte after byte, finds the next frame by itself, and says so when it
 * had to throw a frame away.
 *
 * In use:
 *
 *     struct cup_stream_state stream = {{0}, 0};
 *     while (read_byte(&byte))
 *         if ((heard = cup_range_bytes(&stream, (uint8_t)byte)).complete)
 *             raw = (uint16_t)heard.raw; */
#ifndef CUPLATCH_DECODE_H
#define CUPLATCH_DECODE_H

#include "reason.h"

CUP_C_BEGINS

/* One raw sample, or why there is none. `reject` is CUP_REASON_NONE, or one
 * of the rejects, such as CUP_REASON_NO_ANSWER; then `raw` means nothing. */
struct cup_sample {
    int32_t raw;
    uint8_t reject;
};

/* Two bytes as one number; right where an int has 16 bits, too. */
static inline uint16_t cup_both(uint8_t high, uint8_t low)
{
    return (uint16_t)((unsigned)high << 8 | low);
}

/* CRC-8 of the one-wire family: x^8 + x^5 + x^4 + 1, bits reflected (0x8C),
 * from 0; "123456789" gives 0xA1. */
uint8_t cup_crc8(const uint8_t *bytes, size_t count);

/* CRC-16 of Modbus RTU: 0x8005 reflected (0xA001), from 0xFFFF; "123456789"
 * gives 0x4B37. Sent low byte first (MODBUS over Serial Line V1.02, 6.2.2). */
uint16_t cup_crc16(const uint8_t *bytes, size_t count);

/* CRC-32 (IEEE 802.3) of bytes that go on from those of `before`; 0 begins.
 * That of "123456789" is 0xCBF43926. */
uint32_t cup_crc32(uint32_t before, const uint8_t *bytes, size_t count);

/* What a stream decoder keeps between bytes. All zero is the beginning. */
#define CUP_STREAM_BYTES 7
struct cup_stream_state {
    uint8_t bytes[CUP_STREAM_BYTES];
    uint8_t count;
};

/* What a byte brought: nothing yet, a value, or frames thrown away (a frame
 * thrown away may still be followed by a value of the bytes behind it). */
struct cup_heard {
    int32_t raw;
    uint8_t dropped;
    bool complete;
};

/* `range-bytes`: 0xFF, high, low, sum of these three modulo 256. raw is the
 * 16-bit distance in mm. */
struct cup_heard cup_range_bytes(struct cup_stream_state *state, uint8_t byte);

/* `range-text`: a letter, one to five digits, CR or LF; anything else in a line
 * spoils it to its end. raw is the number, in whatever unit the sensor sends;
 * at most 65535. */
struct cup_heard cup_range_text(struct cup_stream_state *state, uint8_t byte);

/* `range-word`: a 16-bit distance register in mm, high byte first. */
struct cup_sample cup_range_word(const uint8_t *bytes, size_t count);

/* `word12`: a register of two bytes, high first: twelve bits are the raw value,
 * the four lowest a status. 0 is well, anything else CUP_REASON_FAULT. */
struct cup_sample cup_word12(const uint8_t *bytes, size_t count);

/* `temp9`: a record of nine bytes, its CRC-8 last. raw is the temperature in
 * sixteenths of a degree Celsius. Exactly 85 C is what the register holds
 * before the first conversion: CUP_REASON_NOT_READY while `after_power_up`. */
struct cup_sample cup_temp9(const uint8_t *bytes, size_t count,
                            bool after_power_up);

/* What to take of a `pulse40` frame, and how its numbers are scaled: tenths
 * (16 bits each, the top bit of the temperature is its sign) or whole (a byte
 * of units and a byte of tenths each, the top bit of the last is the sign). */
enum cup_pulse40_part { CUP_PULSE40_HUMIDITY, CUP_PULSE40_TEMPERATURE };
enum cup_pulse40_scale { CUP_PULSE40_TENTHS, CUP_PULSE40_WHOLE };

/* `pulse40`: 40 bits, the last 8 the sum of the others. raw is in tenths of a
 * per cent or of a degree Celsius. */
struct cup_sample cup_pulse40(const uint8_t *bytes, size_t count,
                              enum cup_pulse40_part part,
                              enum cup_pulse40_scale scale);

/* Modbus RTU functions that read registers. */
enum cup_modbus_function { CUP_MODBUS_HOLDING = 3, CUP_MODBUS_INPUT = 4 };

#define CUP_MODBUS_REQUEST 8
#define CUP_MODBUS_REGISTERS 125

/* Builds the request for `count` registers (1 to CUP_MODBUS_REGISTERS) from
 * `first` of unit 1 to 247 into CUP_MODBUS_REQUEST bytes. CUP_ERROR_RANGE, and
 * nothing is built, for anything else: what would write is refused, too. */
CUP_MUST_USE enum cup_error
cup_modbus_request(uint8_t *bytes, uint8_t unit,
                   enum cup_modbus_function function, uint16_t first,
                   uint8_t count);

/* Checks an answer to such a request. Returns CUP_REASON_NONE;
 * CUP_REASON_BAD_FRAME when length, unit, function or CRC is wrong;
 * CUP_REASON_FAULT when the unit answered with an exception, whose code is
 * then in bytes[2]. */
uint8_t cup_modbus_answer(const uint8_t *bytes, size_t length, uint8_t unit,
                          enum cup_modbus_function function, uint8_t count);

/* The register `index` of an answer that was found right. */
uint16_t cup_modbus_register(const uint8_t *bytes, uint8_t index);

/* NAMUR NE 43: a 4-20 mA loop below 3.6 mA or above 21 mA tells of a fault,
 * not of a level. In uA. */
#define CUP_LOOP_LOW_UA 3600
#define CUP_LOOP_HIGH_UA 21000

/* `loop`: CUP_REASON_FAULT outside the limits of NE 43; raw in uA. */
struct cup_sample cup_loop(int32_t ua);

CUP_C_ENDS

#endif
