-- Which taps of a pack can be touched without opening it.

ALTER TABLE intake ADD COLUMN outside_taps TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(outside_taps));
