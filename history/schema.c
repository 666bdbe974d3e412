/* Tables, indices and the view that shows levels in their units. */
#include "schema.h"

#include <stddef.h>

/* What minutes and hours share: levels in steps of the thing's unit, null where
 * none was good. */
#define LEVELS                                                                 \
    "minutes INTEGER NOT NULL, least INTEGER, mean INTEGER, most INTEGER,"     \
    "quality TEXT, samples INTEGER NOT NULL, rejects INTEGER NOT NULL,"
#define IN_UNITS                                                               \
    "1.0 * least / steps AS least, 1.0 * mean / steps AS mean,"                \
    "1.0 * most / steps AS most, unit, quality, samples, rejects "

/* AUTOINCREMENT: a number is never given again, so that one that was read is
 * known to have been. */
#define OUTBOX                                                                 \
    "CREATE TABLE outbox (message INTEGER PRIMARY KEY AUTOINCREMENT,"          \
    " site TEXT NOT NULL, text TEXT NOT NULL);"                                \
    "CREATE INDEX outbox_of ON outbox (site, message);"

/* What was sent stays for a while, so that it can be sent again. */
#define OUTBOX_AGAIN                                                           \
    "ALTER TABLE outbox ADD COLUMN number INTEGER;"                            \
    "ALTER TABLE outbox ADD COLUMN sent INTEGER NOT NULL DEFAULT 0;"           \
    "CREATE INDEX outbox_waits ON outbox (site, message) WHERE sent = 0;"      \
    "CREATE INDEX outbox_numbers ON outbox (site, number);"

const char history_schema[] = OUTBOX OUTBOX_AGAIN
    "CREATE TABLE sites (site INTEGER PRIMARY KEY, id TEXT NOT NULL UNIQUE,"
    " name TEXT NOT NULL, zone TEXT, us INTEGER NOT NULL, run TEXT,"
    " number INTEGER);"
    "CREATE TABLE things (thing INTEGER PRIMARY KEY,"
    " site INTEGER NOT NULL REFERENCES sites, name TEXT NOT NULL,"
    " kind TEXT NOT NULL, unit TEXT, steps INTEGER NOT NULL, pump TEXT,"
    " keep TEXT, start REAL, stop REAL, flow REAL, UNIQUE (site, name));"
    "CREATE TABLE minutes (thing INTEGER NOT NULL REFERENCES things,"
    " minute INTEGER NOT NULL," LEVELS
    " PRIMARY KEY (thing, minute)) WITHOUT ROWID;"
    "CREATE TABLE hours (thing INTEGER NOT NULL REFERENCES things,"
    " hour INTEGER NOT NULL," LEVELS
    " PRIMARY KEY (thing, hour)) WITHOUT ROWID;"
    "CREATE TABLE runs (run INTEGER PRIMARY KEY,"
    " thing INTEGER NOT NULL REFERENCES things,"
    " duty INTEGER REFERENCES things, began INTEGER NOT NULL,"
    " began_ms INTEGER NOT NULL,"
    " ended INTEGER, seconds REAL, litres REAL, began_by TEXT NOT NULL,"
    " ended_by TEXT, began_why TEXT, ended_why TEXT);"
    "CREATE INDEX runs_of ON runs (thing, began);"
    "CREATE TABLE events (event INTEGER PRIMARY KEY,"
    " site INTEGER NOT NULL REFERENCES sites, at INTEGER NOT NULL,"
    " thing INTEGER REFERENCES things, kind TEXT NOT NULL,"
    " reason TEXT NOT NULL, value REAL, mark REAL, unit TEXT, why TEXT,"
    " by TEXT);"
    "CREATE INDEX events_at ON events (site, at);"
    "CREATE TABLE changes (change INTEGER PRIMARY KEY,"
    " thing INTEGER NOT NULL REFERENCES things, at INTEGER NOT NULL,"
    " why TEXT NOT NULL, by TEXT);"
    "CREATE VIEW levels AS SELECT site, name, minute * 60 AS at,"
    " minutes * 60 AS seconds," IN_UNITS
    "FROM minutes JOIN things USING (thing) UNION ALL SELECT site, name,"
    " hour * 3600, minutes * 60," IN_UNITS
    "FROM hours JOIN things USING (thing);";

/* From the version of its place to the next. */
const char *const history_steps[] = {NULL, OUTBOX, OUTBOX_AGAIN};
