"""Following through: what is due, parked, and owed."""
