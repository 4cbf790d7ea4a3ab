-- What the program switched on or wants off: appended, never changed. An instrument whose last line is not 'off' may be on, whatever
-- became of the program or of the charge since. `by`: somebody saw with their own eyes that it is off.
CREATE TABLE switched (
    id INTEGER PRIMARY KEY,
    at TEXT NOT NULL,
    host TEXT NOT NULL,
    port INTEGER NOT NULL CHECK (port BETWEEN 1 AND 65535),
    name TEXT NOT NULL,
    drives TEXT NOT NULL CHECK (drives IN ('output', 'load')),
    job_id INTEGER NOT NULL REFERENCES job (id),
    charge_id INTEGER,
    charged_group INTEGER,
    state TEXT NOT NULL CHECK (state IN ('on', 'off_wanted', 'off')),
    by TEXT NOT NULL DEFAULT ''
) STRICT;
CREATE INDEX switched_last ON switched (host, port, id);
CREATE TRIGGER switched_no_update BEFORE UPDATE ON switched BEGIN
    SELECT RAISE (ABORT, 'facts are appended, never changed');
END;
CREATE TRIGGER switched_no_delete BEFORE DELETE ON switched BEGIN
    SELECT RAISE (ABORT, 'facts are appended, never removed');
END;
