-- Nuvat batch file, schema version 8: traces.

-- A payload of the kind trace is a blob, whole numbers and doubles as eight bytes, the lowest first: four texts (name and
-- unit of x and of y), each after its length; x0, step; the numbers of x, 0 for equal steps, and of y, each after their
-- count; the indexes of missing points after their count.

-- JSON, {"channel":{"leastHeight":…}}: how the traces of each channel are looked at; empty where none differs.
ALTER TABLE method ADD COLUMN signal_rules TEXT NOT NULL DEFAULT '';

-- JSON: what was corrected of files of traces, for the next of the kind; empty where nothing was.
ALTER TABLE method ADD COLUMN trace_recipe TEXT NOT NULL DEFAULT '';
UPDATE analyte SET rule = json_set(rule, '$.pick', 'nearest', '$.factor', 1.0, '$.isWindowTaken', json('false'))
WHERE json_extract(rule, '$.kind') = 'peak';

-- What was drawn on a trace. edits: JSON, [{"kind":"bounds","at":…,"from":…,"to":…,"reason":…},…] in their order.
CREATE TABLE hand_edit (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    channel TEXT NOT NULL,
    edits TEXT NOT NULL,
    PRIMARY KEY (carrier, row, column, channel)
) STRICT, WITHOUT ROWID;

-- Ready-made: the values of every reading that is a grid, place by place.
DROP VIEW place_view;
DROP VIEW reading_well;
CREATE VIEW reading_well AS
SELECT r.id AS reading_id, r.carrier, w.key / json_extract(p.data, '$.columns') AS row,
       w.key % json_extract(p.data, '$.columns') AS column, json_extract(w.value, '$[0]') AS value,
       json_extract(w.value, '$[1]') AS text, json_extract(w.value, '$[2]') AS source_line,
       json_extract(w.value, '$[3]') AS source_cell
FROM reading r JOIN payload p ON p.id = r.payload AND p.kind = 'grid',
     json_each(CASE WHEN p.kind = 'grid' THEN p.data ELSE '{"wells":[]}' END, '$.wells') w;

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
