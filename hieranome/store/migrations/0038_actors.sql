-- Who did each step, and who marked each message read.
ALTER TABLE steps ADD COLUMN actor TEXT NOT NULL DEFAULT 'owner';
UPDATE steps SET actor = CASE
    WHEN kind = 'elsewhere' THEN 'elsewhere'
    WHEN kind IN ('rule', 'aged', 'served') THEN 'rule'
    WHEN kind = 'routine' THEN 'routine'
    ELSE 'model' END
WHERE kind IN ('elsewhere', 'rule', 'aged', 'served', 'routine', 'learned', 'returned', 'unreadable', 'let go');
ALTER TABLE messages ADD COLUMN seen_by TEXT NOT NULL DEFAULT 'elsewhere';
