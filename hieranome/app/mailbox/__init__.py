"""Mailboxes on servers: connected, read, watched, carried to and from, left."""
