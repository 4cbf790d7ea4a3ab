-- Facts are appended, never changed or removed: triggers hold every table to it that keeps them.

PRAGMA application_id = 1396788292;

-- A job; everything else about it is facts.
CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE CHECK (length(uid) BETWEEN 8 AND 64),
    opened_at TEXT NOT NULL
) STRICT;
CREATE TRIGGER job_no_update BEFORE UPDATE ON job BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: job');
END;
CREATE TRIGGER job_no_delete BEFORE DELETE ON job BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: job');
END;

-- Facts of jobs (job_id) and of the shop (no job_id), in one order of record with the readings. Only ever added.
CREATE TABLE fact (
    id INTEGER PRIMARY KEY,
    job_id INTEGER REFERENCES job (id),
    kind TEXT NOT NULL CHECK (length(kind) BETWEEN 1 AND 40),
    at TEXT NOT NULL,
    clock_s REAL CHECK (clock_s >= 0),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX fact_job ON fact (job_id, id);
CREATE INDEX fact_kind ON fact (kind, id);
CREATE TRIGGER fact_no_update BEFORE UPDATE ON fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: fact');
END;
CREATE TRIGGER fact_no_delete BEFORE DELETE ON fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: fact');
END;

-- Readings, the one kind of fact that comes by the thousand: columns instead of a body.
CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    set_id INTEGER NOT NULL REFERENCES fact (id),
    at TEXT NOT NULL,
    clock_s REAL CHECK (clock_s >= 0),
    kind TEXT NOT NULL,
    from_tap INTEGER,
    to_tap INTEGER,
    volts REAL,
    supersedes INTEGER REFERENCES reading (id),
    reason TEXT NOT NULL CHECK (length(reason) <= 200),
    key TEXT NOT NULL,
    source TEXT NOT NULL CHECK (length(source) BETWEEN 1 AND 60),
    place TEXT NOT NULL,
    resolution_v REAL CHECK (resolution_v > 0),
    UNIQUE (job_id, key)
) STRICT;
CREATE INDEX reading_set ON reading (set_id, id);
CREATE INDEX reading_again ON reading (supersedes) WHERE supersedes IS NOT NULL;
CREATE TRIGGER reading_no_update BEFORE UPDATE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;
CREATE TRIGGER reading_no_delete BEFORE DELETE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;

-- Cells of the drawer by name.
CREATE TABLE cell (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 40),
    -- As it is looked up: in any case.
    folded TEXT NOT NULL UNIQUE
) STRICT;
CREATE TRIGGER cell_no_update BEFORE UPDATE ON cell BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell');
END;
CREATE TRIGGER cell_no_delete BEFORE DELETE ON cell BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell');
END;

-- What is told of a cell, or of the drawer (no cell_id). A place follows the place before it, so that no cell is in two.
CREATE TABLE cell_fact (
    id INTEGER PRIMARY KEY,
    cell_id INTEGER REFERENCES cell (id),
    kind TEXT NOT NULL CHECK (kind IN ('cell_type', 'columns', 'cell_took', 'cell_test', 'test_back', 'cell_moved')),
    at TEXT NOT NULL,
    previous INTEGER,
    body TEXT NOT NULL CHECK (json_valid(body)),
    UNIQUE (id, cell_id),
    FOREIGN KEY (previous, cell_id) REFERENCES cell_fact (id, cell_id),
    CHECK ((kind = 'cell_moved') = (previous IS NOT NULL)),
    CHECK ((kind IN ('cell_type', 'columns')) = (cell_id IS NULL))
) STRICT;
CREATE UNIQUE INDEX cell_fact_one_place ON cell_fact (previous) WHERE previous IS NOT NULL;
CREATE UNIQUE INDEX cell_fact_one_coming ON cell_fact (cell_id) WHERE kind = 'cell_took';
CREATE INDEX cell_fact_of ON cell_fact (cell_id, id);
CREATE TRIGGER cell_fact_follows BEFORE INSERT ON cell_fact
WHEN NEW.previous IS NOT NULL
    AND (SELECT kind FROM cell_fact WHERE id = NEW.previous) NOT IN ('cell_took', 'cell_moved')
