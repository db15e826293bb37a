"""Who may come in, and where secrets are kept."""
