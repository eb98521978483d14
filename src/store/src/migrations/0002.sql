-- Nuvat batch file, schema version 2: several analytes, each with its own curve; criteria of one's own and overrides.
DROP VIEW place_view;

CREATE TABLE analyte (
    number INTEGER PRIMARY KEY CHECK (number >= 1),
    name TEXT NOT NULL,
    unit TEXT NOT NULL,
    response_name TEXT NOT NULL,
    reading INTEGER NOT NULL,        -- 0: the reading in use
    model TEXT NOT NULL,
    weighting TEXT NOT NULL,
    weight_from TEXT NOT NULL,       -- y of the weights 1/y and 1/y2: observed, level, fitted
    fit_to TEXT NOT NULL,            -- replicates, means
    held_a REAL,                     -- logistics; NULL: fitted
    held_d REAL,
    fixed_x REAL NOT NULL,           -- line through a fixed point
    fixed_y REAL NOT NULL,
    is_spline_in_log_x INTEGER NOT NULL,
    interval TEXT NOT NULL,
    average TEXT NOT NULL,           -- concentration, response
    range_by TEXT NOT NULL,          -- criteria, precision, hand
    precision_percent REAL NOT NULL,
    lloq REAL,                       -- by hand
    uloq REAL,
    extrapolation REAL NOT NULL CHECK (extrapolation >= 1),
    is_concentration_logarithmic INTEGER NOT NULL
) STRICT;
INSERT INTO analyte
SELECT 1, analyte, unit, response_name, 0, model, weighting, 'observed', 'replicates', NULL, NULL, 0, 0, 0,
       'propagation', 'concentration', 'criteria', 20, NULL, NULL, 1, is_concentration_logarithmic
FROM method;

CREATE TABLE new_method (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    title TEXT NOT NULL,
    revision INTEGER NOT NULL,
    subtracts_blank INTEGER NOT NULL,
    blank_enters_interval INTEGER NOT NULL,
    dilution_relative_se REAL NOT NULL,
    confidence REAL NOT NULL,
    keep_best INTEGER NOT NULL,      -- best n of m replicates; 0: all
    outlier_test TEXT NOT NULL,      -- none, grubbs, dixon
    outlier_alpha REAL NOT NULL,
    criteria_name TEXT NOT NULL,
    back_calculated REAL,            -- NULL: the criterion is not used
    back_calculated_at_lowest REAL NOT NULL,
    back_calculated_at_highest REAL NOT NULL,
    levels_within REAL NOT NULL,
    levels_at_least INTEGER NOT NULL,
    standard_cv REAL,
    unknown_cv REAL,
    qc_recovery REAL,
    r_squared REAL,
    correlation REAL,
    qc_within REAL,
    qc_within_at_level REAL NOT NULL,
    is_blank_below_lloq INTEGER NOT NULL,
    report_blocks TEXT NOT NULL      -- names separated by commas; empty: all
) STRICT;
INSERT INTO new_method
SELECT 1, title, revision, subtracts_blank, blank_enters_interval, 0, confidence, 0, 'none', 0.05, criteria_name,
       back_calculated, back_calculated_at_ends, back_calculated_at_ends, levels_within, levels_at_least, standard_cv,
       unknown_cv, qc_recovery, r_squared, NULL, NULL, 50, 0, report_blocks
FROM method;
DROP TABLE method;
ALTER TABLE new_method RENAME TO method;

CREATE TABLE new_level (
    number INTEGER NOT NULL,
    analyte INTEGER NOT NULL,
    concentration REAL,
    PRIMARY KEY (number, analyte)
) STRICT, WITHOUT ROWID;
INSERT INTO new_level SELECT number, 1, concentration FROM level;
DROP TABLE level;
ALTER TABLE new_level RENAME TO level;

CREATE TABLE new_qc (
    number INTEGER NOT NULL,
    analyte INTEGER NOT NULL,
    name TEXT NOT NULL,              -- that of analyte 1 counts
    nominal REAL,
    PRIMARY KEY (number, analyte)
) STRICT, WITHOUT ROWID;
INSERT INTO new_qc SELECT number, 1, name, nominal FROM qc;
DROP TABLE qc;
ALTER TABLE new_qc RENAME TO qc;

-- Criteria of one's own, besides the built-in ones whose limits stand in method.
CREATE TABLE criterion (
    position INTEGER PRIMARY KEY,    -- 0, 1, …
    title TEXT NOT NULL,
    scope TEXT NOT NULL,             -- batch, analyte, level, sample, qc
    quantity TEXT NOT NULL,          -- a formula
    comparison TEXT NOT NULL,        -- at-most, at-least
    limit_value REAL NOT NULL,
    asks_for_review INTEGER NOT NULL -- else it fails the batch
) STRICT;

-- Decisions of a person that a criterion which was not met does not count.
CREATE TABLE criterion_override (
    analyte INTEGER NOT NULL,        -- 0: of the batch as a whole
    criterion TEXT NOT NULL,         -- its key
    reason TEXT NOT NULL,
    time_millis INTEGER NOT NULL,
    PRIMARY KEY (analyte, criterion)
) STRICT, WITHOUT ROWID;

-- Ready-made: every place with what sits in it and what was read there, once for each analyte.
CREATE VIEW place_view AS
SELECT w.row, w.column,
       CASE WHEN w.row < 26 THEN char(65 + w.row) ELSE char(64 + w.row / 26) || char(65 + w.row % 26) END
           || (w.column + 1) AS well,
       coalesce(p.role, 'empty') AS role, p.number,
       coalesce(s.name, n.name, '') AS name,
       coalesce(l.concentration, q.nominal) AS nominal,
       s.dilution, w.value AS raw, w.text, e.reason AS excluded_because, a.number AS analyte, a.name AS analyte_name
FROM analyte a
JOIN batch b
JOIN reading_well w ON w.reading_id = CASE a.reading WHEN 0 THEN b.reading_in_use ELSE a.reading END
LEFT JOIN place p ON p.row = w.row AND p.column = w.column
LEFT JOIN level l ON p.role = 'standard' AND l.number = p.number AND l.analyte = a.number
LEFT JOIN qc q ON p.role = 'qc' AND q.number = p.number AND q.analyte = a.number
LEFT JOIN qc n ON p.role = 'qc' AND n.number = p.number AND n.analyte = 1
LEFT JOIN sample s ON p.role = 'unknown' AND s.number = p.number
LEFT JOIN exclusion e ON e.row = w.row AND e.column = w.column;
