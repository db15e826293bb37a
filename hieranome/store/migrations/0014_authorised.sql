-- How the owner authorised a mailbox (OAuth 2.0): where, where tokens are had, as which client, for what. The tokens
-- themselves are kept with the secrets. Empty where a password or a token of the owner's is used.
ALTER TABLE accounts ADD COLUMN authorise_url TEXT NOT NULL DEFAULT '';
ALTER TABLE accounts ADD COLUMN token_url TEXT NOT NULL DEFAULT '';
ALTER TABLE accounts ADD COLUMN client_id TEXT NOT NULL DEFAULT '';
ALTER TABLE accounts ADD COLUMN scope TEXT NOT NULL DEFAULT '';
