-- What went out and came back is noted beside where a job stands, so that no list reads whole jobs for it; and the file says whose it is.

PRAGMA application_id = 1396788292;

DROP TABLE job_now;
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
    symptoms TEXT NOT NULL CHECK (json_valid(symptoms))
) STRICT;
CREATE INDEX job_now_order ON job_now (archived, standing IN ('done', 'scrap'), touched_at DESC);
CREATE INDEX job_now_standing ON job_now (standing, touched_at DESC);
CREATE INDEX job_now_waits ON job_now (job_id) WHERE waits = 1;
CREATE INDEX job_now_serial ON job_now (job_id) WHERE serial <> '';
CREATE INDEX job_now_went ON job_now (job_id) WHERE outings <> '[]';
