-- What mail beyond each age would free, asked with every look at the weigh-in.
CREATE INDEX weekly_by_week ON weekly (kept, week, total, size);
