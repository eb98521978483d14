-- Nuvat batch file, schema version 9: what was measured on traces is remembered; volumes of standard addition.

-- Concentration of the solution that is added to samples, where their volume grows by it; null: volumes are equal.
ALTER TABLE analyte ADD COLUMN addition_standard REAL;

-- What was found in the trace of a slot that counts, so that opening a batch need not look at its traces again. Nothing
-- that a person has decided: the table may be emptied at any time, and is not under the seal. key: SHA-256 over the
-- payload's id, the rules, what was drawn and the version of the measuring; where it is not that of the present, the row
-- is of no use. data: doubles and whole numbers as eight bytes, the lowest first.
CREATE TABLE measured (
    carrier INTEGER NOT NULL,
    row INTEGER NOT NULL,
    column INTEGER NOT NULL,
    channel TEXT NOT NULL,
    key TEXT NOT NULL,
    data BLOB NOT NULL,
    PRIMARY KEY (carrier, row, column, channel)
) STRICT;
