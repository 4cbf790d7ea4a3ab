-- Where a reading was taken: at a connector pin, on the cell's own tab, at a terminal. And how far apart the shop's repeated
-- readings were found to lie when a set was opened.

ALTER TABLE reading ADD COLUMN place TEXT NOT NULL DEFAULT 'pin' CHECK (place IN ('pin', 'tab', 'terminal'));
ALTER TABLE reading_set ADD COLUMN repeat_v REAL CHECK (repeat_v > 0);
