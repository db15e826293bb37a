-- What rules did lately is found without reading all they ever did.
CREATE INDEX rule_hits_by_time ON rule_hits (at);
