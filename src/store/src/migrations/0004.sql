-- Nuvat batch file, schema version 4: a checksum of everything but wells, which have one, undo entries and history.
CREATE TABLE seal (
    id INTEGER PRIMARY KEY CHECK (id = 1),
    checksum TEXT NOT NULL                                               -- FNV-1a 64, see seal.h
) STRICT;
