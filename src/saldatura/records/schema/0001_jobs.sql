-- Jobs and their facts. Facts are appended: the triggers below refuse to change or remove one.

CREATE TABLE job (
    id INTEGER PRIMARY KEY,
    uid TEXT NOT NULL UNIQUE CHECK (length(uid) BETWEEN 8 AND 64),
    opened_at TEXT NOT NULL
) STRICT;

CREATE TABLE intake (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    customer TEXT NOT NULL CHECK (length(customer) BETWEEN 1 AND 80),
    pack_name TEXT NOT NULL CHECK (length(pack_name) BETWEEN 1 AND 80),
    serial TEXT NOT NULL CHECK (length(serial) <= 60),
    chemistry TEXT NOT NULL,
    series INTEGER NOT NULL CHECK (series BETWEEN 1 AND 40),
    parallel INTEGER NOT NULL CHECK (parallel BETWEEN 1 AND 200),
    rated_ah REAL NOT NULL CHECK (rated_ah > 0),
    load_a REAL CHECK (load_a > 0),
    symptoms TEXT NOT NULL CHECK (json_valid(symptoms)),
    note TEXT NOT NULL CHECK (length(note) <= 2000)
) STRICT;
CREATE INDEX intake_job ON intake (job_id, id);

CREATE TABLE safety (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    swollen INTEGER NOT NULL CHECK (swollen IN (0, 1)),
    leaking INTEGER NOT NULL CHECK (leaking IN (0, 1)),
    hot INTEGER NOT NULL CHECK (hot IN (0, 1)),
    wet INTEGER NOT NULL CHECK (wet IN (0, 1)),
    crushed INTEGER NOT NULL CHECK (crushed IN (0, 1)),
    smell INTEGER NOT NULL CHECK (smell IN (0, 1))
) STRICT;
CREATE INDEX safety_job ON safety (job_id, id);

CREATE TABLE release (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    by TEXT NOT NULL CHECK (length(by) BETWEEN 1 AND 60),
    reason TEXT NOT NULL CHECK (length(reason) BETWEEN 3 AND 400)
) STRICT;
CREATE INDEX release_job ON release (job_id, id);

CREATE TABLE stage_step (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    stage TEXT NOT NULL CHECK (stage IN ('take_in', 'probe', 'judge', 'level', 'prove', 'hand_over'))
) STRICT;
CREATE INDEX stage_step_job ON stage_step (job_id, id);

CREATE TABLE meter (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    percent REAL NOT NULL CHECK (percent BETWEEN 0 AND 20),
    digits REAL NOT NULL CHECK (digits BETWEEN 0 AND 100),
    resolution_v REAL NOT NULL CHECK (resolution_v > 0 AND resolution_v <= 1)
) STRICT;

CREATE TABLE reading_set (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    purpose TEXT NOT NULL CHECK (purpose IN ('probe', 'prove')),
    opened_at TEXT NOT NULL,
    rest_since TEXT,
    last_current_a REAL NOT NULL CHECK (last_current_a >= 0),
    percent REAL NOT NULL CHECK (percent BETWEEN 0 AND 20),
    digits REAL NOT NULL CHECK (digits BETWEEN 0 AND 100),
    resolution_v REAL NOT NULL CHECK (resolution_v > 0 AND resolution_v <= 1)
) STRICT;
CREATE INDEX reading_set_job ON reading_set (job_id, id);

CREATE TABLE reading (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    set_id INTEGER NOT NULL REFERENCES reading_set (id),
    at TEXT NOT NULL,
    kind TEXT NOT NULL CHECK (kind IN ('tap', 'group', 'span', 'pack')),
    from_tap INTEGER CHECK (from_tap BETWEEN 0 AND 40),
    to_tap INTEGER CHECK (to_tap BETWEEN 0 AND 40),
    volts REAL CHECK (volts BETWEEN -1000 AND 1000),
    supersedes INTEGER REFERENCES reading (id),
    reason TEXT NOT NULL CHECK (length(reason) <= 200),
    key TEXT NOT NULL,
    UNIQUE (job_id, key)
) STRICT;
CREATE INDEX reading_job ON reading (job_id, id);

CREATE TABLE charge (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    started_at TEXT NOT NULL,
    group_no INTEGER NOT NULL CHECK (group_no BETWEEN 1 AND 40),
    target TEXT NOT NULL CHECK (target IN ('full', 'match', 'storage')),
    start_v REAL NOT NULL,
    target_v REAL NOT NULL CHECK (target_v > 0),
    current_a REAL NOT NULL CHECK (current_a > 0),
    cutoff_a REAL NOT NULL CHECK (cutoff_a > 0),
    forecast_s REAL NOT NULL CHECK (forecast_s >= 0),
    forecast_low_s REAL NOT NULL CHECK (forecast_low_s >= 0),
    forecast_high_s REAL NOT NULL CHECK (forecast_high_s >= 0),
    forecast_ah REAL NOT NULL CHECK (forecast_ah >= 0),
    look_again_s TEXT NOT NULL CHECK (json_valid(look_again_s))
) STRICT;
CREATE INDEX charge_job ON charge (job_id, id);

