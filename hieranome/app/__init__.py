"""Use cases: the only place where the core, mail and the store meet."""
