-- How much came from a domain since a time is counted without reading all mail.
CREATE INDEX messages_by_domain ON messages (sender_domain, time);
