-- Instruments, and the packs that are simulated. A virtual pack has a clock of its own: facts on its job carry it.

ALTER TABLE reading ADD COLUMN source TEXT NOT NULL DEFAULT 'typed' CHECK (length(source) BETWEEN 1 AND 60);
ALTER TABLE reading ADD COLUMN clock_s REAL CHECK (clock_s >= 0);
ALTER TABLE reading_set ADD COLUMN clock_s REAL CHECK (clock_s >= 0);
ALTER TABLE charge ADD COLUMN clock_s REAL CHECK (clock_s >= 0);
ALTER TABLE charge_end ADD COLUMN clock_s REAL CHECK (clock_s >= 0);

CREATE TABLE instrument (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('meter', 'thermometer', 'supply', 'load', 'cell_charger', 'harness_charger', 'capacity_tester')),
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 40),
    host TEXT NOT NULL,
    port INTEGER NOT NULL CHECK (port BETWEEN 1 AND 65535),
    percent REAL NOT NULL CHECK (percent BETWEEN 0 AND 20),
    digits REAL NOT NULL CHECK (digits BETWEEN 0 AND 100),
    resolution_v REAL NOT NULL CHECK (resolution_v > 0 AND resolution_v <= 1)
) STRICT;

CREATE TABLE instrument_removed (
    instrument_id INTEGER PRIMARY KEY REFERENCES instrument (id),
    at TEXT NOT NULL
) STRICT;

CREATE TABLE instrument_check (
    id INTEGER PRIMARY KEY,
    instrument_id INTEGER NOT NULL REFERENCES instrument (id),
    at TEXT NOT NULL,
    reference REAL NOT NULL,
    shown REAL NOT NULL
) STRICT;
CREATE INDEX instrument_check_of ON instrument_check (instrument_id, id);

CREATE TABLE virtual_pack (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    spec TEXT NOT NULL CHECK (json_valid(spec))
) STRICT;
CREATE INDEX virtual_pack_job ON virtual_pack (job_id, id);

-- Where each simulation stands, written over every second while it runs: a bookmark, not a fact of the job.
CREATE TABLE virtual_state (
    virtual_id INTEGER PRIMARY KEY REFERENCES virtual_pack (id),
    saved_at TEXT NOT NULL,
    running INTEGER NOT NULL CHECK (running IN (0, 1)),
    saved TEXT NOT NULL CHECK (json_valid(saved))
) STRICT;

-- What was measured while something drove a pack.
CREATE TABLE live_sample (
    id INTEGER PRIMARY KEY,
    virtual_id INTEGER NOT NULL REFERENCES virtual_pack (id),
    at TEXT NOT NULL,
    clock_s REAL NOT NULL,
    volts REAL NOT NULL,
    amps REAL NOT NULL,
    celsius REAL NOT NULL
) STRICT;
CREATE INDEX live_sample_of ON live_sample (virtual_id, id);

CREATE TRIGGER instrument_no_update BEFORE UPDATE ON instrument BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument');
END;

CREATE TRIGGER instrument_no_delete BEFORE DELETE ON instrument BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument');
END;

CREATE TRIGGER instrument_check_no_update BEFORE UPDATE ON instrument_check BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument_check');
END;

CREATE TRIGGER instrument_check_no_delete BEFORE DELETE ON instrument_check BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument_check');
END;

CREATE TRIGGER virtual_pack_no_update BEFORE UPDATE ON virtual_pack BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: virtual_pack');
END;

CREATE TRIGGER virtual_pack_no_delete BEFORE DELETE ON virtual_pack BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: virtual_pack');
END;

CREATE TRIGGER live_sample_no_update BEFORE UPDATE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;

CREATE TRIGGER live_sample_no_delete BEFORE DELETE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;

CREATE TRIGGER instrument_removed_no_update BEFORE UPDATE ON instrument_removed BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument_removed');
END;

CREATE TRIGGER instrument_removed_no_delete BEFORE DELETE ON instrument_removed BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: instrument_removed');
END;
