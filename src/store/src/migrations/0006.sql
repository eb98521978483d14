-- Nuvat batch file, schema version 6: what an instrument gave is a payload, kept once under its identity; a reading says
-- what it is of (carrier, place, channel); analytes say how it becomes a response.
DROP VIEW place_view;

-- id: SHA-256 of the data, see nuvat/batch/payload.h. A grid is JSON: {"rows":8,"columns":12,"wells":[[value or null,
-- text, line, cell in the line], …]}, row by row.
CREATE TABLE payload (
    id TEXT PRIMARY KEY,
    kind TEXT NOT NULL,              -- grid
    data ANY NOT NULL
) STRICT, WITHOUT ROWID;

-- Which undo entries need which payload: one that neither they nor a reading name is freed.
CREATE TABLE command_payload (
    position INTEGER NOT NULL REFERENCES command (position) ON DELETE CASCADE,
    payload TEXT NOT NULL,
    PRIMARY KEY (position, payload)
) STRICT, WITHOUT ROWID;

-- row and column: -1 where a reading is of a whole carrier.
CREATE TABLE new_reading (
    id INTEGER PRIMARY KEY,
    source TEXT NOT NULL,
    checksum TEXT NOT NULL,          -- of the bytes of the file
    understood TEXT NOT NULL,
    taken_in_millis INTEGER NOT NULL,
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    channel TEXT NOT NULL,
    payload TEXT NOT NULL
) STRICT;

-- Which reading of a carrier's channel counts.
CREATE TABLE in_use (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    channel TEXT NOT NULL,
    reading INTEGER NOT NULL,
    PRIMARY KEY (carrier, row, column, channel)
) STRICT, WITHOUT ROWID;

ALTER TABLE batch ADD COLUMN channel TEXT NOT NULL DEFAULT '';  -- that analytes without a formula are read from
ALTER TABLE analyte ADD COLUMN formula TEXT NOT NULL DEFAULT ''; -- over channels; empty: the channel in use
ALTER TABLE analyte ADD COLUMN curve_of TEXT NOT NULL DEFAULT 'batch'; -- batch, carrier
