"""Small simulated services that ship, so that everything runs without a network."""
