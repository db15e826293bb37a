"""What the owner writes: drafts and the outbox."""
