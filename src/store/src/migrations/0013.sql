-- Nuvat batch file, schema version 13: exclusions of one analyte, suitability of a separation, roles by names, how lists
-- are measured, how standards are made.

-- Analyte 0: the place is left out for all of them.
DROP VIEW place_view;
CREATE TABLE new_exclusion (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    analyte INTEGER NOT NULL,
    reason TEXT NOT NULL,
    time_millis INTEGER NOT NULL,
    PRIMARY KEY (carrier, row, column, analyte)
) STRICT, WITHOUT ROWID;
INSERT INTO new_exclusion SELECT carrier, row, column, 0, reason, time_millis FROM exclusion;
DROP TABLE exclusion;
ALTER TABLE new_exclusion RENAME TO exclusion;

-- JSON, {"tailing":2,"plates":null,...}; empty without a limit.
ALTER TABLE analyte ADD COLUMN suitability TEXT NOT NULL DEFAULT '';
-- JSON, [{"pattern":"qc #*","role":"qc"}]; empty: the usual.
ALTER TABLE method ADD COLUMN name_rules TEXT NOT NULL DEFAULT '';
-- JSON; empty for the plain one.
ALTER TABLE method ADD COLUMN run_rule TEXT NOT NULL DEFAULT '';
-- JSON; empty without a plan.
ALTER TABLE method ADD COLUMN standard_plan TEXT NOT NULL DEFAULT '';

-- Ready-made: every place with what sits in it and what was read there, once for each analyte: in the channel in use, or
-- in the one that the analyte's formula is. Where a formula is more than a channel there is no raw value.
CREATE VIEW place_view AS
SELECT c.id AS carrier, w.row, w.column,
       CASE WHEN c.kind = 'run-list' THEN 'run ' || (w.row + 1)
            ELSE CASE WHEN w.row < 26 THEN char(65 + w.row) ELSE char(64 + w.row / 26) || char(65 + w.row % 26) END
                 || (w.column + 1) END AS well,
       coalesce(p.role, 'empty') AS role, p.number, p.preparation,
       coalesce(s.name, n.name, '') AS name,
       coalesce(l.concentration, q.nominal) AS nominal,
       coalesce(d.dilution, s.dilution) AS dilution, CASE WHEN json_extract(a.rule, '$.formula') IN ('', u.channel) THEN w.value END AS raw, w.text, 
       coalesce((SELECT reason FROM exclusion e WHERE e.carrier = c.id AND e.row = w.row AND e.column = w.column AND e.analyte = 0),
                (SELECT reason FROM exclusion e WHERE e.carrier = c.id AND e.row = w.row AND e.column = w.column AND e.analyte = a.number)) AS excluded_because, a.number AS analyte, a.name AS analyte_name
FROM analyte a
JOIN batch b
JOIN carrier c
JOIN in_use u ON u.carrier = c.id AND u.row = -1
    AND u.channel = CASE WHEN json_extract(a.rule, '$.formula') IN (SELECT channel FROM in_use) THEN json_extract(a.rule, '$.formula') ELSE b.channel END
JOIN reading_well w ON w.reading_id = u.reading
LEFT JOIN place p ON p.carrier = c.id AND p.row = w.row AND p.column = w.column
LEFT JOIN level l ON p.role = 'standard' AND l.number = p.number AND l.analyte = a.number
LEFT JOIN qc q ON q.role = p.role AND q.number = p.number AND q.analyte = a.number
LEFT JOIN qc n ON n.role = p.role AND n.number = p.number AND n.analyte = 1
LEFT JOIN sample s ON p.role IN ('unknown', 'spike', 'addition') AND s.number = p.number
LEFT JOIN preparation d ON p.role IN ('unknown', 'spike') AND d.number = p.number AND d.preparation = p.preparation;
