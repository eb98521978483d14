DROP TABLE reading_well;
DROP TABLE reading;
ALTER TABLE new_reading RENAME TO reading;
ALTER TABLE batch DROP COLUMN reading_in_use;
ALTER TABLE analyte DROP COLUMN reading;

-- Ready-made: the values of every reading, place by place.
CREATE VIEW reading_well AS
SELECT r.id AS reading_id, r.carrier, w.key / json_extract(p.data, '$.columns') AS row,
       w.key % json_extract(p.data, '$.columns') AS column, json_extract(w.value, '$[0]') AS value,
       json_extract(w.value, '$[1]') AS text, json_extract(w.value, '$[2]') AS source_line,
       json_extract(w.value, '$[3]') AS source_cell
FROM reading r JOIN payload p ON p.id = r.payload, json_each(p.data, '$.wells') w
WHERE p.kind = 'grid';

-- Ready-made: every place with what sits in it and what was read there, once for each analyte: in the channel in use, or
-- in the one that the analyte's formula is. Where a formula is more than a channel there is no raw value.
CREATE VIEW place_view AS
SELECT c.id AS carrier, w.row, w.column,
       CASE WHEN c.kind = 'run-list' THEN 'run ' || (w.row + 1)
            ELSE CASE WHEN w.row < 26 THEN char(65 + w.row) ELSE char(64 + w.row / 26) || char(65 + w.row % 26) END
                 || (w.column + 1) END AS well,
       coalesce(p.role, 'empty') AS role, p.number,
       coalesce(s.name, n.name, '') AS name,
       coalesce(l.concentration, q.nominal) AS nominal,
       s.dilution, CASE WHEN a.formula IN ('', u.channel) THEN w.value END AS raw, w.text, e.reason AS excluded_because, a.number AS analyte, a.name AS analyte_name
FROM analyte a
JOIN batch b
JOIN carrier c
JOIN in_use u ON u.carrier = c.id AND u.row = -1
    AND u.channel = CASE WHEN a.formula IN (SELECT channel FROM in_use) THEN a.formula ELSE b.channel END
JOIN reading_well w ON w.reading_id = u.reading
LEFT JOIN place p ON p.carrier = c.id AND p.row = w.row AND p.column = w.column
LEFT JOIN level l ON p.role = 'standard' AND l.number = p.number AND l.analyte = a.number
LEFT JOIN qc q ON p.role = 'qc' AND q.number = p.number AND q.analyte = a.number
LEFT JOIN qc n ON p.role = 'qc' AND n.number = p.number AND n.analyte = 1
LEFT JOIN sample s ON p.role = 'unknown' AND s.number = p.number
LEFT JOIN exclusion e ON e.carrier = c.id AND e.row = w.row AND e.column = w.column;
