-- Nuvat batch file, schema version 11: how the figure of a curve is drawn.

-- JSON, {"xTitle":"","yTitle":"OD","x":[null,20],"y":[null,null],"markerSize":1.0,"hasBand":true}; empty where usual.
ALTER TABLE analyte ADD COLUMN figure TEXT NOT NULL DEFAULT '';