BEGIN
    SELECT raise(ABORT, 'a place follows a place: cell_fact');
END;
CREATE TRIGGER cell_fact_no_update BEFORE UPDATE ON cell_fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell_fact');
END;
CREATE TRIGGER cell_fact_no_delete BEFORE DELETE ON cell_fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell_fact');
END;

-- Where each job stands and what lists show of it, written by the program with every fact from the one function that tells
-- it. It holds nothing that the facts do not say; dropping and refilling it loses nothing.
CREATE TABLE job_now (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    last_id INTEGER NOT NULL,
    standing TEXT NOT NULL,
    waits INTEGER NOT NULL CHECK (waits IN (0, 1)),
    -- After this it surely waits no more, by our clock; null where that is not known.
    waits_until TEXT,
    archived INTEGER NOT NULL CHECK (archived IN (0, 1)),
    touched_at TEXT NOT NULL,
    customer TEXT NOT NULL,
    pack_name TEXT NOT NULL,
    serial TEXT NOT NULL,
    words TEXT NOT NULL,
    pack TEXT NOT NULL CHECK (json_valid(pack)),
    simulated INTEGER NOT NULL CHECK (simulated IN (0, 1)),
    -- Each time it was handed back, and what it came with.
    outings TEXT NOT NULL CHECK (json_valid(outings)),
    cause TEXT,
    -- The pattern it was begun from, by its number everywhere; empty: none.
    pattern TEXT NOT NULL,
    symptoms TEXT NOT NULL CHECK (json_valid(symptoms))
) STRICT;
-- Jobs by the pattern that they were begun from.
CREATE INDEX job_now_pattern ON job_now (pattern) WHERE pattern <> '';
CREATE INDEX job_now_order ON job_now (archived, standing IN ('done', 'scrap'), touched_at DESC);
CREATE INDEX job_now_standing ON job_now (standing, touched_at DESC);
CREATE INDEX job_now_waits ON job_now (job_id) WHERE waits = 1;
CREATE INDEX job_now_serial ON job_now (job_id) WHERE serial <> '';
CREATE INDEX job_now_went ON job_now (job_id) WHERE outings <> '[]';

