-- Jobs that another shop's file brought in: when, and the last fact of theirs. What was signed until then was signed elsewhere, and cells
-- that were named until then are that shop's.
CREATE TABLE brought_in (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    at TEXT NOT NULL,
    last_id INTEGER NOT NULL
) STRICT;
CREATE TRIGGER brought_in_no_update BEFORE UPDATE ON brought_in BEGIN
    SELECT RAISE (ABORT, 'facts are appended, never changed');
END;
CREATE TRIGGER brought_in_no_delete BEFORE DELETE ON brought_in BEGIN
    SELECT RAISE (ABORT, 'facts are appended, never removed');
END;
