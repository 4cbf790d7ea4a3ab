-- What each signed job took, written with its sign-off from the one function that tells it. It holds nothing that the facts do not say;
-- dropping and refilling it loses nothing.
CREATE TABLE job_took (
    job_id INTEGER PRIMARY KEY REFERENCES job (id),
    last_id INTEGER NOT NULL,
    signed_at TEXT NOT NULL,
    pattern TEXT NOT NULL,
    body TEXT NOT NULL CHECK (json_valid(body))
) STRICT;
CREATE INDEX job_took_signed ON job_took (signed_at);
-- Where jobs stand is noted anew, and what they took with it.
DELETE FROM job_now;
