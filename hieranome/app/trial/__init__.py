"""How good it would have been: a mailbox passed through the model as if it arrived now."""
