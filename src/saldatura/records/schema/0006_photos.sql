-- Photos of opened packs and boards, and the pins on them. The pictures lie in a folder beside the data file.

CREATE TABLE photo (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    at TEXT NOT NULL,
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    width INTEGER NOT NULL CHECK (width > 0),
    height INTEGER NOT NULL CHECK (height > 0),
    caption TEXT NOT NULL CHECK (length(caption) <= 80)
) STRICT;
CREATE INDEX photo_job ON photo (job_id, id);

CREATE TABLE photo_pin (
    id INTEGER PRIMARY KEY,
    photo_id INTEGER NOT NULL REFERENCES photo (id),
    at TEXT NOT NULL,
    place TEXT NOT NULL CHECK (json_valid(place)),
    x REAL CHECK (x BETWEEN 0 AND 1),
    y REAL CHECK (y BETWEEN 0 AND 1),
    CHECK ((x IS NULL) = (y IS NULL))
) STRICT;
CREATE INDEX photo_pin_photo ON photo_pin (photo_id, id);

CREATE TRIGGER photo_no_update BEFORE UPDATE ON photo BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: photo');
END;

CREATE TRIGGER photo_no_delete BEFORE DELETE ON photo BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: photo');
END;

CREATE TRIGGER photo_pin_no_update BEFORE UPDATE ON photo_pin BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: photo_pin');
END;

CREATE TRIGGER photo_pin_no_delete BEFORE DELETE ON photo_pin BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: photo_pin');
END;

CREATE TRIGGER photo_now AFTER INSERT ON photo BEGIN
    UPDATE job_now SET touched_at = NEW.at WHERE job_id = NEW.job_id;
END;
