-- Nuvat batch file, schema version 7: further roles; samples that were prepared more than once; how a response is taken is a
-- rule. Undo entries name every field of an item, as its table does.
DROP VIEW place_view;

ALTER TABLE place ADD COLUMN preparation INTEGER NOT NULL DEFAULT 1;

-- Of samples from the second preparation on; the first has the dilution of its sample.
CREATE TABLE preparation (
    number INTEGER NOT NULL,
    preparation INTEGER NOT NULL,
    dilution REAL NOT NULL,
    PRIMARY KEY (number, preparation)
) STRICT, WITHOUT ROWID;

-- role: qc, check-standard.
CREATE TABLE new_qc (
    number INTEGER NOT NULL,
    analyte INTEGER NOT NULL,
    role TEXT NOT NULL,
    name TEXT NOT NULL,
    nominal REAL,
    PRIMARY KEY (number, analyte, role)
) STRICT, WITHOUT ROWID;
INSERT INTO new_qc SELECT number, analyte, 'qc', name, nominal FROM qc;
DROP TABLE qc;
ALTER TABLE new_qc RENAME TO qc;

-- rule: JSON, {"kind":"value","formula":"450 nm"}, and band, peak, population, named with their fields.
ALTER TABLE analyte ADD COLUMN rule TEXT NOT NULL DEFAULT '';
UPDATE analyte SET rule = json_object('kind', 'value', 'formula', formula);
ALTER TABLE analyte DROP COLUMN formula;

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
       coalesce(d.dilution, s.dilution) AS dilution, CASE WHEN json_extract(a.rule, '$.formula') IN ('', u.channel) THEN w.value END AS raw, w.text, e.reason AS excluded_because, a.number AS analyte, a.name AS analyte_name
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
LEFT JOIN preparation d ON p.role IN ('unknown', 'spike') AND d.number = p.number AND d.preparation = p.preparation
LEFT JOIN exclusion e ON e.carrier = c.id AND e.row = w.row AND e.column = w.column;
