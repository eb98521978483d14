-- Nuvat batch file, schema version 3: settings of weights and intervals, what an override was given for, what a line of
-- the history is about, and a checksum of every reading's values.
ALTER TABLE analyte ADD COLUMN weight_floor REAL;                       -- share of the largest |y|; NULL: from the scatter
ALTER TABLE analyte ADD COLUMN theta REAL;                              -- of the variance function; NULL: estimated
ALTER TABLE analyte ADD COLUMN scatter TEXT NOT NULL DEFAULT 'batch';   -- of an unknown: batch, curve, sample
ALTER TABLE method ADD COLUMN blank_of_lloq REAL;                       -- percent of the LLOQ response; NULL: not used
ALTER TABLE method ADD COLUMN standards_at_level REAL NOT NULL DEFAULT 50; -- percent of a level's standards
ALTER TABLE criterion_override ADD COLUMN limit_text TEXT NOT NULL DEFAULT '';
ALTER TABLE reading ADD COLUMN values_checksum TEXT NOT NULL DEFAULT '';
ALTER TABLE history ADD COLUMN subject TEXT NOT NULL DEFAULT 'edit';    -- edit, exclusion, override
-- Lines from before are told apart by the words that the commands of their version gave them.
UPDATE history SET subject = 'override' WHERE label LIKE '% overridden' AND reason <> '';
UPDATE history SET subject = 'override' WHERE label LIKE 'Override of % withdrawn';
UPDATE history SET subject = 'exclusion' WHERE label LIKE '% excluded' AND reason <> '';
UPDATE history SET subject = 'exclusion' WHERE label LIKE '% restored' AND label NOT LIKE '%→%';
