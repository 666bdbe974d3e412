/* The engineer's loop. */
#include "engineer.h"

#define STALE_S 20
#define STUCK_S 60
#define SOIL_STALE_S 600
#define REST_S 30
#define PROOF_S 60
#define PROOF_MM 1.5
#define LOCK_S 3600
#define TRIES 6

/* Sensors */

/* A good echo comes again and again, and is never the same for long. */
static void look(struct engineer_sight *sight, const struct yard *yard,
                 int sensor, double face_mm, uint32_t s)
{
    int32_t raw = 0;
    if (!garden_raw(yard->garden, sensor, &raw) || raw < 500 || raw > 12500)
        return;
    if (raw != sight->raw)
        sight->changed_s = s;
    sight->raw = raw;
    if (s - sight->changed_s >= STUCK_S)
        return;
    sight->good_s = s;
    loops_keep(sight->window, &sight->count, ENGINEER_WINDOW,
               yard_depth_mm(raw, face_mm));
}

static bool is_known(const struct engineer_sight *sight, uint32_t s)
{
    return sight->count >= ENGINEER_WINDOW / 2 && s - sight->good_s <= STALE_S;
}

static double depth_of(const struct engineer_sight *sight)
{
    return loops_median(sight->window, sight->count);
}

static void look_at_soil(struct engineer *engineer, const struct yard *yard,
                         uint32_t s)
{
    int32_t raw = 0;
    if (s % 30 != 0 || !garden_raw(yard->garden, yard->soil, &raw) ||
        raw < 300 || raw > 3800)
        return;
    engineer->soil = yard_soil_pct(raw);
    engineer->soil_s = s;
}

/* Low below the first mark, until it is above the second. */
static bool is_low(bool was, double mm, double below, double above)
{
    return was ? mm <= above : mm < below;
}

/* Pumps */

static void trip(struct engineer_drive *drive, uint32_t s)
{
    drive->trips++;
    drive->locked_s = drive->trips > TRIES ? UINT32_MAX : s + LOCK_S;
}

/* A pump that runs must lower its source; a run that is too long is a fault. */
static void watch(struct engineer_drive *drive, double source_mm,
                  uint32_t longest_s, uint32_t s)
{
    if (s - drive->since_s > longest_s)
        trip(drive, s);
    if (s - drive->proof_s < PROOF_S)
        return;
    if (drive->base_mm - source_mm < PROOF_MM)
        trip(drive, s);
    else
        drive->trips = 0;
    drive->proof_s = s;
    drive->base_mm = source_mm;
}

static void drive(struct engineer_drive *drive, bool wish, bool may,
                  double source_mm, uint32_t longest_s, uint32_t s)
{
    if (drive->on)
        watch(drive, source_mm, longest_s, s);
    bool on = wish && may && s >= drive->locked_s &&
              (drive->on || s - drive->since_s >= REST_S);
    if (on == drive->on)
        return;
    drive->on = on;
    drive->since_s = drive->proof_s = s;
    drive->base_mm = source_mm;
}

/* What each is for */

static bool wants_bed(struct engineer *engineer, uint32_t s)
{
    bool known = engineer->soil_s > 0 && s - engineer->soil_s <= SOIL_STALE_S;
    if (!known || engineer->soil > 58) {
        engineer->watering = false;
        engineer->doses = 0;
        return false;
    }
    if (engineer->soil < 50 && !engineer->watering) {
        engineer->watering = true;
        engineer->dose_s = s;
    }
    if (!engineer->watering)
        return false;
    if (s - engineer->dose_s >= 600) {
        engineer->dose_s = s;
        engineer->doses++;
    }
    return engineer->doses < 12 && s - engineer->dose_s < 120;
}

/* Too short to overflow the tray by itself. */
static bool wants_flood(struct engineer *engineer, const struct yard *yard,
                        uint32_t s)
{
    int32_t sky = 0;
    int32_t lifted = 0;
    bool day = garden_raw(yard->garden, yard->sky, &sky) && sky > 1500;
    bool due = !engineer->flooded || s - engineer->flood_s >= 9000;
    if (day && due && !engineer->flooding) {
        engineer->flooding = engineer->flooded = true;
        engineer->flood_s = s;
    }
    bool full = garden_raw(yard->garden, yard->tray_float, &lifted) && lifted;
    if (s - engineer->flood_s >= 390 || full)
        engineer->flooding = false;
    return engineer->flooding;
}

static bool wants_lift(struct engineer *engineer, bool known, double header_mm)
{
    if (header_mm < 266)
        engineer->filling = true;
    if (header_mm > 588)
        engineer->filling = false;
    return known && engineer->filling;
}

void engineer_step(struct engineer *engineer, const struct yard *yard,
                   uint32_t s)
{
    look(&engineer->cistern, yard, yard->cistern, 1780, s);
    look(&engineer->header, yard, yard->header, 850, s);
    look_at_soil(engineer, yard, s);
    double cistern = depth_of(&engineer->cistern);
    double header = depth_of(&engineer->header);
    bool cistern_known = is_known(&engineer->cistern, s);
    bool header_known = is_known(&engineer->header, s);
    engineer->cistern_low = is_low(engineer->cistern_low, cistern, 128, 160);
    engineer->header_low = is_low(engineer->header_low, header, 54, 70);
    bool draws = header_known && !engineer->header_low;
    struct engineer_drive *lift = &engineer->lift;
    struct engineer_drive *bed = &engineer->bed_pump;
    struct engineer_drive *tray = &engineer->tray_pump;
    drive(lift, wants_lift(engineer, header_known, header),
          cistern_known && !engineer->cistern_low && !bed->on && !tray->on,
          cistern, 2700, s);
    drive(bed, wants_bed(engineer, s), draws && !lift->on && !tray->on, header,
          600, s);
    drive(tray, wants_flood(engineer, yard, s), draws && !lift->on && !bed->on,
          header, 900, s);
    garden_drive(yard->garden, yard->lift, lift->on);
    garden_drive(yard->garden, yard->bed_pump, bed->on);
    garden_drive(yard->garden, yard->tray_pump, tray->on);
}
