-- One door for facts. Every kind of fact stands in one table, in the order of record, as JSON that its model has checked;
-- readings keep a table of their own for their number. Facts of both count up together, so that order never asks a clock.
-- The facts of earlier tables are carried over in the order in which they happened.

CREATE TABLE fact (
    id INTEGER PRIMARY KEY,
    job_id INTEGER REFERENCES job (id),
    kind TEXT NOT NULL CHECK (length(kind) BETWEEN 1 AND 40),
    at TEXT NOT NULL,
    clock_s REAL CHECK (clock_s >= 0),
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;

-- What was there, each with where it stood: `rank` puts what happened at one moment in the order of work.
CREATE TEMP TABLE old (kind TEXT, old_id INTEGER, job_id INTEGER, at TEXT, clock_s REAL, rank INTEGER, body TEXT);

INSERT INTO old SELECT 'meter', id, NULL, at, NULL, 0,
    json_object('percent', percent, 'digits', digits, 'resolution_v', resolution_v) FROM meter;
INSERT INTO old SELECT 'instrument', id, NULL, at, NULL, 0,
    json_object('kind', kind, 'name', name, 'address', json_object('host', host, 'port', port), 'accuracy',
        json_object('percent', percent, 'digits', digits, 'resolution_v', resolution_v)) FROM instrument;
INSERT INTO old SELECT 'instrument_check', id, NULL, at, NULL, 1,
    json_object('instrument', instrument_id, 'reference', reference, 'shown', shown) FROM instrument_check;
INSERT INTO old SELECT 'instrument_removed', instrument_id, NULL, at, NULL, 2,
    json_object('instrument', instrument_id) FROM instrument_removed;
INSERT INTO old SELECT 'intake', id, job_id, at, NULL, 0,
    json_object('customer', customer, 'pack_name', pack_name, 'serial', serial, 'pack',
        json_object('chemistry', chemistry, 'series', series, 'parallel', parallel, 'rated_ah', rated_ah, 'load_a', load_a),
        'symptoms', json(symptoms), 'note', note, 'outside_taps', json(outside_taps)) FROM intake;
INSERT INTO old SELECT 'safety', id, job_id, at, NULL, 2,
    json_object('swollen', json(iif(swollen, 'true', 'false')), 'leaking', json(iif(leaking, 'true', 'false')),
        'hot', json(iif(hot, 'true', 'false')), 'wet', json(iif(wet, 'true', 'false')),
        'crushed', json(iif(crushed, 'true', 'false')), 'smell', json(iif(smell, 'true', 'false'))) FROM safety;
-- A release of a day that has not come lifts nothing: its time says nothing of order, so it goes first.
INSERT INTO old SELECT 'release', id, job_id, iif(at > strftime('%Y-%m-%d', 'now', '+2 days'), '', at), NULL, 3,
    json_object('by', by, 'reason', reason) FROM release;
INSERT INTO old SELECT 'stage', id, job_id, at, NULL, 4, json_object('stage', stage) FROM stage_step;
INSERT INTO old SELECT 'virtual_pack', id, job_id, at, NULL, 1, json_object('spec', json(spec)) FROM virtual_pack;
INSERT INTO old SELECT 'set', id, job_id, opened_at, clock_s, 5,
    json_object('purpose', iif(condition IN ('load', 'charging'), 'load', purpose), 'rest_since', rest_since,
        'last_current_a', last_current_a, 'meter',
        json_object('percent', percent, 'digits', digits, 'resolution_v', resolution_v, 'repeat_v', repeat_v),
        'condition', condition, 'current_a', current_a, 'board', board) FROM reading_set;
INSERT INTO old SELECT 'reading', id, job_id, at, clock_s, 6, NULL FROM reading;
INSERT INTO old SELECT 'lead', id, job_id, at, NULL, 7, json_object('lead', lead, 'volts', volts) FROM lead_reading;
INSERT INTO old SELECT 'joined', id, job_id, at, NULL, 8,
    json_object('tap', tap, 'lead', lead, 'volts', volts) FROM lead_joined;
INSERT INTO old SELECT 'photo', id, job_id, at, NULL, 7,
    json_object('sha256', sha256, 'width', width, 'height', height, 'caption', caption) FROM photo;
INSERT INTO old SELECT 'pin', photo_pin.id, job_id, photo_pin.at, NULL, 8,
    json_object('photo', photo_id, 'place', json(place), 'x', x, 'y', y)
    FROM photo_pin JOIN photo ON photo.id = photo_id;
INSERT INTO old SELECT iif(json_extract(measure, '$.kind') = 'replaced', 'replaced', 'measure'), id, job_id, at, NULL, 9,
    iif(json_extract(measure, '$.kind') = 'replaced', json_remove(measure, '$.kind'),
        json_object('measure', json(measure))) FROM measure;
INSERT INTO old SELECT 'charge', id, job_id, started_at, clock_s, 10,
    json_object('group', group_no, 'target', target, 'start_v', start_v, 'target_v', target_v, 'current_a', current_a,
        'cutoff_a', cutoff_a, 'forecast_s', forecast_s, 'forecast_low_s', forecast_low_s, 'forecast_high_s',
        forecast_high_s, 'forecast_ah', forecast_ah, 'look_again_s', json(look_again_s)) FROM charge;
INSERT INTO old SELECT 'charge_end', charge_id, job_id, charge_end.at, charge_end.clock_s, 11,
    json_object('charge', charge_id, 'outcome', outcome, 'volts', volts, 'counted_ah', counted_ah)
    FROM charge_end JOIN charge ON charge.id = charge_id;
INSERT INTO old SELECT 'sign_off', job_id, job_id, at, NULL, 12,
    json_object('by', by, 'reason', reason, 'program_version', program_version, 'inputs', json(inputs), 'results',
        json(results)) FROM sign_off;

-- Within a kind the numbers tell the order; between kinds the latest time so far does. New numbers begin above every old
-- one, so that no address of a photo comes to mean another.
CREATE TEMP TABLE moved AS
WITH latest AS (
    SELECT *, max(at) OVER (PARTITION BY kind, job_id ORDER BY old_id) AS when_ FROM old
), above AS (
    SELECT coalesce(max(old_id), 0) AS top FROM old
)
SELECT latest.*, (SELECT top FROM above) + row_number() OVER (ORDER BY when_, rank, old_id) AS id FROM latest;
CREATE INDEX temp.moved_from ON moved (kind, old_id);

INSERT INTO fact (id, job_id, kind, at, clock_s, body)
SELECT id, job_id, kind, at, clock_s, CASE kind
    WHEN 'pin' THEN json_set(body, '$.photo',
        (SELECT m.id FROM moved AS m WHERE m.kind = 'photo' AND m.old_id = json_extract(moved.body, '$.photo')))
    WHEN 'charge_end' THEN json_set(body, '$.charge',
        (SELECT m.id FROM moved AS m WHERE m.kind = 'charge' AND m.old_id = json_extract(moved.body, '$.charge')))
    WHEN 'instrument_check' THEN json_set(body, '$.instrument',
        (SELECT m.id FROM moved AS m WHERE m.kind = 'instrument' AND m.old_id = json_extract(moved.body, '$.instrument')))
    WHEN 'instrument_removed' THEN json_set(body, '$.instrument',
        (SELECT m.id FROM moved AS m WHERE m.kind = 'instrument' AND m.old_id = json_extract(moved.body, '$.instrument')))
    ELSE body END
FROM moved WHERE kind NOT IN ('reading', 'release') ORDER BY id;
-- A release keeps the time it was given, wherever that put it.
INSERT INTO fact (id, job_id, kind, at, clock_s, body)
SELECT moved.id, moved.job_id, 'release', release.at, NULL, body FROM moved JOIN release ON release.id = old_id
WHERE moved.kind = 'release';

CREATE TABLE new_reading (
    id INTEGER PRIMARY KEY,
    job_id INTEGER NOT NULL REFERENCES job (id),
    set_id INTEGER NOT NULL REFERENCES fact (id),
    at TEXT NOT NULL,
    clock_s REAL CHECK (clock_s >= 0),
    kind TEXT NOT NULL,
    from_tap INTEGER,
    to_tap INTEGER,
    volts REAL,
    supersedes INTEGER REFERENCES new_reading (id),
    reason TEXT NOT NULL CHECK (length(reason) <= 200),
    key TEXT NOT NULL,
    source TEXT NOT NULL CHECK (length(source) BETWEEN 1 AND 60),
    place TEXT NOT NULL,
    UNIQUE (job_id, key)
) STRICT;
INSERT INTO new_reading
SELECT m.id, r.job_id, s.id, r.at, r.clock_s, r.kind, r.from_tap, r.to_tap, r.volts, o.id, r.reason, r.key, r.source, r.place
FROM reading AS r
JOIN moved AS m ON m.kind = 'reading' AND m.old_id = r.id
JOIN moved AS s ON s.kind = 'set' AND s.old_id = r.set_id
LEFT JOIN moved AS o ON o.kind = 'reading' AND o.old_id = r.supersedes
ORDER BY m.id;

CREATE TABLE new_state (
    virtual_id INTEGER PRIMARY KEY REFERENCES fact (id),
    saved_at TEXT NOT NULL,
    running INTEGER NOT NULL CHECK (running IN (0, 1)),
    saved TEXT NOT NULL CHECK (json_valid(saved))
) STRICT;
INSERT INTO new_state SELECT m.id, saved_at, running, saved FROM virtual_state
JOIN moved AS m ON m.kind = 'virtual_pack' AND m.old_id = virtual_id;

CREATE TABLE new_sample (
    id INTEGER PRIMARY KEY,
    virtual_id INTEGER NOT NULL REFERENCES fact (id),
    at TEXT NOT NULL,
    clock_s REAL NOT NULL,
    volts REAL NOT NULL,
    amps REAL NOT NULL,
    celsius REAL NOT NULL
) STRICT;
INSERT INTO new_sample SELECT live_sample.id, m.id, live_sample.at, live_sample.clock_s, volts, amps, celsius FROM live_sample
JOIN moved AS m ON m.kind = 'virtual_pack' AND m.old_id = virtual_id ORDER BY live_sample.id;

DROP TABLE job_now;
DROP TABLE reading;
DROP TABLE reading_set;
DROP TABLE charge_end;
DROP TABLE charge;
DROP TABLE photo_pin;
DROP TABLE photo;
DROP TABLE live_sample;
DROP TABLE virtual_state;
DROP TABLE virtual_pack;
DROP TABLE instrument_check;
DROP TABLE instrument_removed;
DROP TABLE instrument;
DROP TABLE intake;
DROP TABLE safety;
DROP TABLE release;
DROP TABLE stage_step;
DROP TABLE meter;
DROP TABLE sign_off;
DROP TABLE lead_reading;
DROP TABLE lead_joined;
DROP TABLE measure;
DROP TABLE moved;
DROP TABLE old;
ALTER TABLE new_reading RENAME TO reading;
ALTER TABLE new_state RENAME TO virtual_state;
ALTER TABLE new_sample RENAME TO live_sample;

CREATE INDEX fact_job ON fact (job_id, id);
CREATE INDEX fact_kind ON fact (kind, id);
CREATE INDEX reading_set ON reading (set_id, id);
CREATE INDEX reading_again ON reading (supersedes) WHERE supersedes IS NOT NULL;
CREATE INDEX live_sample_of ON live_sample (virtual_id, id);

CREATE TRIGGER fact_no_update BEFORE UPDATE ON fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: fact');
END;

CREATE TRIGGER fact_no_delete BEFORE DELETE ON fact BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: fact');
END;

CREATE TRIGGER reading_no_update BEFORE UPDATE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;

CREATE TRIGGER reading_no_delete BEFORE DELETE ON reading BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: reading');
END;

CREATE TRIGGER live_sample_no_update BEFORE UPDATE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;

CREATE TRIGGER live_sample_no_delete BEFORE DELETE ON live_sample BEGIN
    SELECT raise(ABORT, 'facts are appended, never changed: live_sample');
END;

-- Where each job stands and what lists show of it, written by the program with every fact from the one function that tells
-- it. It holds nothing that the facts do not say; dropping and refilling it loses nothing.
CREATE TABLE job_now (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    last_id INTEGER NOT NULL,
    standing TEXT NOT NULL,
    waits INTEGER NOT NULL CHECK (waits IN (0, 1)),
    touched_at TEXT NOT NULL,
    customer TEXT NOT NULL,
    pack_name TEXT NOT NULL,
    serial TEXT NOT NULL,
    words TEXT NOT NULL,
    pack TEXT NOT NULL CHECK (json_valid(pack)),
    simulated INTEGER NOT NULL CHECK (simulated IN (0, 1))
) STRICT;
CREATE INDEX job_now_order ON job_now (standing = 'done', touched_at DESC);
CREATE INDEX job_now_standing ON job_now (standing, touched_at DESC);
CREATE INDEX job_now_waits ON job_now (job_id) WHERE waits = 1;
