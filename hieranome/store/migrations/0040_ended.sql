-- What was said for always and holds no more: of a sender, list or domain, up to its newest lesson then. The lessons stay
-- in the model; undoing the step lets them hold again.
CREATE TABLE ended (
    step INTEGER NOT NULL REFERENCES steps (id) ON DELETE CASCADE,
    reach TEXT NOT NULL,
    key TEXT NOT NULL,
    lesson INTEGER NOT NULL,
    PRIMARY KEY (step, reach, key)
) STRICT, WITHOUT ROWID;
CREATE INDEX ended_by_key ON ended (reach, key, lesson);
