"""What the owner says and what follows from it: verdicts, kin, undo, whom they vouch for."""
