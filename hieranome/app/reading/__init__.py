"""What is read of a message, and what is known of it for sure before anything is decided."""
