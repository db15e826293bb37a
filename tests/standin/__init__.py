"""The simulated services."""
