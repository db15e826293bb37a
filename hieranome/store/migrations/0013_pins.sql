-- The fingerprints of the certificates the owner trusts a mailbox's servers by; empty where the system decides.
ALTER TABLE accounts ADD COLUMN imap_pin TEXT NOT NULL DEFAULT '';
ALTER TABLE accounts ADD COLUMN smtp_pin TEXT NOT NULL DEFAULT '';
