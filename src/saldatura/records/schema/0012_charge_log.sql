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
    SELECT RAISE (ABORT, 'facts are appended, never changed');
END;
CREATE TRIGGER charge_log_no_delete BEFORE DELETE ON charge_log BEGIN
    SELECT RAISE (ABORT, 'facts are appended, never removed');
END;
