-- Nuvat batch file, schema version 10: decisions, derived values, kept curves, blanks by row and column, and what a
-- method says of files, columns and pages.

-- What responses are in percent of: nothing, zero-standard, highest.
ALTER TABLE analyte ADD COLUMN percent_of TEXT NOT NULL DEFAULT 'nothing';
-- JSON, {"by":"interval","limits":[0.45,0.9],"classes":["mild","even","bold"]}; empty where nothing is decided.
ALTER TABLE analyte ADD COLUMN decisions TEXT NOT NULL DEFAULT '';
-- JSON, [{"name":"Content","unit":"mg/g","formula":"result * volume / mass"}]; empty without any.
ALTER TABLE analyte ADD COLUMN derived TEXT NOT NULL DEFAULT '';
-- JSON: a curve of an earlier batch with all it is fitted to; empty without one.
ALTER TABLE analyte ADD COLUMN kept TEXT NOT NULL DEFAULT '';

-- JSON: what was corrected of files of plates, for the next of the kind; empty where nothing was.
ALTER TABLE method ADD COLUMN plate_recipe TEXT NOT NULL DEFAULT '';
-- Which blanks a response is corrected by: carrier, row, column.
ALTER TABLE method ADD COLUMN blank_by TEXT NOT NULL DEFAULT 'carrier';
-- Dilution that every sample needs; part of the one that is typed.
ALTER TABLE method ADD COLUMN least_dilution REAL NOT NULL DEFAULT 1;
-- Names of columns with commas between them; empty: the usual ones.
ALTER TABLE method ADD COLUMN result_columns TEXT NOT NULL DEFAULT '';
-- Texts with {fields} for the top and foot of pages and for names of files; empty: the usual ones.
ALTER TABLE method ADD COLUMN report_top TEXT NOT NULL DEFAULT '';
ALTER TABLE method ADD COLUMN report_foot TEXT NOT NULL DEFAULT '';
ALTER TABLE method ADD COLUMN file_name TEXT NOT NULL DEFAULT '';
-- Names of what is exported when a reading came in, with commas between them.
ALTER TABLE method ADD COLUMN when_complete TEXT NOT NULL DEFAULT '';

-- For derived values: in units of the laboratory's own.
ALTER TABLE sample ADD COLUMN volume REAL;
ALTER TABLE sample ADD COLUMN mass REAL;
-- Concentration that the spike of the sample had added.
ALTER TABLE sample ADD COLUMN added REAL;
