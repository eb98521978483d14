-- Nuvat batch file, schema version 5: several plates and lists of runs; levels that are anchors.
DROP VIEW place_view;

-- What samples sit in. Columns of a run list: 1.
CREATE TABLE carrier (
    id INTEGER PRIMARY KEY CHECK (id >= 1),
    kind TEXT NOT NULL,              -- plate, run-list
    name TEXT NOT NULL,              -- empty: by kind and number
    rows INTEGER NOT NULL CHECK (rows >= 1),
    columns INTEGER NOT NULL CHECK (columns >= 1)
) STRICT;
INSERT INTO carrier SELECT 1, 'plate', '', rows, columns FROM batch;

-- What is known of a run besides its reading.
CREATE TABLE run (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,            -- 0-based
    column INTEGER NOT NULL,
    name TEXT NOT NULL,
    vial TEXT NOT NULL,
    file TEXT NOT NULL,
    injected_microlitres REAL,
    injected_millis INTEGER NOT NULL, -- since 1970-01-01 UTC; 0: not known
    state TEXT NOT NULL,             -- planned, running, done, failed, set-aside
    PRIMARY KEY (carrier, row, column)
) STRICT, WITHOUT ROWID;

CREATE TABLE new_batch (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    uid TEXT NOT NULL,
    title TEXT NOT NULL,
    laboratory TEXT NOT NULL,
    reading_in_use INTEGER NOT NULL,
    note TEXT NOT NULL
) STRICT;
INSERT INTO new_batch SELECT id, uid, title, laboratory, reading_in_use, note FROM batch;
DROP TABLE batch;
ALTER TABLE new_batch RENAME TO batch;

CREATE TABLE new_place (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    role TEXT NOT NULL,
    number INTEGER NOT NULL,
    PRIMARY KEY (carrier, row, column)
) STRICT, WITHOUT ROWID;
INSERT INTO new_place SELECT 1, row, column, role, number FROM place;
DROP TABLE place;
ALTER TABLE new_place RENAME TO place;

CREATE TABLE new_exclusion (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    reason TEXT NOT NULL,
    time_millis INTEGER NOT NULL,
    PRIMARY KEY (carrier, row, column)
) STRICT, WITHOUT ROWID;
INSERT INTO new_exclusion SELECT 1, row, column, reason, time_millis FROM exclusion;
DROP TABLE exclusion;
ALTER TABLE new_exclusion RENAME TO exclusion;

ALTER TABLE level ADD COLUMN is_anchor INTEGER NOT NULL DEFAULT 0;

-- Ready-made: every place with what sits in it and what was read there, once for each analyte.
CREATE VIEW place_view AS
SELECT 1 AS carrier, w.row, w.column,
       CASE WHEN w.row < 26 THEN char(65 + w.row) ELSE char(64 + w.row / 26) || char(65 + w.row % 26) END
           || (w.column + 1) AS well,
       coalesce(p.role, 'empty') AS role, p.number,
       coalesce(s.name, n.name, '') AS name,
       coalesce(l.concentration, q.nominal) AS nominal,
       s.dilution, w.value AS raw, w.text, e.reason AS excluded_because, a.number AS analyte, a.name AS analyte_name
FROM analyte a
JOIN batch b
JOIN reading_well w ON w.reading_id = CASE a.reading WHEN 0 THEN b.reading_in_use ELSE a.reading END
LEFT JOIN place p ON p.carrier = 1 AND p.row = w.row AND p.column = w.column
LEFT JOIN level l ON p.role = 'standard' AND l.number = p.number AND l.analyte = a.number
LEFT JOIN qc q ON p.role = 'qc' AND q.number = p.number AND q.analyte = a.number
LEFT JOIN qc n ON p.role = 'qc' AND n.number = p.number AND n.analyte = 1
LEFT JOIN sample s ON p.role = 'unknown' AND s.number = p.number
LEFT JOIN exclusion e ON e.carrier = 1 AND e.row = w.row AND e.column = w.column;
