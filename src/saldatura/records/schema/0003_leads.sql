-- Loose balance leads: what each read against the reference lead, and the pins read again after each was joined.

CREATE TABLE lead_reading (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    lead TEXT NOT NULL CHECK (length(lead) BETWEEN 1 AND 40),
    volts REAL CHECK (volts BETWEEN -1000 AND 1000)
) STRICT;
CREATE INDEX lead_reading_job ON lead_reading (job_id, id);

CREATE TABLE lead_joined (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    tap INTEGER NOT NULL CHECK (tap BETWEEN 0 AND 40),
    lead TEXT NOT NULL CHECK (length(lead) BETWEEN 1 AND 40),
    volts REAL NOT NULL CHECK (volts BETWEEN -1000 AND 1000)
) STRICT;
CREATE INDEX lead_joined_job ON lead_joined (job_id, id);

CREATE TRIGGER lead_reading_no_update BEFORE UPDATE ON lead_reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: lead_reading');
END;

CREATE TRIGGER lead_reading_no_delete BEFORE DELETE ON lead_reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: lead_reading');
END;

CREATE TRIGGER lead_joined_no_update BEFORE UPDATE ON lead_joined BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: lead_joined');
END;

CREATE TRIGGER lead_joined_no_delete BEFORE DELETE ON lead_joined BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: lead_joined');
END;

CREATE TRIGGER lead_reading_now AFTER INSERT ON lead_reading BEGIN
    UPDATE job_now SET touched_at = NEW.at WHERE job_id = NEW.job_id;
END;

CREATE TRIGGER lead_joined_now AFTER INSERT ON lead_joined BEGIN
    UPDATE job_now SET touched_at = NEW.at WHERE job_id = NEW.job_id;
END;
