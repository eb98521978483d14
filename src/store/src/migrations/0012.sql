-- Nuvat batch file, schema version 12: internal standards and qualifiers.

ALTER TABLE analyte ADD COLUMN internal_standard INTEGER NOT NULL DEFAULT 0; -- number of the analyte; 0: none
ALTER TABLE analyte ADD COLUMN is_internal_before_dilution INTEGER NOT NULL DEFAULT 0;
ALTER TABLE analyte ADD COLUMN added_concentration REAL; -- of one that is an internal standard
-- JSON, [{"channel":"2","expected":null,"reference":null,"tolerance":30,"toleranceOf":"relative"}]; empty without any.
ALTER TABLE analyte ADD COLUMN qualifiers TEXT NOT NULL DEFAULT '';
-- Limits of an internal standard in percent of the median; NULL: not used.
ALTER TABLE method ADD COLUMN internal_low REAL DEFAULT 50;
ALTER TABLE method ADD COLUMN internal_high REAL DEFAULT 150;
-- JSON, {"2":10.5}: concentrations of internal standards by analyte, where they are not the usual; empty without any.
ALTER TABLE run ADD COLUMN added TEXT NOT NULL DEFAULT '';
