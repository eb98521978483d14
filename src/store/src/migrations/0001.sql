-- Nuvat batch file, schema version 1. Documented in docs/formats/nuvat-batch.md.
CREATE TABLE batch (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    uid TEXT NOT NULL,
    title TEXT NOT NULL,
    laboratory TEXT NOT NULL,
    reading_in_use INTEGER NOT NULL,
    rows INTEGER NOT NULL CHECK (rows BETWEEN 1 AND 32),
    columns INTEGER NOT NULL CHECK (columns BETWEEN 1 AND 48),
    note TEXT NOT NULL
) STRICT;

CREATE TABLE method (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    title TEXT NOT NULL,
    revision INTEGER NOT NULL,
    analyte TEXT NOT NULL,
    unit TEXT NOT NULL,
    response_name TEXT NOT NULL,
    model TEXT NOT NULL,
    weighting TEXT NOT NULL,
    is_concentration_logarithmic INTEGER NOT NULL,
    subtracts_blank INTEGER NOT NULL,
    blank_enters_interval INTEGER NOT NULL,
    confidence REAL NOT NULL,
    criteria_name TEXT NOT NULL,
    back_calculated REAL NOT NULL,
    back_calculated_at_ends REAL NOT NULL,
    levels_within REAL NOT NULL,
    levels_at_least INTEGER NOT NULL,
    standard_cv REAL NOT NULL,
    unknown_cv REAL NOT NULL,
    qc_recovery REAL NOT NULL,
    r_squared REAL NOT NULL,
    report_blocks TEXT NOT NULL -- names separated by commas; empty: all
) STRICT;

CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    source TEXT NOT NULL,
    checksum TEXT NOT NULL,
    understood TEXT NOT NULL,
    read_name TEXT NOT NULL,
    taken_in_millis INTEGER NOT NULL,
    rows INTEGER NOT NULL CHECK (rows BETWEEN 1 AND 32),
    columns INTEGER NOT NULL CHECK (columns BETWEEN 1 AND 48)
) STRICT;

CREATE TABLE reading_well (
    reading_id INTEGER NOT NULL REFERENCES reading (id) ON DELETE CASCADE,
    row INTEGER NOT NULL,     -- 0-based
    column INTEGER NOT NULL,  -- 0-based
    value REAL,               -- NULL: not read, or the text is no number
    text TEXT NOT NULL,       -- as it stands in the source
    source_line INTEGER NOT NULL,
    source_cell INTEGER NOT NULL,
    PRIMARY KEY (reading_id, row, column)
) STRICT, WITHOUT ROWID;

CREATE TABLE place (
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    role TEXT NOT NULL CHECK (role IN ('standard', 'blank', 'qc', 'unknown')),
    number INTEGER NOT NULL,
    PRIMARY KEY (row, column)
) STRICT, WITHOUT ROWID;

CREATE TABLE level (number INTEGER PRIMARY KEY, concentration REAL) STRICT;
CREATE TABLE qc (number INTEGER PRIMARY KEY, name TEXT NOT NULL, nominal REAL) STRICT;
CREATE TABLE sample (
    number INTEGER PRIMARY KEY,
    name TEXT NOT NULL,
    dilution REAL NOT NULL CHECK (dilution > 0),
    note TEXT NOT NULL
) STRICT;

CREATE TABLE exclusion (
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    reason TEXT NOT NULL,
    time_millis INTEGER NOT NULL,
    PRIMARY KEY (row, column)
) STRICT, WITHOUT ROWID;

-- What undo and redo need: every command that still can be undone or redone, in order.
CREATE TABLE command (
    position INTEGER PRIMARY KEY, -- 0, 1, …
    is_done INTEGER NOT NULL,
    label TEXT NOT NULL,
    reason TEXT NOT NULL,
    time_millis INTEGER NOT NULL,
    changes TEXT NOT NULL         -- JSON: items before and after
) STRICT;

-- The history: one line for each command, undo and redo; lines are only ever added.
CREATE TABLE history (
    id INTEGER PRIMARY KEY,
    time_millis INTEGER NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('done', 'undone', 'redone')),
    label TEXT NOT NULL,
    reason TEXT NOT NULL
) STRICT;

-- Ready-made: every place with what sits in it and what was read there.
CREATE VIEW place_view AS
SELECT w.row, w.column,
       CASE WHEN w.row < 26 THEN char(65 + w.row) ELSE char(64 + w.row / 26) || char(65 + w.row % 26) END
           || (w.column + 1) AS well,
       coalesce(p.role, 'empty') AS role, p.number,
       coalesce(s.name, q.name, '') AS name,
       coalesce(l.concentration, q.nominal) AS nominal,
       s.dilution, w.value AS raw, w.text, e.reason AS excluded_because
FROM reading_well w
JOIN batch b ON b.reading_in_use = w.reading_id
LEFT JOIN place p ON p.row = w.row AND p.column = w.column
LEFT JOIN level l ON p.role = 'standard' AND l.number = p.number
LEFT JOIN qc q ON p.role = 'qc' AND q.number = p.number
LEFT JOIN sample s ON p.role = 'unknown' AND s.number = p.number
LEFT JOIN exclusion e ON e.row = w.row AND e.column = w.column;

CREATE VIEW history_view AS
SELECT datetime(time_millis / 1000, 'unixepoch') AS time_utc, kind, label, reason FROM history ORDER BY id;