-- Patterns: what the shop knows of pack models; everything about one is facts of its own.
CREATE TABLE pattern (
    id INTEGER PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE CHECK (length(uid) = 36)
) STRICT;
CREATE TRIGGER pattern_no_update BEFORE UPDATE ON pattern BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: pattern');
END;
CREATE TRIGGER pattern_no_delete BEFORE DELETE ON pattern BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: pattern');
END;
CREATE TABLE pattern_fact (
    id INTEGER PRIMARY KEY,
    pattern_id INTEGER NOT NULL REFERENCES pattern (id),
    kind TEXT NOT NULL CHECK (kind IN ('pattern', 'pattern_retired')),
    at TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX pattern_fact_of ON pattern_fact (pattern_id, id);
CREATE TRIGGER pattern_fact_no_update BEFORE UPDATE ON pattern_fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: pattern_fact');
END;
CREATE TRIGGER pattern_fact_no_delete BEFORE DELETE ON pattern_fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: pattern_fact');
END;

-- What lists and offers show of each pattern, written with every fact of it. It holds nothing that the facts do not say; dropping and
-- refilling it loses nothing.
CREATE TABLE pattern_now (
    pattern_id INTEGER PRIMARY KEY REFERENCES pattern (id),
    last_id INTEGER NOT NULL,
    revision INTEGER NOT NULL,
    title TEXT NOT NULL,
    words TEXT NOT NULL,
    pack TEXT NOT NULL CHECK (json_valid(pack)),
    label_v REAL,
    label_ah REAL,
    contacts INTEGER NOT NULL,
    photos TEXT NOT NULL CHECK (json_valid(photos)),
    statements INTEGER NOT NULL,
    told INTEGER NOT NULL,
    retired INTEGER NOT NULL CHECK (retired IN (0, 1)),
    merged_into INTEGER,
    forked_from TEXT,
    touched_at TEXT NOT NULL
) STRICT;
CREATE INDEX pattern_now_branches ON pattern_now (forked_from) WHERE forked_from IS NOT NULL;
CREATE INDEX pattern_now_order ON pattern_now (retired, touched_at DESC);

-- Jobs that came with another shop's file, up to that fact.
CREATE TABLE brought_in (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    at TEXT NOT NULL,
    last_id INTEGER NOT NULL
) STRICT;
CREATE TRIGGER brought_in_no_update BEFORE UPDATE ON brought_in BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: brought_in');
END;
CREATE TRIGGER brought_in_no_delete BEFORE DELETE ON brought_in BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: brought_in');
END;

-- What was measured of a charge while it ran: rows of four little-endian doubles (seconds since it began, volts, amps, °C or NaN),
-- in pieces as they came. Beside the facts, for there may be millions; appended like them. A log brought in anew has the next
-- number of `telling`, and the last one counts.
CREATE TABLE charge_log (
    id INTEGER PRIMARY KEY,
    charge_id INTEGER NOT NULL REFERENCES fact (id),
    telling INTEGER NOT NULL DEFAULT 0,
    first_s REAL NOT NULL,
    entries INTEGER NOT NULL CHECK (entries >= 1),
    packed BLOB NOT NULL CHECK (length(packed) = entries * 32)
) STRICT;
CREATE INDEX charge_log_of ON charge_log (charge_id, telling, id);
CREATE TRIGGER charge_log_no_update BEFORE UPDATE ON charge_log BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge_log');
END;
CREATE TRIGGER charge_log_no_delete BEFORE DELETE ON charge_log BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge_log');
END;

-- A simulated pack as it was last saved.
CREATE TABLE virtual_state (
    virtual_id INTEGER PRIMARY KEY REFERENCES fact (id),
    saved_at TEXT NOT NULL,
    running INTEGER NOT NULL CHECK (running IN (0, 1)),
    saved TEXT NOT NULL CHECK (json_valid(saved))
) STRICT;

-- What a simulated pack showed at its terminals.
CREATE TABLE live_sample (
    id INTEGER PRIMARY KEY,
    virtual_id INTEGER NOT NULL REFERENCES fact (id),
    at TEXT NOT NULL,
    clock_s REAL NOT NULL,
    volts REAL NOT NULL,
    amps REAL NOT NULL,
    celsius REAL NOT NULL
) STRICT;
CREATE INDEX live_sample_of ON live_sample (virtual_id, id);
CREATE TRIGGER live_sample_no_update BEFORE UPDATE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;
CREATE TRIGGER live_sample_no_delete BEFORE DELETE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;

-- What the program switched on or wants off: appended, never changed. An instrument whose last line is not 'off' may be on, whatever
-- became of the program or of the charge since. `place`: the same for the same instrument, also where its port has another name today. `by`: somebody saw with their own eyes that it is off.
CREATE TABLE switched (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    place TEXT NOT NULL,
    address TEXT NOT NULL CHECK (json_valid(address)),
    name TEXT NOT NULL,
    drives TEXT NOT NULL CHECK (drives IN ('output', 'load')),
    job_id INTEGER NOT NULL REFERENCES job (id),
    charge_id INTEGER,
    charged_group INTEGER,
    state TEXT NOT NULL CHECK (state IN ('on', 'off_wanted', 'off')),
    by TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX switched_last ON switched (place, id);
CREATE TRIGGER switched_no_update BEFORE UPDATE ON switched BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: switched');
END;
CREATE TRIGGER switched_no_delete BEFORE DELETE ON switched BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: switched');
END;

-- What each signed job took, written with its sign-off from the one function that tells it. It holds nothing that the facts do not say;
-- dropping and refilling it loses nothing.
CREATE TABLE job_took (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    last_id INTEGER NOT NULL,
    signed_at TEXT NOT NULL,
    pattern TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX job_took_signed ON job_took (signed_at);