CREATE TABLE charge_end (
    charge_id INTEGER PRIMARY KEY REFERENCES charge (id),
    at TEXT NOT NULL,
    outcome TEXT NOT NULL CHECK (outcome IN ('finished', 'stopped')),
    volts REAL NOT NULL CHECK (volts BETWEEN -10 AND 10),
    counted_ah REAL CHECK (counted_ah >= 0)
) STRICT;

CREATE TABLE sign_off (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    at TEXT NOT NULL,
    by TEXT NOT NULL CHECK (length(by) BETWEEN 1 AND 60),
    reason TEXT NOT NULL CHECK (length(reason) <= 400),
    program_version TEXT NOT NULL,
    inputs TEXT NOT NULL CHECK (json_valid(inputs)),
    results TEXT NOT NULL CHECK (json_valid(results))
) STRICT;

CREATE TRIGGER job_no_update BEFORE UPDATE ON job BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: job');
END;

CREATE TRIGGER job_no_delete BEFORE DELETE ON job BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: job');
END;

CREATE TRIGGER intake_no_update BEFORE UPDATE ON intake BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: intake');
END;

CREATE TRIGGER intake_no_delete BEFORE DELETE ON intake BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: intake');
END;

CREATE TRIGGER safety_no_update BEFORE UPDATE ON safety BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: safety');
END;

CREATE TRIGGER safety_no_delete BEFORE DELETE ON safety BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: safety');
END;

CREATE TRIGGER release_no_update BEFORE UPDATE ON release BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: release');
END;

CREATE TRIGGER release_no_delete BEFORE DELETE ON release BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: release');
END;

CREATE TRIGGER stage_step_no_update BEFORE UPDATE ON stage_step BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: stage_step');
END;

CREATE TRIGGER stage_step_no_delete BEFORE DELETE ON stage_step BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: stage_step');
END;

CREATE TRIGGER meter_no_update BEFORE UPDATE ON meter BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: meter');
END;

CREATE TRIGGER meter_no_delete BEFORE DELETE ON meter BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: meter');
END;

CREATE TRIGGER reading_set_no_update BEFORE UPDATE ON reading_set BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading_set');
END;

CREATE TRIGGER reading_set_no_delete BEFORE DELETE ON reading_set BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading_set');
END;

CREATE TRIGGER reading_no_update BEFORE UPDATE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;

CREATE TRIGGER reading_no_delete BEFORE DELETE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;

CREATE TRIGGER charge_no_update BEFORE UPDATE ON charge BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge');
END;

CREATE TRIGGER charge_no_delete BEFORE DELETE ON charge BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge');
END;

CREATE TRIGGER charge_end_no_update BEFORE UPDATE ON charge_end BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge_end');
END;

CREATE TRIGGER charge_end_no_delete BEFORE DELETE ON charge_end BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: charge_end');
END;

CREATE TRIGGER sign_off_no_update BEFORE UPDATE ON sign_off BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: sign_off');
END;

CREATE TRIGGER sign_off_no_delete BEFORE DELETE ON sign_off BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: sign_off');
END;

-- Where each job stands, kept beside the facts by the triggers below so that lists need not ask every fact of every job.
-- It holds nothing that the facts do not say; dropping and refilling it loses nothing.
CREATE TABLE job_now (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    intake_id INTEGER NOT NULL,
    standing TEXT NOT NULL,
    stage TEXT NOT NULL,
    hazards INTEGER NOT NULL DEFAULT 0,
    touched_at TEXT NOT NULL
) STRICT;
CREATE INDEX job_now_order ON job_now (standing = 'done', touched_at DESC);
CREATE INDEX job_now_standing ON job_now (standing, touched_at DESC);

CREATE TRIGGER intake_now AFTER INSERT ON intake BEGIN
    INSERT INTO job_now (job_id, intake_id, standing, stage, touched_at)
    VALUES (NEW.job_id, NEW.id, 'take_in', 'take_in', NEW.at)
    ON CONFLICT (job_id) DO UPDATE SET intake_id = NEW.id, touched_at = NEW.at;
END;

CREATE TRIGGER safety_now AFTER INSERT ON safety BEGIN
    UPDATE job_now
    SET hazards = NEW.swollen + NEW.leaking + NEW.hot + NEW.wet + NEW.crushed + NEW.smell,
        touched_at = NEW.at
    WHERE job_id = NEW.job_id;
    UPDATE job_now SET standing = iif(hazards > 0, 'quarantine', stage) WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER release_now AFTER INSERT ON release BEGIN
    UPDATE job_now SET hazards = 0, standing = stage, touched_at = NEW.at WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER stage_step_now AFTER INSERT ON stage_step BEGIN
    UPDATE job_now
    SET stage = NEW.stage, standing = iif(hazards > 0, 'quarantine', NEW.stage), touched_at = NEW.at
    WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER reading_now AFTER INSERT ON reading BEGIN
    UPDATE job_now SET touched_at = NEW.at WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER charge_now AFTER INSERT ON charge BEGIN
    UPDATE job_now SET touched_at = NEW.started_at WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER sign_off_now AFTER INSERT ON sign_off BEGIN
    UPDATE job_now SET standing = 'done', touched_at = NEW.at WHERE job_id = NEW.job_id;
END;
