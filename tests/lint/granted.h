/* What the uses that headers show take for granted: a clock, readings, things
 * made as other headers show, and functions of the caller's own. */
#include "cuplatch/console.h"
#include "cuplatch/decode.h"
#include "cuplatch/journal.h"
#include "cuplatch/port.h"

extern uint32_t now_ms, run_ms;
extern uint16_t raw;
extern cup_value level, distance_mm10, shown;
extern bool is_on, is_wanted, is_closed;
extern char byte;

extern const struct cup_latch bed;
extern struct cup_latch_state latch;
extern const struct cup_curve curve;
extern const struct cup_sensor probe;
extern uint16_t cells[];
extern uint8_t order[];
extern const struct cup_turn_seen seen;
extern const struct cup_event *event;
extern struct cup_cause cause;
extern struct cup_heard heard;
extern const struct cup_store store;
extern const struct cup_sink sink;

bool read_byte(char *byte);
void print_line(void *self, const char *text);
void ask_for_water(void);
void stop_the_pump(void);
void clear_all(void);
void sound_the_horn(void);
void set_lamp(uint8_t lamp, bool lit);
void tell_of_it(cup_value shown);
void sleep_for(uint32_t ms);
