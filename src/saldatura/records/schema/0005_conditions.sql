-- What a set of readings was taken under. Sets under load or charge are kept as probe sets with their condition.

ALTER TABLE reading_set ADD COLUMN condition TEXT NOT NULL DEFAULT 'rest'
    CHECK (condition IN ('rest', 'load', 'charging', 'moved'));
ALTER TABLE reading_set ADD COLUMN current_a REAL CHECK (current_a > 0);
ALTER TABLE reading_set ADD COLUMN board TEXT CHECK (board IN ('plugged', 'unplugged'));
