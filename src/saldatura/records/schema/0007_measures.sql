-- Measures beside the readings: resistances, sensors, the power path, capacity, wiggle tests.

CREATE TABLE measure (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    measure TEXT NOT NULL CHECK (json_valid(measure))
) STRICT;
CREATE INDEX measure_job ON measure (job_id, id);

CREATE TRIGGER measure_no_update BEFORE UPDATE ON measure BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: measure');
END;

CREATE TRIGGER measure_no_delete BEFORE DELETE ON measure BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: measure');
END;

CREATE TRIGGER measure_now AFTER INSERT ON measure BEGIN
    UPDATE job_now SET touched_at = NEW.at WHERE job_id = NEW.job_id;
END;
