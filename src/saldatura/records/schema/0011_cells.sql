-- The drawer: cells by name, and what is told of them. A place is a fact that follows exactly one earlier place of the same cell,
-- and nothing follows twice: no cell can be in two places, whoever writes.

CREATE TABLE cell (
    id INTEGER PRIMARY KEY,
    name TEXT NOT NULL CHECK (length(name) BETWEEN 1 AND 40),
    -- As it is looked up: in any case.
    folded TEXT NOT NULL UNIQUE
) STRICT;

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

-- A place follows a place: what a cell came as, or where it was moved, never a test.
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

CREATE TRIGGER cell_no_update BEFORE UPDATE ON cell BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell');
END;

CREATE TRIGGER cell_no_delete BEFORE DELETE ON cell BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: cell');
END;
