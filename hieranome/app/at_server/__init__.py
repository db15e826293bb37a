"""Rules and the away notice at the server of a mailbox, as a Sieve script."""
